/** Minutes that the workshop's wall clock is ahead of UTC; this browser's own until the server has said its time. */
let ahead = -new Date().getTimezoneOffset();

/** Learns the workshop's zone from its time, "2026-11-26T18:40:00+01:00": what every page shows is that wall clock. */
export function learnZone(now: string) {
  const [, sign, hours, minutes] = /([+-])(\d{2}):(\d{2})$/.exec(now) ?? [];
  ahead = sign ? (sign === '-' ? -1 : 1) * (Number(hours) * 60 + Number(minutes)) : 0;
}

const wall = (iso: string) => new Date(Date.parse(iso) + ahead * 60_000);

/** "18:40", as the workshop's wall clock shows it. */
export const clockTime = (iso: string) => wall(iso).toISOString().slice(11, 16);

/** "2026-11-26", the workshop's day. */
export const dayOf = (iso: string) => wall(iso).toISOString().slice(0, 10);

/** "2026-11-26 18:40". */
export const dayAndTime = (iso: string) => `${dayOf(iso)} ${clockTime(iso)}`;

/** A day, "2026-11-26", in words: "26 Nov 2026" unless other parts of it are asked for. */
export const dayInWords = (
  day: string,
  parts: Intl.DateTimeFormatOptions = { day: 'numeric', month: 'short', year: 'numeric' },
) => new Date(`${day}T00:00:00Z`).toLocaleDateString('en-GB', { timeZone: 'UTC', ...parts });
