import { fireEvent, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test, vi } from 'vitest';
import type { Schema } from '../api/client';
import { serve, show } from '../test/page';
import { Weights } from './Weights';

const usual = { money: 30, work: 20, risk: 20, support: 20, fit: 10 };

const route = (id: string, flips: object[] = []): Schema['Route'] =>
  ({ id, school: 'patch', system: 'tessaly-6-r2', cures: [], flips }) as never;

function sliders(chosen?: string, routes: Schema['Route'][] = []) {
  serve({});
  const set = vi.fn();
  show(<Weights routes={routes} usual={usual} chosen={chosen} set={set} />, '/machines/MR-0404/routes');
  return set;
}

test('the sliders stand at what suits the order, and one that moves takes the others along', async () => {
  const set = sliders();
  const money = await screen.findByRole('slider', { name: /money/ });
  expect(money).toHaveProperty('value', '30');
  fireEvent.change(money, { target: { value: '55' } });
  expect(set).toHaveBeenLastCalledWith('55,20,20,20,10');
  expect(money).toHaveProperty('value', '55');
});

test('all of them at nothing would rank nothing: the last stays', async () => {
  const set = sliders('40,0,0,0,0');
  const money = await screen.findByRole('slider', { name: /money/ });
  fireEvent.change(money, { target: { value: '0' } });
  expect(set).not.toHaveBeenCalled();
  expect(money).toHaveProperty('value', '40');
});

test('back to what suits the order is offered only where somebody moved one', async () => {
  const set = sliders('1,2,3,4,5');
  await userEvent.click(await screen.findByRole('button', { name: 'Back to what suits the order' }));
  expect(set).toHaveBeenLastCalledWith(null);
  expect(screen.getByRole('slider', { name: /support/ })).toHaveProperty('value', '20');
});

test('the nearest weight at which another route leads is named', async () => {
  const other = route('b');
  const best = route('a', [
    { criterion: 'support', at: 61.4, below: 'a', above: 'b' },
    { criterion: 'support', at: 24.6, below: 'b', above: 'a' },
  ]);
  sliders(undefined, [best, other]);
  const support = (await screen.findByRole('slider', { name: /support/ })).closest('label');
  expect(support?.textContent).toContain('above 25:');
  expect((screen.getByRole('slider', { name: /fit/ }).closest('label') as HTMLElement).textContent).toContain(
    'the first stays first',
  );
});
