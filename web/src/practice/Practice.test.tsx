import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { Practice } from './Practice';
import { keepMoves, movesOf } from './moves';

beforeEach(() => {
  sessionStorage.clear();
});

const sheet = (more: object) => ({
  id: 'one',
  tag: 'PR-01',
  machine: 'Stile 14',
  title: 'A first one',
  about: 'It came in today.',
  place: 1,
  of: 5,
  minutes: 0,
  rung: 'release',
  screen: [],
  beside: [],
  log: [],
  causes: [],
  checks: [],
  answers: [],
  next: [],
  stage: 'step',
  step: null,
  moment: null,
  debriefing: null,
  finished: false,
  helped: false,
  ...more,
});
const step = (kind: string) => ({
  id: 's1',
  kind,
  text: 'Erase the drive.',
  caution: 'All that is on it is gone.',
  command: null,
  expect: null,
  options: [],
  branches: [],
});
const page = (now: object) => {
  const asked = serve({ 'POST /api/practice/': sheet(now), 'POST /api/practice/one': sheet(now) });
  show(<Practice />, '/practice');
  return asked;
};

test('a step that erases wants the tag, in practice as in earnest', async () => {
  const asked = page({ step: step('confirm') });
  const go = await screen.findByRole<HTMLButtonElement>('button', { name: 'Do it' });
  expect(go.disabled).toBe(true);
  expect(screen.getByText('All that is on it is gone.')).toBeTruthy();
  await userEvent.type(screen.getByLabelText(/Scan or type the tag/), 'PR-01');
  await userEvent.click(go);
  await waitFor(() => {
    expect(asked.at(-1)?.body).toMatchObject({ moves: [{ kind: 'done', what: 'PR-01' }] });
  });
});

test('moves are kept in this window alone, and what cannot be read is none', () => {
  keepMoves('one', [{ kind: 'done', what: null }]);
  expect(movesOf('one')).toEqual([{ kind: 'done', what: null }]);
  expect(movesOf('two')).toEqual([]);
  sessionStorage.setItem('practice two', '{"no":"list"}');
  expect(movesOf('two')).toEqual([]);
  sessionStorage.setItem('practice two', 'not even');
  expect(movesOf('two')).toEqual([]);
});
