import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { Chips } from './Chips';

const check = (id: string, holds: boolean) => ({ id, holds, says: `${id} says`, todo: `${id} todo` });
const state = {
  content: 'maker',
  equalReads: 2,
  dead: false,
  looked: null,
  backupRom: 5,
  backupSha256: 'ab',
};
const chip = (more: object = {}, st: object = {}) => ({
  id: 3,
  tag: 'MR-0411',
  sizeBytes: 8 << 20,
  starts: true,
  says: 'What is on it.',
  protection: null,
  whyUnsupported: null,
  beforeWrite: [check('reads', true), check('backup', true)],
  beforeRestore: [check('reads', true), check('backup', true)],
  log: [],
  state: { ...state, ...st },
  ...more,
});

const page = (one: object) => {
  localStorage.setItem('fresh-boot-who', 'Pim');
  const asked = serve({
    'GET /api/chips': [one],
    'GET /api/machines/MR-0411': { tag: 'MR-0411', facts: [] },
    'POST /api/chips/3/write': { id: 8 },
    'POST /api/chips/3/look': { id: 8 },
    'POST /api/chips/3/confirm': {},
    'GET /api/jobs/8': { id: 8, state: 'running', part: 0.1, says: 'It is written.' },
  });
  show(<Chips />, '/shelf/chips');
  return asked;
};
const posted = (asked: { method: string }[]) => asked.filter((a) => a.method === 'POST');

test('only what is next is asked for, and nothing is written before all of it holds', async () => {
  page(
    chip(
      { beforeWrite: [check('reads', false), check('backup', false)] },
      { equalReads: 0, backupRom: null, backupSha256: null },
    ),
  );
  expect(await screen.findByRole('button', { name: 'Read the chip' })).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'Back it up' })).toBeNull();
  expect(screen.queryByRole('form', { name: 'Danger' })).toBeNull();
});

test('a write wants the tag of the machine, and says what kills a chip', async () => {
  const asked = page(chip());
  const write = await screen.findByRole<HTMLButtonElement>('button', { name: 'Write the chip' });
  expect(screen.getByRole('form', { name: 'Danger' }).textContent).toContain('loses power');
  expect(write.disabled).toBe(true);
  await userEvent.type(screen.getByLabelText(/Scan or type the tag/), 'MR-0411');
  await userEvent.click(write);
  await waitFor(() => {
    expect(posted(asked)).toMatchObject([
      { path: '/api/chips/3/write', body: { tag: 'MR-0411', by: 'Pim' } },
    ]);
  });
});

test('a chip that nobody has looked at since a restore is looked at and nothing else', async () => {
  const asked = page(
    chip(
      { starts: false, beforeRestore: [check('backup', false)] },
      { content: 'unknown', backupRom: null, backupSha256: null },
    ),
  );
  const look = await screen.findByRole('button', { name: 'Look at the chip' });
  expect(screen.queryByRole('form', { name: 'Danger' })).toBeNull();
  expect(screen.queryByRole('button', { name: /holds what its maker left/ })).toBeNull();
  // Unknown is not broken: it is not told as a machine that does not start.
  expect(screen.queryByText(/does not start/)).toBeNull();
  await userEvent.click(look);
  await waitFor(() => {
    expect(posted(asked)).toMatchObject([{ path: '/api/chips/3/look' }]);
  });
});

test('that it holds what its maker left is said after a look, by a person, with a reason', async () => {
  const asked = page(
    chip(
      { starts: false, beforeRestore: [check('backup', false)] },
      { content: 'unknown', looked: 'cd', backupRom: null, backupSha256: null },
    ),
  );
  const button = await screen.findByRole<HTMLButtonElement>('button', {
    name: 'It holds what its maker left on it',
  });
  expect(button.disabled).toBe(true);
  await userEvent.type(screen.getByLabelText(/How you know/), 'it came in yesterday');
  await userEvent.click(button);
  await waitFor(() => {
    expect(posted(asked)).toMatchObject([
      { path: '/api/chips/3/confirm', body: { what: 'maker', reason: 'it came in yesterday', by: 'Pim' } },
    ]);
  });
});

test('a broken one offers the way back, not another write', async () => {
  page(chip({ starts: false }, { content: 'broken' }));
  expect(await screen.findByRole('button', { name: 'Write the backup back' })).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'Write the chip' })).toBeNull();
  expect(screen.getByText(/does not start/)).toBeTruthy();
});
