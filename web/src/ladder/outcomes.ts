import type { components } from '../api/schema';

export type Outcome = components['schemas']['Outcome'];

/**
 * What each outcome looks like and says, from best to worst; its shape stands in RungShape, its colour in theme.css. Tailwind
 * looks for whole class names, so each ink stands here once. Hands: who is looked after first on the bench, 0 before all.
 */
const table: Record<Outcome, { ink: string; says: string; hands: number }> = {
  clear: { ink: 'text-clear', says: 'Holds as it is.', hands: 8 },
  caveat: {
    ink: 'text-caveat',
    says: 'Goes, with something to know: slower than one would like, or a notice to pass.',
    hands: 7,
  },
  setting: {
    ink: 'text-setting',
    says: 'A switch in the firmware or the system. Look here first.',
    hands: 1,
  },
  driver: { ink: 'text-driver', says: 'A driver to add.', hands: 2 },
  part: { ink: 'text-part', says: 'A part to fit.', hands: 3 },
  patch: { ink: 'text-patch', says: 'The installer is changed so that the gate does not check.', hands: 4 },
  spoof: {
    ink: 'text-spoof',
    says: 'The machine tells the installer that it is a later model of its line.',
    hands: 5,
  },
  reflash: { ink: 'text-reflash', says: 'The firmware is replaced.', hands: 6 },
  unknown: { ink: 'text-unknown', says: 'Nobody has measured it. One look may settle it.', hands: 0 },
  wall: { ink: 'text-wall', says: 'Nothing lifts it.', hands: 9 },
};

/** From best to worst. */
export const outcomes = Object.keys(table) as Outcome[];

const column = <T>(of: (row: (typeof table)[Outcome]) => T) =>
  Object.fromEntries(outcomes.map((o) => [o, of(table[o])])) as Record<Outcome, T>;

/** The class that gives a text the colour of an outcome. */
export const inkOf = column((row) => row.ink);
/** What an outcome means. */
export const saysOf = column((row) => row.says);
/** Hands are wanted first where something calls, last where there is no way up. */
export const handsOf = column((row) => row.hands);
