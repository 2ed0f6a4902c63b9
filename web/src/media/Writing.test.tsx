import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { serve, show } from '../test/page';
import { NewMedium } from './NewMedium';
import { Writing } from './Writing';

const medium = (more: Partial<Schema['MediumSheet']> = {}) =>
  ({ id: 7, label: 'S-07', kind: 'stick', state: 'blank', imageId: null, imageName: null, ...more }) as never;
const plan = (more: Partial<Schema['WritePlan']> = {}) =>
  ({ method: 'blocks', fits: true, ...more }) as never;

const writing = (m = medium(), p = plan()) => {
  localStorage.setItem('fresh-boot-who', 'Pim');
  const asked = serve({
    'POST /api/media/7/write': { id: 31 },
    'POST /api/media/7/test-capacity': { id: 32 },
    'GET /api/jobs/31': { id: 31, kind: 'write', state: 'running', progress: 10, says: 'writing' },
    'GET /api/jobs/32': { id: 32, kind: 'capacity', state: 'running', progress: 10, says: 'testing' },
  });
  show(<Writing medium={m} plan={p} imageId={4} tags={['MR-0404']} port={3} />, '/shelf/media');
  return asked;
};

const button = (name: string) => screen.getByRole<HTMLButtonElement>('button', { name });

test('nothing is erased before the label was typed as it stands on the medium', async () => {
  const asked = writing();
  expect(button('Erase and write').disabled).toBe(true);
  await userEvent.type(screen.getByLabelText('Label, typed'), 'S-70');
  expect(button('Erase and write').disabled).toBe(true);
  await userEvent.keyboard('{Enter}');
  expect(asked.filter((a) => a.method === 'POST')).toEqual([]);
  await userEvent.clear(screen.getByLabelText('Label, typed'));
  await userEvent.type(screen.getByLabelText('Label, typed'), 'S-07{Enter}');
  await waitFor(() => {
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({
      path: '/api/media/7/write',
      body: { imageId: 4, label: 'S-07', by: 'Pim', tags: ['MR-0404'], port: 3 },
    });
  });
});

test('a typed label is good for one write', async () => {
  writing();
  await userEvent.type(screen.getByLabelText('Label, typed'), 'S-07{Enter}');
  await waitFor(() => {
    expect(screen.getByLabelText<HTMLInputElement>('Label, typed').value).toBe('');
  });
});

test.each([
  ['a plan that does not fit', medium(), plan({ fits: false })],
  ['a plan without a way', medium(), plan({ method: 'none' as never })],
  ['a medium that is being written', medium({ state: 'writing' }), plan()],
])('%s is not written', async (_, m, p) => {
  writing(m, p);
  await userEvent.type(screen.getByLabelText('Label, typed'), 'S-07');
  expect(button('Erase and write').disabled).toBe(true);
});

test('the size of a stick is tested after its label; a disc has none to test', async () => {
  const asked = writing();
  await userEvent.type(screen.getByLabelText('Label, typed'), 'S-07');
  await userEvent.click(button('Erase and test its size'));
  await waitFor(() => {
    expect(asked.find((a) => a.method === 'POST')?.path).toBe('/api/media/7/test-capacity');
  });
});

test('a disc offers no test of its size', () => {
  writing(medium({ kind: 'dvd' }));
  expect(screen.queryByRole('button', { name: 'Erase and test its size' })).toBeNull();
});

test('a new stick comes with its size in bytes, a disc with the size of its kind', async () => {
  const asked = serve({ 'POST /api/media': medium() });
  show(<NewMedium />, '/shelf/media');
  await userEvent.type(screen.getByLabelText('Its label'), 'S-11');
  await userEvent.clear(screen.getByLabelText('GB'));
  await userEvent.type(screen.getByLabelText('GB'), '7.9');
  await userEvent.click(screen.getByRole('button', { name: 'Add' }));
  await waitFor(() => {
    expect(asked[0]?.body).toMatchObject({ label: 'S-11', kind: 'stick', sizeBytes: 7_900_000_000 });
  });
  await userEvent.selectOptions(screen.getByLabelText('Kind'), 'dvd');
  expect(screen.queryByLabelText('GB')).toBeNull();
});
