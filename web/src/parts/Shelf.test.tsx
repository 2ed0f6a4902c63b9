import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { serve, show } from '../test/page';
import { Shelf } from './Shelf';

const part = (more: Partial<Schema['PartEntry']> = {}): Schema['PartEntry'] => ({
  kind: 'memory',
  about: '8 GiB DDR4 SO-DIMM',
  type: 'DDR4 SO-DIMM',
  sizeMiB: 8192,
  sizeBytes: null,
  from: 'MR-0311',
  test: 'untested',
  reservedFor: null,
  fittedIn: null,
  ...more,
});

function shelf(...all: Schema['PartEntry'][]) {
  localStorage.setItem('fresh-boot-who', 'Pim');
  const asked = serve({
    'GET /api/parts': all.map((p, i) => ({ id: i + 1, version: 2, part: p })),
    'PUT /api/parts/1': {},
    'POST /api/parts': {},
  });
  show(<Shelf />, '/shelf/parts');
  return (method: string) =>
    asked.find((a) => a.method === method)?.body as { part: Schema['PartEntry']; version?: number };
}

test('parts stand under their kind, and an untested one says so', async () => {
  shelf(part(), part({ kind: 'drive', about: '240 GB drive', test: 'passed' }));
  expect(await screen.findByText('2 parts on the shelf.')).toBeTruthy();
  expect(within(screen.getByRole('region', { name: 'memory' })).getByText('untested')).toBeTruthy();
  expect(
    within(screen.getByRole('region', { name: 'drive' })).queryByRole('button', { name: 'Passed' }),
  ).toBeNull();
});

test('a test is written down with the version that was read', async () => {
  const sent = shelf(part());
  await userEvent.click(await screen.findByRole('button', { name: 'Failed' }));
  await waitFor(() => {
    expect(sent('PUT')).toMatchObject({ version: 2, by: 'Pim', part: { test: 'failed', from: 'MR-0311' } });
  });
});

test('a part is kept for a machine by its tag, as a scanner types it, and let go by an empty one', async () => {
  const sent = shelf(part());
  await userEvent.type(await screen.findByLabelText('Kept for, 8 GiB DDR4 SO-DIMM'), 'mr-0404{Enter}');
  await waitFor(() => {
    expect(sent('PUT').part.reservedFor).toBe('MR-0404');
  });
});

test('letting go of a part is no empty tag', async () => {
  const sent = shelf(part({ reservedFor: 'MR-0404' }));
  await userEvent.clear(await screen.findByLabelText('Kept for, 8 GiB DDR4 SO-DIMM'));
  await userEvent.keyboard('{Enter}');
  await waitFor(() => {
    expect(sent('PUT').part.reservedFor).toBeNull();
  });
});

test('only what is kept for a machine can be fitted, and into that one', async () => {
  const sent = shelf(part({ reservedFor: 'MR-0404' }), part());
  await userEvent.click(await screen.findByRole('button', { name: 'Fitted in MR-0404' }));
  await waitFor(() => {
    expect(sent('PUT').part.fittedIn).toBe('MR-0404');
  });
  expect(screen.getAllByRole('button', { name: /Fitted in/ })).toHaveLength(1);
});

test('new memory is named by its size and type; the kind stays for the next one', async () => {
  const sent = shelf();
  expect(await screen.findByText('The shelf is empty.')).toBeTruthy();
  const form = screen.getByRole('form', { name: 'Put a part on the shelf' });
  await userEvent.selectOptions(within(form).getByLabelText('Type'), 'DDR3 SO-DIMM');
  await userEvent.clear(within(form).getByLabelText('GiB'));
  await userEvent.type(within(form).getByLabelText('GiB'), '2');
  await userEvent.type(within(form).getByLabelText('From (tag or words)'), 'box by the door');
  await userEvent.click(within(form).getByRole('button', { name: 'On the shelf' }));
  await waitFor(() => {
    expect(sent('POST').part).toMatchObject({
      about: '2 GiB DDR3 SO-DIMM',
      sizeMiB: 2048,
      type: 'DDR3 SO-DIMM',
    });
  });
});
