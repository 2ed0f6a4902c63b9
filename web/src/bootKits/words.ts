import type { Schema } from '../api/client';

/** What a component is, in words. */
export const parts: Record<Schema['KitPart'], string> = {
  bootManager: 'boot manager',
  fileSystem: 'file system',
  runtime: 'runtime',
  baseShim: 'base',
  controller: 'controller',
  graphics: 'graphics',
  audio: 'sound',
  network: 'network',
  input: 'input',
  powerTable: 'power table',
};
