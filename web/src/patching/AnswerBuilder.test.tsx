import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { AnswerBuilder } from './AnswerBuilder';

const system = (id: string, name: string, answers: object | null) =>
  ({ id, name, release: null, installer: { answers } }) as never;
const systems = [
  system('kitewing', 'Kitewing', null),
  system('tessaly-6', 'Tessaly 6', {
    accountRule: 'Up to 20 letters.',
    privacy: { location: 'Send where this computer is', ink: 'Send what is written by hand' },
  }),
  system('plover-9', 'Plover 9', { accountRule: 'Small letters only.', privacy: {} }),
];

const built = {
  path: 'answers.ini',
  text: '[account]\nname=reader\n',
  warnings: ['It holds a password.'],
  recipe: '{}',
};
const builder = (at: string, answer: unknown = built) => {
  const asked = serve({ 'POST /api/answer-files': answer });
  show(<AnswerBuilder systems={systems} />, at);
  return asked;
};

test('a link from Prepare brings system and machine; one that has no answer file is not offered', () => {
  builder('/shelf/recipes?build=answers&system=plover-9&tag=MR-0404');
  expect(screen.getByLabelText<HTMLSelectElement>('System').value).toBe('plover-9');
  expect(screen.getByLabelText<HTMLInputElement>(/For the machine/).value).toBe('MR-0404');
  expect(screen.queryByRole('option', { name: 'Kitewing' })).toBeNull();
  expect(screen.getByText('Small letters only.')).toBeTruthy();
});

test('an empty first password is said to be open to anybody', async () => {
  builder('/shelf/recipes?build=answers');
  expect(screen.getByText('Empty: whoever opens the lid is in.')).toBeTruthy();
  await userEvent.type(screen.getByLabelText('First password'), 'three-wet-herons');
  expect(screen.queryByText('Empty: whoever opens the lid is in.')).toBeNull();
});

test('privacy is asked one by one, nothing is yes by itself, and another system begins anew', async () => {
  const asked = builder('/shelf/recipes?build=answers&system=tessaly-6');
  await userEvent.click(screen.getByLabelText('Send what is written by hand'));
  await userEvent.click(screen.getByRole('button', { name: 'Build the answer file' }));
  await waitFor(() => {
    expect(asked[0]?.body).toMatchObject({
      system: 'tessaly-6',
      tag: null,
      answers: { privacy: { ink: true } },
    });
  });
  await userEvent.selectOptions(screen.getByLabelText('System'), 'plover-9');
  await userEvent.click(screen.getByRole('button', { name: 'Build the answer file' }));
  await waitFor(() => {
    expect(asked[1]?.body).toMatchObject({ system: 'plover-9', answers: { privacy: {} } });
  });
});

test('what was built is shown as it will stand in the image, with what to know', async () => {
  builder('/shelf/recipes?build=answers');
  await userEvent.click(screen.getByRole('button', { name: 'Build the answer file' }));
  expect((await screen.findByLabelText('Answer file', { selector: 'pre' })).textContent).toBe(built.text);
  expect(screen.getByText('It holds a password.')).toBeTruthy();
});

test('a name that the system refuses is said, and nothing is shown as built', async () => {
  builder(
    '/shelf/recipes?build=answers',
    Response.json(
      { detail: 'No account may be called so.', where: 'account', wanted: 'Letters.' },
      { status: 400 },
    ),
  );
  await userEvent.click(screen.getByRole('button', { name: 'Build the answer file' }));
  expect((await screen.findByRole('alert')).textContent).toContain('No account may be called so.');
  expect(screen.queryByLabelText('Answer file', { selector: 'pre' })).toBeNull();
});
