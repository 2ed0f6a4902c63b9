import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { Find } from './Find';

const machine = (n: number) => ({
  tag: `MR-${String(n).padStart(4, '0')}`,
  maker: 'Brackwater',
  model: 'Stile 14',
  rungs: [],
  outcome: 'clear',
  aim: 'tessaly-6-r2',
  bay: null,
  run: null,
  order: null,
  next: { text: 'Begin.' },
});

const page = (count: number, at = '/find') => {
  const asked = serve({
    'GET /api/machines': Array.from({ length: count }, (_, i) => machine(i + 1)),
    'GET /api/systems': [],
    'GET /api/health': { now: '2026-12-01T12:00:00Z', troubles: [] },
  });
  show(<Find />, at);
  return asked;
};

test('a scanned list is picked, each tag once, and nothing opens', async () => {
  page(1);
  await userEvent.type(await screen.findByLabelText(/Or scan a list/), 'mr-0417 MR-0422{Enter}');
  expect(screen.getByRole('status').textContent).toBe('2 tags picked.');
  await userEvent.type(screen.getByLabelText(/Or scan a list/), 'MR-0417{Enter}');
  expect(screen.getByRole('status').textContent).toBe('MR-0417: picked before.');
  expect(screen.getByTestId('where').textContent).toBe('/find');
});

test('what is typed is asked and stands in the address', async () => {
  const asked = page(1);
  await userEvent.type(await screen.findByLabelText('Where is…'), 'setup');
  await waitFor(() => {
    expect(asked.some((a) => a.query['find'] === 'setup' && a.query['take'] === '60')).toBe(true);
  });
  expect(screen.getByTestId('where').textContent).toBe('/find?q=setup');
});

test('a list that was cut says so; nothing that fits says so too', async () => {
  page(60);
  expect(await screen.findByText('The first 60; another word narrows it.')).toBeTruthy();
  expect(screen.getByRole('button', { name: 'Pick these 60' })).toBeTruthy();
});

test('nothing that fits is said', async () => {
  page(0, '/find?q=quince');
  expect(await screen.findByText('Nothing here fits “quince”.')).toBeTruthy();
  expect(screen.queryByRole('button', { name: /Pick (it|these)/ })).toBeNull();
});
