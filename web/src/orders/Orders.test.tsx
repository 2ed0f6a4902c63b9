import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { serve, show } from '../test/page';
import { Orders } from './Orders';

const order: Schema['Order'] = {
  id: 'brackwater',
  name: 'Brackwater Library',
  about: 'Reading room',
  machines: 4,
  due: '2026-12-20',
  newOwner: true,
  shared: true,
  everyday: false,
  lookedAfterBy: 'shop',
  needs: [{ kind: 'budget', hard: true, purpose: null, until: null, money: 4500 }],
};

const page = (more: Record<string, unknown> = {}, at = '/orders') => {
  localStorage.setItem('fresh-boot-who', 'Odalys Brandt');
  const asked = serve({ 'GET /api/orders': [{ order, version: 3 }], 'GET /api/machines': [], ...more });
  show(<Orders />, at);
  return asked;
};

const sent = (asked: ReturnType<typeof serve>, method: string) =>
  asked.find((a) => a.method === method)?.body as { order: Schema['Order']; version?: number; by: string };

test('a change is sent with the version that was read, and by whom', async () => {
  const asked = page({ 'PUT /api/orders/brackwater': { order, version: 4 } });
  const form = await screen.findByRole('form', { name: 'Order of Brackwater Library' });
  await userEvent.clear(within(form).getByLabelText('Machines'));
  await userEvent.type(within(form).getByLabelText('Machines'), '6');
  await userEvent.click(within(form).getByRole('button', { name: 'Save the order' }));
  await waitFor(() => {
    expect(sent(asked, 'PUT')).toMatchObject({ version: 3, by: 'Odalys Brandt', order: { machines: 6 } });
  });
});

test('a limit can become a wish, and what it asks for stays', async () => {
  const asked = page({ 'PUT /api/orders/brackwater': { order, version: 4 } });
  await userEvent.selectOptions(await screen.findByLabelText('at most, a machine: limit or wish'), 'wish');
  expect(screen.getByLabelText<HTMLInputElement>('Budget a machine, in marks').value).toBe('45');
  await userEvent.click(screen.getByRole('button', { name: 'Save the order' }));
  await waitFor(() => {
    expect(sent(asked, 'PUT').order.needs).toEqual([
      { kind: 'budget', hard: false, purpose: null, until: null, money: 4500 },
    ]);
  });
});

test('a need that is ticked begins as a wish, with a value where it wants one', async () => {
  const asked = page({ 'PUT /api/orders/brackwater': { order, version: 4 } });
  await userEvent.click(await screen.findByLabelText('updates until'));
  await userEvent.click(screen.getByLabelText('video calls'));
  await userEvent.click(screen.getByLabelText('at most, a machine'));
  await userEvent.click(screen.getByRole('button', { name: 'Save the order' }));
  await waitFor(() => {
    expect(sent(asked, 'PUT').order.needs).toEqual([
      { kind: 'supportUntil', hard: false, purpose: null, until: '2029-12-31', money: null },
      { kind: 'program', hard: false, purpose: 'calls', until: null, money: null },
    ]);
  });
});

test('a new order is announced without a version, and then stands open', async () => {
  const asked = page(
    { 'POST /api/orders': { order: { ...order, id: 'hollin' }, version: 1 } },
    '/orders?order=new',
  );
  const form = await screen.findByRole('form', { name: 'New order' });
  await userEvent.type(within(form).getByLabelText('Who ordered'), 'Hollin School');
  await userEvent.click(within(form).getByLabelText('strangers share it'));
  await userEvent.click(within(form).getByRole('button', { name: 'Take the order' }));
  await waitFor(() => {
    expect(sent(asked, 'POST')).toMatchObject({ order: { name: 'Hollin School', shared: true, due: null } });
  });
  expect(await screen.findByText('/orders?order=hollin')).toBeTruthy();
});

test('a refusal stands in the form, and what was written is still there', async () => {
  page({
    'PUT /api/orders/brackwater': Response.json(
      { detail: 'Somebody else changed this order.', where: 'version', wanted: 'Read it again.' },
      { status: 409 },
    ),
  });
  const about = await screen.findByLabelText<HTMLTextAreaElement>('What it is for');
  await userEvent.type(about, ', upstairs');
  await userEvent.click(screen.getByRole('button', { name: 'Save the order' }));
  expect((await screen.findByRole('alert')).textContent).toContain('Somebody else changed this order.');
  expect(about.value).toBe('Reading room, upstairs');
});
