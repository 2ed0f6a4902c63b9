import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { PrepareView } from './PrepareView';

const work = (more: object) => ({
  'GET /api/machines/MR-0404/work-items': {
    tag: 'MR-0404',
    system: 'tessaly-6-r2',
    school: null,
    routeId: 'r-1',
    runId: null,
    asks: [],
    items: [],
    ...more,
  },
  'GET /api/machines/MR-0404/routes/r-1/files': [],
});

test('a route that is not there any more is told in plain words, with the way on', async () => {
  serve({
    'GET /api/machines/MR-0404/work-items': Response.json(
      { detail: 'This machine has no such route now.', where: 'routeId', wanted: 'An id of today.' },
      { status: 409 },
    ),
  });
  show(<PrepareView />, '/machines/MR-0404/prepare?route=gone');
  expect(await screen.findByText('This route is not as it was.')).toBeTruthy();
  expect(screen.getByRole('link', { name: /routes of today/ }).getAttribute('href')).toBe(
    '/machines/MR-0404/routes',
  );
  expect(screen.queryByText('routeId')).toBeNull();
});

test('any other refusal keeps its own words', async () => {
  serve({});
  show(<PrepareView />, '/machines/MR-0404/prepare');
  expect((await screen.findByRole('alert')).textContent).toContain('There is none.');
});

test.each([
  [{ routeId: null }, 'No route leads to this aim.'],
  [{}, 'Nothing has to be made.'],
])('with %o it says how it stands', async (more, says) => {
  serve(work(more));
  show(<PrepareView />, '/machines/MR-0404/prepare');
  expect(await screen.findByText(says)).toBeTruthy();
});
