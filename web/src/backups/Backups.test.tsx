import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { Backups } from './Backups';

const backup = {
  id: '20261201-090000',
  at: '2026-12-01T09:00:00+01:00',
  by: 'Pim',
  machines: 1,
  events: 12,
  bytes: 4_000_000,
};
const page = (more: object = {}, troubles: object[] = []) => {
  localStorage.setItem('fresh-boot-who', 'Pim');
  const asked = serve({
    'GET /api/backups': {
      backups: [backup],
      bad: [],
      ready: null,
      folder: '/data/backups',
      onSameDisk: false,
      everyHours: 24,
      ...more,
    },
    'GET /api/health': { status: 'ok', now: '2026-12-01T12:00:00+01:00', troubles },
    [`POST /api/backups/${backup.id}/restore`]: { id: 9 },
    'DELETE /api/backups/ready': {},
    'GET /api/jobs/9': { id: 9, kind: 'backup', state: 'running', part: 0.2, says: 'Every checksum' },
  });
  show(<Backups />, '/backups');
  return asked;
};

test('the present data are given up for a back-up by two words of a person, never by one', async () => {
  const asked = page();
  await userEvent.click(await screen.findByRole('button', { name: 'Give it back' }));
  expect(asked.filter((a) => a.method === 'POST')).toEqual([]);
  await userEvent.click(screen.getByRole('button', { name: 'Check it, and take it at the next start' }));
  await waitFor(() => {
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({
      path: `/api/backups/${backup.id}/restore`,
      body: { by: 'Pim' },
    });
  });
});

test('what is no back-up is told with its fault, and cannot be given back', async () => {
  page({ bad: [{ id: '20261130-090000', fault: 'backup.json is missing' }], backups: [] });
  expect((await screen.findByRole('list', { name: 'No back-ups' })).textContent).toBe(
    '20261130-090000 is no back-up: backup.json is missing. It is passed over.',
  );
  expect(screen.queryByRole('button', { name: 'Give it back' })).toBeNull();
  expect(screen.getByRole('heading').textContent).toBe('Nothing is backed up yet.');
});

test('one that lies ready is announced, and can be put away again', async () => {
  const asked = page({ ready: backup });
  await userEvent.click(await screen.findByRole('button', { name: 'No, the present data stay' }));
  await waitFor(() => {
    expect(asked.some((a) => a.method === 'DELETE' && a.path === '/api/backups/ready')).toBe(true);
  });
});

test('what fails by itself, and a folder on the same disk, are told where they belong', async () => {
  page({ onSameDisk: true }, [
    { about: 'backup', says: 'No back-up could be made by itself: no room', at: backup.at },
    { about: 'something else', says: 'of no matter here', at: backup.at },
  ]);
  expect((await screen.findByRole('alert')).textContent).toContain('no room');
  expect(screen.getByRole('note').textContent).toContain('the disk that they are to protect from');
  expect(screen.getByText(/1 machine, 12 events/)).toBeTruthy();
});
