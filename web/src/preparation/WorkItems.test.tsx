import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { serve, show } from '../test/page';
import { ItemList, RungItems } from './WorkItems';

type Item = Schema['WorkItem'];

const item = (more: Partial<Item>): Item => ({
  id: 'image',
  kind: 'image',
  rung: 'medium',
  title: 'Tessaly 6, release 2, patched',
  state: 'missing',
  says: 'one of its recipes still to be applied.',
  needed: true,
  from: [],
  next: null,
  evidence: [],
  imageId: null,
  mediumId: null,
  bytes: 0,
  build: null,
  writes: null,
  simulated: null,
  holds: false,
  passesAccount: false,
  for: null,
  ...more,
});

const seen = (isEvidence: boolean, ofAnother: string[], verdict = 'letIn'): Schema['RehearsalSeen'] =>
  ({
    isEvidence,
    ofAnother,
    record: {
      job: 4,
      verdict,
      why: 'The installer let this machine in.',
      startedAs: 'stick',
      firmware: 'UEFI',
    },
  }) as never;

const list = (items: Item[]) => {
  show(<ItemList items={items} route="r-1" />, '/machines/MR-0404/prepare');
  return screen.findAllByRole('listitem');
};

test.each([
  [{ action: 'bringImage', says: 'Bring one' }, '/shelf/images?for=MR-0404'],
  [
    { action: 'applyRecipe', says: 'Apply it', imageId: 2, recipe: 'gates' },
    '/images/2?recipe=gates&for=MR-0404',
  ],
  [
    { action: 'buildAnswers', says: 'Build' },
    '/shelf/recipes?build=answers&system=tessaly-6-r2&tag=MR-0404&for=MR-0404',
  ],
  [{ action: 'buildTrim', says: 'Build' }, '/shelf/recipes?build=trim&system=tessaly-6-r2&for=MR-0404'],
  [{ action: 'writeMedium', says: 'Write', imageId: 5 }, '/shelf/media?image=5&tag=MR-0404&for=MR-0404'],
] as const)('the next action %o leads to the page where it is read and done', async (next, where) => {
  serve({});
  await list([item({ next: { imageId: null, recipe: null, ...next } })]);
  expect(screen.getByRole('link', { name: next.says }).getAttribute('href')).toBe(where);
});

test('a recipe that the route needs is made at once, under the name of who asks', async () => {
  localStorage.setItem('fresh-boot-who', 'Pim');
  const asked = serve({ 'POST /api/machines/MR-0404/routes/r-1/recipe': { id: 'gates' } });
  await list([
    item({ next: { action: 'makeRecipe', says: 'Make the recipe', imageId: null, recipe: null } as never }),
  ]);
  await userEvent.click(screen.getByRole('button', { name: 'Make the recipe' }));
  await waitFor(() => {
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({ body: { by: 'Pim' } });
  });
});

test('a start of another image is told, and never as seen', async () => {
  serve({});
  await list([item({ evidence: [seen(false, ['of another image (8ec79a66…)', 'by another firmware'])] })]);
  expect(screen.getByText(/A start of another image \(8ec79a66…\), by another firmware/)).toBeTruthy();
  expect(screen.queryByText(/Seen in the twin/)).toBeNull();
});

test('a start of exactly this is seen, with how it was started', async () => {
  serve({});
  await list([item({ state: 'ready', evidence: [seen(true, [])] })]);
  expect(screen.getByText('Seen in the twin:')).toBeTruthy();
  expect(screen.getByText(/accepted, as a stick by UEFI/)).toBeTruthy();
});

test('what it was made from stands beside it', async () => {
  serve({});
  await list([
    item({
      from: [
        { what: 'image', value: 'ab12' },
        { what: 'recipe', value: 'gates, version 2' },
      ],
    }),
  ]);
  expect(screen.getByText('image ab12 · recipe gates, version 2')).toBeTruthy();
});

test('at its rung each item has its state, and what the twin showed of that rung', async () => {
  serve({});
  show(
    <>
      <RungItems rung="medium" items={[item({ state: 'stale', evidence: [seen(true, [], 'refused')] })]} />
      <RungItems
        rung="setup"
        items={[
          item({ state: 'stale', evidence: [seen(true, [], 'refused')] }),
          item({ id: 'answers', rung: 'setup', needed: false, title: 'Answer file' }),
        ]}
      />
    </>,
    '/machines/MR-0404/prepare',
  );
  await screen.findByText('stale');
  // Its loader ran, so this firmware starts it; its own checks said no.
  expect(screen.getByText(/Its start: seen/)).toBeTruthy();
  expect(screen.getByText(/Its own checks: refused/)).toBeTruthy();
  expect(screen.getByText('not needed')).toBeTruthy();
});

test('without a start the rung says that nobody tried', async () => {
  serve({});
  show(<RungItems rung="setup" items={[item({})]} />, '/machines/MR-0404/prepare');
  expect(await screen.findByText(/Its own checks: not tried in a twin yet/)).toBeTruthy();
});
