import type { Schema } from '../api/client';

/** Bytes as makers print them, and binary beside it where the two differ much. */
export function bytesText(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`;
  const units = ['kB', 'MB', 'GB', 'TB'];
  let value = bytes;
  let unit = -1;
  while (value >= 999.5 && unit < units.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${value >= 100 ? value.toFixed(0) : value.toFixed(1)} ${units[unit] ?? ''}`;
}

/** "about 25 min", "about 40 s". */
export function timeText(seconds: number): string {
  if (seconds < 1) return 'at once';
  if (seconds < 90) return `about ${seconds} s`;
  if (seconds < 5400) return `about ${Math.round(seconds / 60)} min`;
  return `about ${(seconds / 3600).toFixed(1)} h`;
}

export const startNames: readonly [key: keyof Schema['Starts'], name: string][] = [
  ['biosDisc', 'BIOS disc'],
  ['biosStick', 'BIOS stick'],
  ['uefi64Disc', 'UEFI disc'],
  ['uefi64Stick', 'UEFI stick'],
  ['uefi32', 'UEFI 32'],
  ['arm64', 'ARM 64'],
];

export const trustNames: Record<string, string> = {
  maker: 'the maker',
  community: 'a community',
  thirdParty: 'a third party',
  own: 'this shop',
};

export const firmwareNames: Record<string, string> = { bios: 'BIOS', uefi64: 'UEFI', uefi32: '32-bit UEFI' };

export const verdicts: Record<string, { word: string; outcome: 'clear' | 'wall' | 'caveat' | 'unknown' }> = {
  letIn: { word: 'accepted', outcome: 'clear' },
  refused: { word: 'refused', outcome: 'wall' },
  loader: { word: 'loader reached', outcome: 'caveat' },
  nothing: { word: 'nothing started', outcome: 'wall' },
};
