import { render, screen } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { DoNow } from './DoNow';

const now = (more: Partial<Schema['DoNow']>): Schema['DoNow'] => ({
  person: 'Pim',
  tag: 'MR-0409',
  route: 'abc',
  says: 'Take the stick out.',
  minutes: 25,
  from: null,
  why: null,
  begun: true,
  ...more,
});

const show = (...all: Schema['DoNow'][]) =>
  render(
    <MemoryRouter>
      <DoNow now={all} />
    </MemoryRouter>,
  );

test('everybody reads where to go, for how long, and what is waited for', () => {
  show(
    now({}),
    now({ person: 'Odalys', tag: 'MR-0404', begun: false }),
    now({
      person: 'Tove',
      tag: 'MR-0422',
      from: '2026-12-03T15:16:00Z',
      why: 'The machine waits by itself.',
    }),
    now({ person: 'Ilse', tag: null }),
  );
  expect(
    screen.getByRole('link', { name: /MR-0409 Take the stick out\. about 25 min/ }).getAttribute('href'),
  ).toBe('/machines/MR-0409/run');
  // Where no run is open one is begun, at its routes.
  expect(screen.getByRole('link', { name: /MR-0404 Begin its run/ }).getAttribute('href')).toBe(
    '/machines/MR-0404/routes?route=abc',
  );
  expect(screen.getByRole('link', { name: /MR-0422 .*from \d\d:\d\d\. The machine waits/ })).toBeDefined();
  expect(screen.getByText('Nothing is left by this plan.')).toBeDefined();
});
