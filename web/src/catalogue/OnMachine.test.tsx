import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test, vi } from 'vitest';
import { serve, show } from '../test/page';
import { Offers, OnMachine } from './OnMachine';

const entry = { id: 'bench', steps: [{ id: 'off', text: 'Shut it down.' }] };

test('a procedure is read on a machine as soon as its whole tag stands there', async () => {
  const asked = serve({
    'POST /api/catalogue/procedures/bench/preview': {
      system: 'wickerwork-26',
      school: 'comply',
      missing: [],
      words: [{ step: 'off', says: 'it says “shut it down”, and changes nothing of what runs on it' }],
      steps: [
        {
          id: 'bench.off',
          text: 'Shut MR-0417 down.',
          caution: 'Wait for the light.',
          expect: null,
          on: null,
        },
      ],
    },
  });
  show(<OnMachine id="bench" entry={entry} />);
  await userEvent.type(screen.getByLabelText('On a machine', { selector: 'input' }), 'mr-0417');
  expect(await screen.findByText('Shut MR-0417 down.')).toBeTruthy();
  expect(screen.getByText('Caution. Wait for the light.')).toBeTruthy();
  expect(screen.getByText(/Step “off”: it says “shut it down”/)).toBeTruthy();
  expect(asked.at(-1)?.body).toMatchObject({ tag: 'MR-0417', entry: { id: 'bench' } });
});

test('an offer from the bench is taken over with its reason, and one that is taken is gone', async () => {
  const edit = {
    stepId: 'bench.off',
    words: 'Shut it down, and count to ten.',
    reason: 'The light goes out too early.',
    offered: true,
    by: 'Pim',
    at: '2026-12-03T12:00:00Z',
  };
  serve({
    'GET /api/offers': [
      { tag: 'MR-0417', was: 'Shut it down.', edit },
      { tag: 'MR-0417', was: 'Other.', edit: { ...edit, stepId: 'devices.off' } },
    ],
  });
  const taken = vi.fn();
  show(<Offers id="bench" entry={entry} take={taken} />);
  const [only, second] = await screen.findAllByRole('button', { name: 'Take it over' });
  expect(second).toBeUndefined();
  await userEvent.click(only as HTMLElement);
  expect(taken).toHaveBeenCalledWith(
    { id: 'bench', steps: [{ id: 'off', text: 'Shut it down, and count to ten.' }] },
    'The light goes out too early. (Pim, MR-0417)',
  );
});
