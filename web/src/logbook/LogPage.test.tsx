import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { LogPage } from './LogPage';

const line = (says: string, at: string) => ({
  at,
  tag: 'MR-0404',
  about: 'run',
  says,
  by: 'Pim',
  photo: null,
});
const page = (answer: object) => {
  const asked = serve({ 'GET /api/log': answer });
  show(<LogPage />, '/log');
  return asked;
};

test('a day counts when it is whole; until then nothing else is asked', async () => {
  const asked = page({ found: 0, lines: [] });
  await userEvent.type(await screen.findByLabelText('from'), '2026-12-0');
  expect(asked.every((a) => a.query['from'] === undefined)).toBe(true);
  await userEvent.type(screen.getByLabelText('from'), '1');
  await waitFor(() => {
    expect(asked.some((a) => a.query['from'] === '2026-12-01')).toBe(true);
  });
  // The table is the same list.
  expect(screen.getByRole('link', { name: 'as a table' }).getAttribute('href')).toBe(
    '/api/log.csv?from=2026-12-01&everything=false',
  );
});

test('days have headings, and a list that was cut says how many there are', async () => {
  page({
    found: 450,
    lines: [line('it stopped', '2026-12-01T10:00:00Z'), line('it began', '2026-11-30T10:00:00Z')],
  });
  expect(await screen.findByText('the latest 2 of 450')).toBeTruthy();
  expect(screen.getByRole('region', { name: '2026-12-01' }).textContent).toContain('it stopped');
  expect(screen.getByRole('region', { name: '2026-11-30' }).textContent).toContain('it began');
});
