import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { IdentityView } from './IdentityView';

const donor = (id: string, own: boolean, score: number) => ({
  id,
  model: id,
  own,
  score,
  parts: [],
  breaks: [],
});
const page = (donors: object[], facts: object[] = []) => {
  localStorage.setItem('fresh-boot-who', 'Pim');
  const asked = serve({
    'GET /api/machines/MR-0404/donors': donors,
    'GET /api/machines/MR-0404/identity': [],
    'GET /api/identity-levels': [
      { level: 'boardId', changes: 'the board', opens: 'the gate', breaks: 'nothing' },
      { level: 'model', changes: 'the model', opens: 'more', breaks: 'little' },
      { level: 'full', changes: 'all of it', opens: 'all', breaks: 'updates of its maker' },
    ],
    'POST /api/machines/MR-0404/identity': { id: '1' },
  });
  show(<IdentityView />, '/machines/MR-0404/identity', { facts });
  return asked;
};

test('a donor of its own line comes before a nearer one of another, and says whose machine it is for', async () => {
  const asked = page(
    [donor('Sonata 12', false, 95), donor('Stile 16', true, 80)],
    [{ key: 'plan.identity', value: 'least' }],
  );
  expect((await screen.findByRole('heading', { level: 2 })).textContent).toBe('Stile 16: 80 of 100.');
  expect(screen.getByText(/1 of other lines, only with a boot kit/)).toBeTruthy();
  expect(screen.getByText(/For the owner’s own machine only/)).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: /Give it this identity/ }));
  // The least that opens the gate, where that is what was chosen for this machine.
  await waitFor(() => {
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({
      body: { donor: 'Stile 16', level: 'boardId', by: 'Pim', processor: null },
    });
  });
});

test('where no model is supported nothing can be given', async () => {
  page([]);
  expect((await screen.findByRole('heading', { level: 2 })).textContent).toBe('No model to pass for.');
  expect(screen.queryByRole('button', { name: /Give it/ })).toBeNull();
});
