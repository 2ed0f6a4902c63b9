import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { DuePage } from './DuePage';
import { StayPanel } from './StayPanel';

const due = (on: string, what: string) => ({
  id: what,
  on,
  what,
  why: 'so it is',
  kind: 'supportEnds',
  tag: null,
});

test.each([
  [[due('2026-12-02', 'Tessaly 6')], 'Tessaly 6, in 1 day.'],
  [[due('2026-12-01', 'Tessaly 6')], 'Tessaly 6, today.'],
  [[due('2026-12-11', 'Tessaly 6')], 'Tessaly 6, in 10 days.'],
  [[due('2026-11-30', 'late'), due('2026-12-11', 'Tessaly 6')], '1 overdue.'],
  [[], 'Nothing falls due.'],
])('what comes next is said in days', async (all, heading) => {
  serve({ 'GET /api/due': { due: all, today: '2026-12-01', left: 1 }, 'GET /api/canaries': [] });
  show(<DuePage />, '/due');
  expect((await screen.findByRole('heading', { level: 1 })).textContent).toBe(heading);
});

const stay = (more: object) => ({
  begun: false,
  backAt: null,
  daysAway: 0,
  leftAt: '2026-11-20T10:00:00Z',
  finishedAt: '2026-11-19T10:00:00Z',
  system: 'Tessaly 6',
  by: 'Pim',
  changed: [],
  since: [],
  asks: [],
  told: [],
  ...more,
});
const panel = (left: boolean, answer: object) => {
  serve({ 'GET /api/machines/MR-0404/stay': answer });
  const facts = left ? [{ key: 'handover.left', value: 'yes' }] : [];
  show(<StayPanel sheet={{ tag: 'MR-0404', facts } as never} />, '/machines/MR-0404/systems');
};

test('what came back is asked anew: what was said before says nothing of whoever brings it', async () => {
  panel(true, stay({ backAt: '2026-11-21T10:00:00Z', daysAway: 1, asks: ['Whose is it?'] }));
  expect((await screen.findByRole('heading', { level: 2 })).textContent).toBe('It is back, after one day.');
  expect(screen.getByText('Whose is it?')).toBeTruthy();
  expect(screen.getByText(/what is on it now is theirs/)).toBeTruthy();
});

test('what is away is not asked anything yet', async () => {
  panel(true, stay({ asks: ['Whose is it?'] }));
  expect(await screen.findByRole('button', { name: 'It came back' })).toBeTruthy();
  expect(screen.queryByText('Whose is it?')).toBeNull();
});

test('what never left says nothing of it', async () => {
  panel(false, stay({}));
  await screen.findByTestId('where');
  expect(screen.queryByRole('region', { name: 'It was away' })).toBeNull();
});
