import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { type Asked, serve, show } from '../test/page';
import { ByTable } from './ByTable';

const columns = [
  { header: 'tag', key: 'tag' },
  { header: 'RAM', key: null },
];
const sheet = (more: object) => ({
  columns,
  faults: [],
  first: [{ tag: 'MR-0900', facts: [] }],
  rows: 1,
  imported: 0,
  ...more,
});

/** Answers the dry run and the real one apart, since they differ in their query only. */
function page(dry: object, real: object = sheet({ imported: 1 })) {
  const asked = serve({
    'GET /api/fact-keys': [{ key: 'memory.installedMiB', label: 'Memory', derived: false }],
    'POST /api/machines/csv?dryRun=true': dry,
    'POST /api/machines/csv?dryRun=false': real,
  });
  show(<ByTable />, '/intake');
  return asked;
}

const choose = (text: string) =>
  userEvent.upload(
    screen.getByLabelText('Choose a table (CSV in UTF-8)'),
    new File([text], 'shelf.csv', { type: 'text/csv' }),
  );
const posted = (asked: Asked[]) => asked.filter((a) => a.method === 'POST');

test('a chosen table is looked at first, and nothing is taken in by that', async () => {
  const asked = page(sheet({}));
  await choose('tag,RAM\nMR-0900,8 GiB\n');
  expect(await screen.findByText('MR-0900')).toBeTruthy();
  expect(posted(asked).map((a) => a.query['dryRun'])).toEqual(['true']);
  expect(posted(asked)[0]?.body).toBe('tag,RAM\nMR-0900,8 GiB\n');
});

test('faults are told by line and column, and stand in the way', async () => {
  page(
    sheet({ faults: [{ line: 2, column: 'RAM', what: '“lots” is no amount.', wanted: 'Such as 8 GiB.' }] }),
  );
  await choose('tag,RAM\nMR-0900,lots\n');
  expect((await screen.findByRole('alert')).textContent).toContain('1 place to mend');
  expect(screen.getByText('line 2, RAM')).toBeTruthy();
  expect(screen.getByRole<HTMLButtonElement>('button', { name: /Take/ }).disabled).toBe(true);
});

test('a column that nobody knows is named, and the table is looked at again', async () => {
  const asked = page(sheet({}));
  await choose('tag,RAM\nMR-0900,8 GiB\n');
  await userEvent.selectOptions(
    await screen.findByLabelText('What the column RAM holds'),
    await screen.findByRole('option', { name: 'Memory' }),
  );
  await waitFor(() => {
    expect(posted(asked).at(-1)?.query).toMatchObject({ dryRun: 'true', map: 'RAM:memory.installedMiB' });
  });
});

test('then all of it is taken in, and labels can be printed', async () => {
  const asked = page(sheet({}));
  await choose('tag,RAM\nMR-0900,8 GiB\n');
  await userEvent.click(await screen.findByRole('button', { name: /Take/ }));
  expect((await screen.findByRole('status')).textContent).toContain('1 machine taken in.');
  expect(posted(asked).at(-1)?.query['dryRun']).toBe('false');
  expect(screen.getByRole('link', { name: 'Print their first labels' }).getAttribute('href')).toBe(
    '/api/labels?tag=MR-0900',
  );
});
