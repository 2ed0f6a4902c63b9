import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { Gives } from './Gives';

const gift = (more: object) => ({
  tag: 'MR-0405',
  model: 'Brackwater Stile 14',
  order: 'seed-library',
  route: 'abc',
  system: 'driftway',
  school: 'lighten',
  reserve: false,
  begun: false,
  money: 0,
  handsOn: 15,
  fit: 100,
  finishes: 0.98,
  aside: null,
  ...more,
});

test('an order that lacks machines says how many, what to ask donors for, and what stands by for none', async () => {
  const asked = serve({
    'GET /api/orders': [{ order: { id: 'seed-library', name: 'Seed Library' } }],
    'GET /api/systems': [{ id: 'driftway', name: 'Driftway', fullName: 'Driftway' }],
    'PUT /api/machines/MR-0405/facts/order.name': {},
  });
  show(
    <Gives
      plan={
        {
          gives: [
            gift({}),
            gift({ tag: 'MR-0404', aside: 'Seed Library' }),
            gift({ tag: 'MR-0409', begun: true }),
          ],
          unfilled: [
            { order: 'seed-library', missing: 9, expected: 2.9, ask: ['Brackwater Stile 14. As it is.'] },
          ],
          left: [{ tag: 'MR-0420', why: 'Its drive is failing.' }],
        } as never
      }
    />,
    '/plan',
  );
  const order = await screen.findByRole('region', { name: 'Seed Library' });
  expect(order.textContent).toContain('3 given');
  expect(order.textContent).toContain('lacks 9; expects 2.9 as things go');
  expect(within(order).getByText('Brackwater Stile 14. As it is.')).toBeTruthy();
  expect(screen.getByText('1 machine goes to nobody')).toBeTruthy();
  // What is begun or set aside already has nothing to press.
  await userEvent.click(within(order).getByRole('button'));
  await waitFor(() => {
    expect(asked.find((a) => a.method === 'PUT')?.body).toMatchObject({ value: 'Seed Library' });
  });
});
