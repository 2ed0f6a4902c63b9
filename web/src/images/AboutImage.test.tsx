import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { About } from './AboutImage';

const image = {
  id: 3,
  version: 5,
  name: 'tessaly.iso',
  system: 'tessaly-6',
  build: '6.2',
  from: 'maker',
  trust: 'maker',
  notes: 'Kept in the drawer.',
  sizeBytes: 4_700_000_000,
} as never;

function about(answers: Record<string, unknown> = {}) {
  const asked = serve({
    'PUT /api/images/3': image,
    'DELETE /api/images/3': new Response(null, { status: 204 }),
    ...answers,
  });
  show(
    <About about={image} systems={[{ id: 'tessaly-6', name: 'Tessaly 6', release: null } as never]} />,
    '/images/3',
  );
  return (method: string) => asked.filter((a) => a.method === method);
}

const open = () => userEvent.click(screen.getByRole('button', { name: 'Change what is said of it' }));

test('an image of gigabytes is deleted after one question, which says what goes', async () => {
  const sent = about();
  await open();
  await userEvent.click(screen.getByRole('button', { name: /Take it off the shelf/ }));
  expect(screen.getByText('4.7 GB are deleted for good.')).toBeTruthy();
  expect(sent('DELETE')).toEqual([]);
  await userEvent.click(screen.getByRole('button', { name: 'Delete it' }));
  expect(await screen.findByText('/shelf/images')).toBeTruthy();
  expect(sent('DELETE')).toHaveLength(1);
});

test('kept, nothing has been asked of the server, and the question is gone', async () => {
  const sent = about();
  await open();
  await userEvent.click(screen.getByRole('button', { name: /Take it off the shelf/ }));
  await userEvent.click(screen.getByRole('button', { name: 'Keep it' }));
  expect(screen.queryByText(/deleted for good/)).toBeNull();
  expect(sent('DELETE')).toEqual([]);
});

test('an image that something stands on is kept, with the reason', async () => {
  about({
    'DELETE /api/images/3': Response.json(
      { detail: 'A patched image was made from it.', where: 'id', wanted: 'Delete that one first.' },
      { status: 409 },
    ),
  });
  await open();
  await userEvent.click(screen.getByRole('button', { name: /Take it off the shelf/ }));
  await userEvent.click(screen.getByRole('button', { name: 'Delete it' }));
  expect((await screen.findByRole('alert')).textContent).toContain('A patched image was made from it.');
  expect(screen.getByText('/images/3')).toBeTruthy();
});

test('an emptied system is none, not an empty name', async () => {
  const sent = about();
  await open();
  await userEvent.selectOptions(screen.getByLabelText('Installs'), 'not said');
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() => {
    expect(sent('PUT')[0]?.body).toMatchObject({ version: 5, image: { system: null, build: '6.2' } });
  });
});

test('the last one of a release that its source no longer has is deleted by a second word', async () => {
  const sent = about({
    'DELETE /api/images/3': Response.json(
      { detail: 'It is the last one of its kind here.', where: 'last', wanted: 'last=true' },
      { status: 409 },
    ),
  });
  await open();
  await userEvent.click(screen.getByRole('button', { name: /Take it off the shelf/ }));
  await userEvent.click(screen.getByRole('button', { name: 'Delete it' }));
  expect((await screen.findByRole('alert')).textContent).toContain('the last one of its kind');
  await userEvent.click(screen.getByRole('button', { name: 'Delete the last one' }));
  await waitFor(() => {
    expect(sent('DELETE').map((d) => d.query)).toEqual([{}, { last: 'true' }]);
  });
});
