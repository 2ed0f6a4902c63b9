import type { components } from '../api/schema';

export type RungName = components['schemas']['Rung'];

/** The ten rungs, bottom first, and when each holds. */
export const rungs: readonly { name: RungName; holds: string }[] = [
  { name: 'release', holds: 'owner’s leave given, not managed, data decided' },
  { name: 'parts', holds: 'powers on; memory, storage, battery, ports sound' },
  { name: 'firmware', holds: 'mode, switches, TPM, Secure Boot, write-protection as the plan needs' },
  { name: 'medium', holds: 'this firmware can start this stick, disc or card' },
  { name: 'setup', holds: 'the installer’s own checks let the machine in' },
  { name: 'disk', holds: 'the layout fits, and the firmware can reach the boot files' },
  { name: 'kernel', holds: 'word size, instruction sets, real memory' },
  { name: 'devices', holds: 'a driver for each device that matters' },
  { name: 'use', holds: 'programs and speed suit the person' },
  { name: 'upkeep', holds: 'updates come, and until when' },
];

export const isRung = (name: string | null): name is RungName => rungs.some((r) => r.name === name);

/** Height of a rung's place on every page, in px. */
export const pitch = 52;
