import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { MeasureNext } from './MeasureNext';
import { Wanted } from './Wanted';

const measurement = (key: string, how: string, more: object = {}) => ({
  key,
  label: key,
  how,
  text: how,
  minutes: 2,
  systems: 3,
  settles: 0,
  conflict: false,
  decides: [],
  ...more,
});

const next = async (all: object[]) => {
  serve({
    'GET /api/machines/MR-0404/next-measurements': all,
    'GET /api/systems': [{ id: 'a' }],
    'GET /api/fact-keys': [],
  });
  show(<MeasureNext tag="MR-0404" most={5} />, '/machines/MR-0404/systems');
  return (await screen.findByTestId('measure-next')).textContent;
};

test('what one act reads together is told once, but two readings that differ are settled each', async () => {
  const text = await next([
    measurement('memory', 'Run the probe.'),
    measurement('drive', 'Run the probe.'),
    measurement('board', 'Run the probe.', { conflict: true }),
    measurement('battery', 'Look at it.', { systems: 0, settles: 1 }),
  ]);
  expect(text).toContain('memory · 2 min · decides 3 of 1 system');
  expect(text).not.toContain('drive');
  expect(text).toContain('Settle: board');
  expect(text).toContain('settles 1 open question');
});

test('where nothing that is open changes a verdict, that is said', async () => {
  expect(await next([])).toBe('Nothing that is still open would change a verdict.');
});

const order = (name: string, missing: number) => ({
  order: { id: name, name, about: '' },
  missing,
  models: [],
  processors: [],
  parts: [],
});
const atDoor = (name: string, more: object) => ({
  order: name,
  model: {
    model: 'stile-14',
    name: 'Stile 14',
    text: 'It serves the order.',
    upTo: 0,
    system: null,
    ...more,
  },
});

test('at the door nothing is paid for an order that has its machines, and a gift is one only where it serves', async () => {
  serve({
    'GET /api/wanted': [order('Seed Library', 0), order('Rowing Club', 1), order('Choir', 0)],
    'GET /api/wanted/check': [
      atDoor('Seed Library', { upTo: 4000, system: 'tessaly-6-r2' }),
      atDoor('Rowing Club', { upTo: 4000, system: 'tessaly-6-r2' }),
      atDoor('Other', { system: 'tessaly-6-r2' }),
      atDoor('Another', {}),
    ],
  });
  show(<Wanted />, '/wanted');
  expect((await screen.findByRole('heading', { level: 1 })).textContent).toBe('1 machine wanted.');
  await userEvent.type(screen.getByLabelText(/At the door/), 'Stile 14');
  const lines = (await screen.findByRole('list', { name: 'At the door' })).querySelectorAll('li');
  expect([...lines].map((l) => l.querySelector('b')?.textContent)).toEqual([
    'no',
    expect.stringMatching(/40/),
    'a gift',
    'no',
  ]);
  expect(lines[0]?.textContent).toContain('Seed Library has its machines.');
});
