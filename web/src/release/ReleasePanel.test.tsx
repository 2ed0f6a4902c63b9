import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { ReleasePanel } from './ReleasePanel';

const question = (more: object = {}) => ({
  id: 'data',
  asks: 'What becomes of the data?',
  note: null,
  caution: 'Erasing cannot be undone.',
  stops: false,
  answers: [
    { says: 'None is wanted', key: 'release.data', value: 'none' },
    { says: 'It is saved', key: 'release.data', value: 'saved' },
  ],
  ...more,
});
const erased = (key: string, value: string) => ({
  key: `release.${key}`,
  value,
  by: 'Pim',
  takenAt: '2026-12-01T09:00:00Z',
});

function panel(sheet: object) {
  localStorage.setItem('fresh-boot-who', 'Odalys Brandt');
  const asked = serve({
    'GET /api/machines/MR-0404/release': { question: null, letter: null, facts: [], ...sheet },
    'PUT /api/machines/MR-0404/release': {},
  });
  show(<ReleasePanel tag="MR-0404" />);
  return () => asked.find((a) => a.method === 'PUT')?.body;
}

test('an answer is given by one click, under the name of who gives it', async () => {
  const sent = panel({ question: question() });
  expect(await screen.findByText('Erasing cannot be undone.')).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'None is wanted' }));
  await waitFor(() => {
    expect(sent()).toEqual({ data: 'none', by: 'Odalys Brandt' });
  });
});

test('saved data wants the place where it is, and whether somebody opened it there', async () => {
  const sent = panel({ question: question() });
  await userEvent.click(await screen.findByRole('button', { name: 'It is saved' }));
  expect(sent()).toBeUndefined();
  const save = screen.getByRole<HTMLButtonElement>('button', { name: 'Save' });
  expect(save.disabled).toBe(true);
  await userEvent.type(screen.getByLabelText('Where is it?'), 'blue case');
  await userEvent.click(screen.getByLabelText('opened again from there'));
  await userEvent.click(save);
  await waitFor(() => {
    expect(sent()).toEqual({
      data: 'saved',
      dataWhere: 'blue case',
      dataReopened: true,
      by: 'Odalys Brandt',
    });
  });
});

test('while something is asked there is no talk of erasing', async () => {
  panel({ question: question() });
  await screen.findByText('What becomes of the data?');
  expect(screen.queryByRole('region', { name: 'Erasing' })).toBeNull();
});

test('once leave is given, the drive is erased by a named method, and then verified apart', async () => {
  const sent = panel({});
  expect(await screen.findByText('Leave is given, and nothing holds the machine.')).toBeTruthy();
  const erasing = screen.getByRole('region', { name: 'Erasing' });
  expect(within(erasing).getAllByRole('button')).toHaveLength(3);
  await userEvent.click(within(erasing).getByRole('button', { name: /Purge/ }));
  await waitFor(() => {
    expect(sent()).toMatchObject({ erased: 'purge' });
  });
});

test('erased is not verified until somebody has read the drive', async () => {
  const sent = panel({ facts: [erased('erased', 'clear')] });
  expect(await screen.findByText('Pim, 2026-12-01')).toBeTruthy();
  expect(screen.queryByText('verified')).toBeNull();
  await userEvent.click(screen.getByRole('button', { name: /Sectors from all over it/ }));
  await waitFor(() => {
    expect(sent()).toMatchObject({ erasedVerified: true });
  });
});

test('the letter is there to be read and copied', async () => {
  panel({ question: question({ stops: true }), letter: 'To whom it may concern' });
  // Set up by hand, it has a clipboard.
  const user = userEvent.setup();
  await user.click(await screen.findByRole('button', { name: 'Copy the letter', hidden: true }));
  expect(await navigator.clipboard.readText()).toBe('To whom it may concern');
  expect(await screen.findByText('Copied')).toBeTruthy();
});
