import { clockTime } from '../shell/time';

/** A chance as a person says it: no more digits than anybody knows. */
export const chanceText = (chance: number) =>
  chance <= 0
    ? '0 %'
    : chance < 0.001
      ? 'under 0.1 %'
      : chance < 0.1
        ? `${(chance * 100).toFixed(1)} %`
        : chance > 0.99 && chance < 1
          ? 'over 99 %'
          : `${Math.round(chance * 100)} %`;

/** Minutes as "2 h 40". */
export const timeText = (minutes: number) =>
  minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')}`;

/** A moment on the workshop's wall clock, to five minutes. */
export const clockNow = (moment: string) => {
  const now = clockTime(moment);
  return `${now.slice(0, 3)}${String(Math.floor(Number(now.slice(3)) / 5) * 5).padStart(2, '0')}`;
};

/** A time of the clock so many minutes later; "+1 d" where that is another day. */
export const addMinutes = (clock: string, minutes: number) => {
  const all = Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3, 5)) + minutes;
  const days = Math.floor(all / 1440);
  const text = `${String(Math.floor((all % 1440) / 60)).padStart(2, '0')}:${String(all % 60).padStart(2, '0')}`;
  return days > 0 ? `${text} +${days} d` : text;
};

/** By how many minutes a share of the walks is done; `by` has one number for each twentieth. */
export const doneBy = (by: readonly number[], share: number) =>
  by[Math.min(by.length - 1, Math.max(0, Math.ceil(share * by.length) - 1))] ?? 0;

/** Whether a text is a time of the clock, "15:05". */
export const isClock = (text: string) => /^([01]\d|2[0-3]):[0-5]\d$/.test(text);
