import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { SoundnessPanel } from './SoundnessPanel';

const part = (verdict: string, reasons: string[] = []) => ({
  verdict,
  reasons: reasons.map((text) => ({ text, verdict, source: 'the probe' })),
});

test('what nobody measured is untested and never sound, with what is missing to know it', async () => {
  serve({
    'GET /api/machines/MR-0404/soundness': {
      stops: [{ text: 'The battery is swollen: it is not charged and not pressed.' }],
      drives: [
        { index: 0, model: 'Sill S128', ...part('replace', ['12 reallocated sectors']) },
        { index: 1, model: 'Sill S256', ...part('unknown') },
      ],
      battery: part('unknown'),
      modules: [],
      memory: part('sound', ['one full pass']),
      other: part('unknown'),
      ports: [],
    },
    'GET /api/machines/MR-0404/memory-upgrades': { upgrades: [] },
    'GET /api/machines/MR-0404/photos': [],
  });
  show(<SoundnessPanel tag="MR-0404" />, '/machines/MR-0404/parts');
  expect((await screen.findByRole('alert')).textContent).toContain('swollen');
  const row = (name: string) => screen.getByRole('rowheader', { name }).closest('tr')?.textContent;
  expect(row('Drive')).toContain('replaceSill S128 · 12 reallocated sectors');
  expect(row('Drive 2')).toContain('untestedSill S256 · its health was not read');
  expect(row('Battery')).toBe('Batteryuntestednobody looked');
  expect(row('Memory')).toContain('soundone full pass');
});
