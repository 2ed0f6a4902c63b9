import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { FaultView } from './FaultView';

const page = (stopped: boolean, open: object[] = []) => {
  localStorage.setItem('fresh-boot-who', 'Pim');
  const asked = serve({
    'GET /api/machines/MR-0404/diagnoses': open,
    'GET /api/diagnoses/how-far': [
      { rung: 'medium', sees: 'It does not start from the stick.' },
      { rung: 'setup', sees: 'The installer refuses.' },
    ],
    'GET /api/runs/r1': { id: 'r1', state: { stopped } },
    'POST /api/diagnoses': { id: 1 },
    'POST /api/diagnoses/7/answers': { id: 7 },
  });
  show(<FaultView />, '/machines/MR-0404/fault');
  return asked;
};
const begun = (asked: { method: string }[]) => asked.find((a) => a.method === 'POST');

test.each([
  [true, 'r1'],
  [false, null],
])('a run that stopped (%s) is what the search belongs to', async (stopped, run) => {
  const asked = page(stopped);
  if (stopped) await screen.findByText('The run stopped');
  await userEvent.type(await screen.findByLabelText(/What it printed/), 'no loader');
  await userEvent.click(screen.getByRole('button', { name: 'The installer refuses.' }));
  await waitFor(() => {
    expect(begun(asked)).toMatchObject({
      body: { tag: 'MR-0404', rung: 'setup', by: 'Pim', run, message: 'no loader' },
    });
  });
});

const cause = (name: string, chance: number) => ({
  cause: name,
  about: name,
  chance,
  why: [],
  mend: { text: `mend ${name}`, ends: false },
});

test('as long as a check tells something, no cause is told as the one', async () => {
  const search = {
    id: 7,
    rung: 'setup',
    sees: 'The installer refuses.',
    causes: [cause('gate', 0.6), cause('clock', 0.4)],
    next: {
      check: 'clock',
      text: 'What does the clock show?',
      caution: null,
      risk: 'opens',
      shows: [{ id: 'old', text: 'another year' }],
      minutes: 1,
    },
    others: [],
    answers: [],
    recorded: 1,
    excluded: [{ cause: 'tpm', about: 'The TPM is off', why: 'the system does not ask for it' }],
    run: null,
    message: null,
  };
  const asked = page(false, [search]);
  const region = await screen.findByRole('region', { name: 'Find the fault' });
  expect(region.querySelector('h2')?.textContent).toContain('What does the clock show?');
  expect(screen.getByText('About 1 min, opens the casing.')).toBeTruthy();
  expect(screen.getByText('1 recorded stop of this shop counts beside the catalogue.')).toBeTruthy();
  expect(screen.getByText('1 cause ruled out on this machine')).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'another year' }));
  await waitFor(() => {
    expect(begun(asked)).toMatchObject({
      path: '/api/diagnoses/7/answers',
      body: { check: 'clock', seen: 'old' },
    });
  });
});
