import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { serve, show } from '../test/page';
import { OpenQuestions } from './OpenQuestions';

const asks: Schema['PlanAsk'][] = [
  {
    fact: 'plan.account',
    asks: 'Which account is made at the first start?',
    answers: [
      { value: 'local', meaning: 'local', consequence: 'Nothing leaves the machine.' },
      { value: 'maker', meaning: 'the maker’s', consequence: 'The recovery key is kept.' },
    ],
    until: 'The step at which it is asked has the owner asked first.',
  },
];

test('each answer is noted as a fact, and what is done until then is said', async () => {
  const asked = serve({ 'PUT /api/machines/MR-0404/facts/plan.account': {} });
  show(<OpenQuestions asks={asks} />, '/machines/MR-0404/prepare');
  const questions = await screen.findByRole('region', { name: 'Open questions' });
  expect(within(questions).getByRole('heading').textContent).toContain('One question is open');
  expect(questions.textContent).toContain('Until it is answered: The step at which it is asked');
  await userEvent.click(within(questions).getByRole('button', { name: 'local' }));
  await waitFor(() => {
    expect(asked.find((a) => a.method === 'PUT')?.body).toMatchObject({
      value: 'local',
      source: 'answered before the sheet',
    });
  });
});

test('without a question there is nothing', () => {
  show(<OpenQuestions asks={[]} />, '/machines/MR-0404/prepare');
  expect(screen.queryByRole('region', { name: 'Open questions' })).toBeNull();
});
