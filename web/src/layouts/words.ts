import type { Schema } from '../api/client';

const names: Record<Schema['PartitionUse'], string> = {
  efi: 'EFI system',
  biosBoot: 'BIOS boot',
  boot: 'boot',
  system: 'system',
  home: 'files',
  swap: 'swap',
  data: 'data',
  recovery: 'recovery',
  kept: 'stays',
  extended: 'extended',
};

/** What a partition is for, in a word or two. */
export const nameOf = (use: Schema['PartitionUse']) => names[use];
