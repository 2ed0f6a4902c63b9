import { describe, expect, it } from 'vitest';
import type { Schema } from '../api/client';
import { factText, inConflict, labelOf, moneyText, systemName } from './facts';

const definition = (key: string, more: Partial<Schema['FactDefinition']>): Schema['FactDefinition'] => ({
  key,
  label: key,
  form: 'whole',
  unit: null,
  detail: false,
  min: null,
  max: null,
  choices: [],
  rung: 'kernel',
  howToMeasure: '',
  minutes: 1,
  derived: false,
  indexed: false,
  ordered: false,
  atMost: null,
  longest: 200,
  lines: false,
  ...more,
});

const keys = [
  definition('memory.installedMiB', { unit: 'MiB' }),
  definition('storage.0.sizeBytes', { unit: 'B', label: 'Drive size', indexed: true }),
  definition('cpu.wordBits', {}),
  definition('tpm.version', { form: 'choice', choices: [{ value: 'off', meaning: 'there, switched off' }] }),
];

describe('a fact as people read it', () => {
  it.each([
    ['memory.installedMiB', 4096, '4 GiB'],
    ['memory.installedMiB', 1536, '1.5 GiB'],
    ['memory.installedMiB', 512, '512 MiB'],
    ['storage.0.sizeBytes', 128_035_676_160, '128 GB'],
    ['storage.0.sizeBytes', 8_012_390_400, '8 GB'],
    ['storage.1.sizeBytes', 1_000_204_886_016, '1 TB'],
    ['cpu.wordBits', 64, '64-bit'],
    ['tpm.version', 'off', 'there, switched off'],
    ['tpm.version', 'something new', 'something new'],
    ['cpu.flags', ['sse2', 'lm'], '2 flags'],
  ])('%s %s', (key, value, text) => {
    expect(factText({ key, value }, keys)).toBe(text);
  });

  it('numbers the second of a kind', () => {
    expect(labelOf('storage.0.sizeBytes', keys)).toBe('Drive size');
    expect(labelOf('storage.1.sizeBytes', keys)).toBe('Drive size 2');
  });

  it('is in conflict until somebody chooses', () => {
    const fact = { origin: 'probed', disagreeing: [{}] } as unknown as Schema['Fact'];
    expect(inConflict(fact)).toBe(true);
    expect(inConflict({ ...fact, origin: 'chosen' })).toBe(false);
    expect(inConflict({ ...fact, disagreeing: [] })).toBe(false);
  });
});

describe('names and money', () => {
  it('names a system as the catalogue does, and nothing as nothing', () => {
    expect(systemName({ fullName: 'Tessaly 6, release 2' } as Schema['SystemEntry'])).toBe(
      'Tessaly 6, release 2',
    );
    expect(systemName(undefined)).toBe('');
  });

  it('writes marks with two places', () => {
    expect(moneyText(1400)).toBe('M 14.00');
    expect(moneyText(1250)).toBe('M 12.50');
  });
});
