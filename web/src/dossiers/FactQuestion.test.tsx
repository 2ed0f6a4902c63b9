import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { serve, show } from '../test/page';
import { FactQuestion } from './FactQuestion';

const definition = (more: Partial<Schema['FactDefinition']>) =>
  ({
    label: 'Battery',
    rung: 'parts',
    form: 'choice',
    unit: null,
    choices: [
      { value: 'flat', meaning: 'lies flat' },
      { value: 'swollen', meaning: 'swollen' },
    ],
    derived: false,
    howToMeasure: 'Lay a straight edge on it.',
    minutes: 2,
    ...more,
  }) as Schema['FactDefinition'];
const keys = [
  definition({ key: 'parts.battery' }),
  definition({ key: 'memory.installedMiB', label: 'Memory', form: 'whole', unit: 'MiB', choices: [] }),
];

const ask = (factKey: string, answer: unknown = {}, more: object = {}) => {
  localStorage.setItem('fresh-boot-who', 'Marga Toth');
  const asked = serve({
    'PUT /api/machines/MR-0404/facts/parts.battery': answer,
    'PUT /api/machines/MR-0404/facts/memory.installedMiB': answer,
  });
  show(<FactQuestion tag="MR-0404" factKey={factKey} keys={keys} {...more} />);
  return asked;
};

test('a click says it, with who looked and where', async () => {
  const asked = ask('parts.battery');
  await userEvent.click(screen.getByRole('radio', { name: 'swollen' }));
  await waitFor(() => {
    expect(asked[0]?.body).toEqual({
      value: 'swollen',
      source: 'seen at the bench',
      by: 'Marga Toth',
    });
  });
});

test('by keyboard the arrows only move; Enter says it', async () => {
  const asked = ask('parts.battery', {}, { value: 'flat' });
  screen.getByRole('radio', { name: 'lies flat' }).focus();
  await userEvent.keyboard('{ArrowRight}');
  expect(asked).toEqual([]);
  await userEvent.keyboard('{Enter}');
  await waitFor(() => {
    expect(asked[0]?.body).toMatchObject({ value: 'swollen' });
  });
});

test('a question that keeps the rung open says how to find it out, and how long that takes', () => {
  ask('parts.battery', {}, { loud: true });
  expect(screen.getByText('Lay a straight edge on it. About 2 min.')).toBeTruthy();
});

test('an amount is typed with its unit; nothing is sent of an empty line', async () => {
  const asked = ask('memory.installedMiB');
  const field = screen.getByLabelText<HTMLInputElement>('Memory');
  expect(field.placeholder).toBe('such as 8 GiB');
  await userEvent.type(field, '  {Enter}');
  expect(asked).toEqual([]);
  await userEvent.type(field, '8 GiB {Enter}');
  await waitFor(() => {
    expect(asked[0]?.body).toMatchObject({ value: '8 GiB' });
  });
});

test('a refused answer says what would be right, and stays in the line', async () => {
  ask(
    'memory.installedMiB',
    Response.json(
      { detail: '“lots” is no amount.', where: 'value', wanted: 'Such as 8 GiB.' },
      { status: 400 },
    ),
  );
  await userEvent.type(screen.getByLabelText('Memory'), 'lots{Enter}');
  expect((await screen.findByRole('alert')).textContent).toContain('Such as 8 GiB.');
  expect(screen.getByLabelText<HTMLInputElement>('Memory').value).toBe('lots');
});

test('a key that nobody knows asks nothing', () => {
  ask('parts.gone');
  expect(screen.queryByRole('radio')).toBeNull();
  expect(screen.queryByRole('textbox')).toBeNull();
});
