import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { JobLine } from './JobLine';

const line = (more: object, failed?: string) => {
  const asked = serve({
    'GET /api/jobs/4': { id: 4, kind: 'write', part: 0.4, says: '', result: null, ...more },
    'DELETE /api/jobs/4': { id: 4, state: 'cancelled' },
  });
  show(
    <JobLine
      id={4}
      {...(failed === undefined ? {} : { failed })}
      done={(job) => <p>ended: {job.state}</p>}
    />,
    '/shelf',
  );
  return asked;
};

test('while it goes on it says how far, and can be cancelled', async () => {
  const asked = line({ state: 'running', says: 'It is written.' });
  expect((await screen.findByRole('progressbar')).getAttribute('aria-valuenow')).toBe('40');
  expect(screen.queryByText(/ended/)).toBeNull();
  await userEvent.click(screen.getByRole('button', { name: 'Cancel' }));
  await waitFor(() => {
    expect(asked.some((a) => a.method === 'DELETE')).toBe(true);
  });
});

test('before it has begun it says that it waits', async () => {
  line({ state: 'queued' });
  expect(await screen.findByText('It waits for its turn.')).toBeTruthy();
});

test.each([
  ['failed', 'The disk is full.', true],
  ['done', 'Written, read back and equal.', false],
  ['cancelled', 'Cancelled.', false],
] as const)('%s: only a failure says what it leaves', async (state, says, leaves) => {
  line({ state, says });
  expect(await screen.findByText(says)).toBeTruthy();
  expect(screen.queryByText('It was not done; nothing half-made is offered.') !== null).toBe(leaves);
  expect(screen.getByText(`ended: ${state}`)).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'Cancel' })).toBeNull();
});
