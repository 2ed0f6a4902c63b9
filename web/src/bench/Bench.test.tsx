import { screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { Bench } from './Bench';

const now = Date.parse('2026-12-01T12:00:00Z');
beforeEach(() => {
  Object.defineProperty(navigator, 'userActivation', { value: { hasBeenActive: false }, configurable: true });
});
afterEach(() => {
  document.title = '';
});

const at = (minutes: number) => new Date(now + minutes * 60_000).toISOString();
const machine = (bay: number | null, more: object = {}) => ({
  tag: `MR-040${bay ?? 9}`,
  model: 'Stile 14',
  bay,
  rungs: [],
  outcome: 'setting',
  aim: 'tessaly-6-r2',
  due: null,
  order: null,
  left: null,
  run: null,
  next: { rung: 'setup', text: 'Look at the board.', outcome: 'setting' },
  ...more,
});
const run = (more: object) => ({
  rung: 'setup',
  step: 'Start it. Then wait.',
  at: 3,
  of: 9,
  usualMinutes: 5,
  with: 'Pim',
  open: [],
  note: null,
  stopped: false,
  paused: null,
  waiting: null,
  finishedAt: null,
  ahead: null,
  ...more,
});
const waiting = (usual: number, worry: number) => ({
  begunAt: at(-30),
  usualAt: at(usual),
  worryAt: at(worry),
});

const heading = async (machines: object[], troubles: object[] = []) => {
  serve({
    'GET /api/machines': machines,
    'GET /api/systems': [],
    'GET /api/bench': [],
    'GET /api/plans': { now: [] },
    'GET /api/health': { now: at(0), troubles },
  });
  show(<Bench />, '/');
  return (await screen.findByRole('heading', { level: 1 })).textContent;
};

test('a wait that is over comes before a stop, and a stop before a step', async () => {
  expect(
    await heading([
      machine(1, { run: run({}) }),
      machine(2, { run: run({ stopped: true }) }),
      machine(3, { run: run({ waiting: waiting(-1, 20) }) }),
    ]),
  ).toBe('Bay 3: look: the wait should be over.');
});

test('one that waits far too long says so', async () => {
  expect(await heading([machine(4, { run: run({ waiting: waiting(-40, -10) }) })])).toBe(
    'Bay 4: worry: it waits far too long.',
  );
});

test('while every bay waits nobody is sent anywhere', async () => {
  expect(await heading([machine(1, { run: run({ waiting: waiting(10, 30) }) })])).toBe(
    'Every bay waits. Hands are free.',
  );
});

test('what is paused asks for nobody, and what fails by itself is told first', async () => {
  expect(
    await heading(
      [machine(1, { run: run({ paused: 'waits for a part' }) })],
      [{ about: 'backup', says: 'No back-up could be made by itself.', at: at(0) }],
    ),
  ).toBe('Every bay waits. Hands are free.');
  expect(screen.getByRole('alert').textContent).toBe('No back-up could be made by itself.');
});

test('shelf and door count who waits, and who is done', async () => {
  await heading([machine(null), machine(null, { tag: 'MR-0408', run: run({ finishedAt: at(-60) }) })]);
  expect(screen.getByText('Shelf · 1 waits')).toBeTruthy();
  expect(screen.getByText('Door · 1 done')).toBeTruthy();
});
