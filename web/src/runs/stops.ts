import type { Schema } from '../api/client';
import type { Run } from './run';

type Step = Schema['Step'];

/** Where a run stands among its stops. */
export interface Place {
  stop: Schema['Stop'];
  /** From 1. */
  number: number;
  of: number;
  /** The lines of the stop, and which of them is in hand. */
  lines: Step[];
  line: number;
}

/** The stop of a step; a step of a branch belongs to the line that branches. Null where nothing is left to do. */
export function placeOf(run: Run, step: Step | undefined): Place | null {
  let main = step;
  while (main?.on) {
    const parent = main.on.step;
    main = run.steps.find((s) => s.id === parent);
  }
  if (!main) return null;
  const id = main.id;
  const at = run.stops.findIndex((s) => s.steps.includes(id));
  const stop = run.stops[at];
  if (!stop) return null;
  const lines = stop.steps.flatMap((s) => run.steps.find((step) => step.id === s) ?? []);
  return { stop, number: at + 1, of: run.stops.length, lines, line: lines.indexOf(main) };
}

/** Whether a line is ticked by a key alone: it is plain, and what it uses is there. */
export function isPlain(run: Run, step: Step): boolean {
  return step.isPlain && step.uses.every((id) => run.items.some((i) => i.id === id && i.holds));
}

const key = 'fresh-boot-short';

/** Whether this computer shows sheets in short. */
export const isShort = () => localStorage.getItem(key) === 'yes';

/** Keeps that it does. */
export const keepShort = (short: boolean) => {
  if (short) localStorage.setItem(key, 'yes');
  else localStorage.removeItem(key);
};
