import { fireEvent, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { EntryForm } from './EntryForm';
import type { JsonObject, Shape } from './schema';

const root: Shape = {
  $defs: {
    condition: { oneOf: [{ type: 'object' }] },
    claim: { type: 'object', required: ['says'], properties: { says: { type: 'string' } } },
  },
};
const shape: Shape = {
  type: 'object',
  required: ['id', 'kind'],
  properties: {
    id: { type: 'string' },
    kind: { enum: ['patch', 'part'] },
    money: { type: 'integer', minimum: 0 },
    irreversible: { type: 'boolean' },
    lifts: { type: 'array', items: { type: 'string' } },
    claims: { type: 'array', items: { $ref: '#/$defs/claim' } },
    install: { type: 'object', properties: { usualMinutes: { type: 'integer' } } },
    needs: { $ref: '#/$defs/condition' },
  },
};

/** Draws the form over an entry, and tells what the entry is after each change. */
function form(start: JsonObject, keys: Schema['FactDefinition'][] = []) {
  let now = start;
  function Held() {
    const [value, setValue] = useState(start);
    now = value;
    return <EntryForm shape={shape} root={root} value={value} set={setValue} keys={keys} />;
  }
  render(<Held />);
  return () => now;
}

const at = (pointer: string) => {
  const field = document.querySelector<HTMLInputElement>(`[data-at="${pointer}"]`);
  if (!field) throw new Error(`there is no field at ${pointer}`);
  return field;
};

test('what the schema demands is asked for; the rest can be added and taken out again', async () => {
  const entry = form({ id: 'x', kind: 'patch' });
  expect(screen.queryByRole('button', { name: 'Take /id out' })).toBeNull();
  await userEvent.selectOptions(screen.getByLabelText('Add to the entry'), 'money');
  expect(entry()).toEqual({ id: 'x', kind: 'patch', money: 0 });
  await userEvent.click(screen.getByRole('button', { name: 'Take /money out' }));
  expect(entry()).toEqual({ id: 'x', kind: 'patch' });
});

test('a member that is changed keeps its place, so that the JSON beside does not jump', async () => {
  const entry = form({ kind: 'patch', money: 3, id: 'x' });
  await userEvent.selectOptions(at('/kind'), 'part');
  expect(Object.keys(entry())).toEqual(['kind', 'money', 'id']);
});

test('each form of value is what it is: numbers whole, ticks true, texts a line each', async () => {
  const entry = form({ id: 'x', kind: 'patch', money: 3, irreversible: false, lifts: [] });
  fireEvent.change(at('/money'), { target: { value: '12.6' } });
  await userEvent.click(at('/irreversible'));
  fireEvent.change(at('/lifts'), { target: { value: 'a/tpm\na/generation' } });
  expect(entry()).toEqual({
    id: 'x',
    kind: 'patch',
    money: 13,
    irreversible: true,
    lifts: ['a/tpm', 'a/generation'],
  });
});

test('an emptied number is not nought, it is not said', () => {
  const entry = form({ id: 'x', kind: 'patch', money: 3 });
  fireEvent.change(at('/money'), { target: { value: '' } });
  expect(entry()).toEqual({ id: 'x', kind: 'patch' });
});

test('a list of objects grows by what each of them must have, and shrinks where asked', async () => {
  const entry = form({ id: 'x', kind: 'patch', claims: [{ says: 'first' }] });
  await userEvent.click(screen.getByRole('button', { name: 'One more /claims' }));
  expect(entry()['claims']).toEqual([{ says: 'first' }, { says: '' }]);
  await userEvent.type(at('/claims/1/says'), 'other');
  expect(entry()['claims']).toEqual([{ says: 'first' }, { says: 'other' }]);
  await userEvent.click(screen.getByRole('button', { name: 'Take /claims/0 out' }));
  expect(entry()['claims']).toEqual([{ says: 'other' }]);
});

test('an object below the entry is a form of its own', () => {
  const entry = form({ id: 'x', kind: 'patch', install: { usualMinutes: 20 } });
  fireEvent.change(at('/install/usualMinutes'), { target: { value: '25' } });
  expect(entry()['install']).toEqual({ usualMinutes: 25 });
});

test('a condition is written as JSON; half of one changes nothing and says so', () => {
  const entry = form({ id: 'x', kind: 'patch', needs: { fact: 'a', atLeast: 1 } });
  fireEvent.change(at('/needs'), { target: { value: '{"fact":"a","atLeast":' } });
  expect(screen.getByText('This is no JSON yet.')).toBeTruthy();
  expect(entry()['needs']).toEqual({ fact: 'a', atLeast: 1 });
  fireEvent.change(at('/needs'), { target: { value: '{"fact":"a","atLeast":2}' } });
  expect(screen.queryByText('This is no JSON yet.')).toBeNull();
  expect(entry()['needs']).toEqual({ fact: 'a', atLeast: 2 });
});

const fact = (key: string, label: string, more: object) =>
  ({ key, label, unit: null, min: null, max: null, choices: [], ordered: false, ...more }) as never;
const known = [
  fact('memory.installedMiB', 'Memory fitted', { form: 'whole', unit: 'MiB', min: 1 }),
  fact('cpu.flags', 'Instruction sets', { form: 'words' }),
  fact('firmware.kind', 'Firmware', {
    form: 'choice',
    choices: [
      { value: 'bios', meaning: 'legacy BIOS' },
      { value: 'uefi64', meaning: 'UEFI, 64-bit' },
    ],
  }),
];

test('a condition is built by choosing facts by their names, in the units that people say', async () => {
  const entry = form(
    { id: 'x', kind: 'patch', needs: { fact: 'memory.installedMiB', atLeast: 1024 } },
    known,
  );
  const amount = screen.getByLabelText('Memory fitted is at least');
  expect(amount).toHaveProperty('value', '1');
  await userEvent.selectOptions(screen.getByLabelText('Unit of Memory fitted is at least'), 'MiB');
  fireEvent.change(amount, { target: { value: '512' } });
  expect(entry()['needs']).toEqual({ fact: 'memory.installedMiB', atLeast: 512 });

  await userEvent.click(screen.getByRole('button', { name: 'One more fact of /needs' }));
  await userEvent.selectOptions(screen.getByLabelText('Fact 2 of /needs'), 'Instruction sets');
  await userEvent.type(screen.getByLabelText('Instruction sets has all of'), 'sse2 cx16');
  await userEvent.tab();
  await userEvent.click(screen.getByRole('button', { name: 'One more fact of /needs' }));
  await userEvent.selectOptions(screen.getByLabelText('Fact 3 of /needs'), 'Firmware');
  await userEvent.click(screen.getByLabelText('UEFI, 64-bit'));
  await userEvent.selectOptions(
    screen.getByLabelText('Whether all or any of /needs must hold'),
    'any of these',
  );
  expect(entry()['needs']).toEqual({
    any: [
      { fact: 'memory.installedMiB', atLeast: 512 },
      { fact: 'cpu.flags', has: ['sse2', 'cx16'] },
      { fact: 'firmware.kind', oneOf: ['bios', 'uefi64'] },
    ],
  });
  await userEvent.click(screen.getByRole('button', { name: 'Take Instruction sets out of /needs' }));
  await userEvent.click(screen.getByRole('button', { name: 'Take Firmware out of /needs' }));
  expect(entry()['needs']).toEqual({ fact: 'memory.installedMiB', atLeast: 512 });
});

test('a condition that says more than a list of facts stays JSON', () => {
  const needs = { all: [{ driven: 'network' }, { fact: 'memory.installedMiB', atLeast: 1 }] };
  form({ id: 'x', kind: 'patch', needs }, known);
  expect(JSON.parse(at('/needs').value)).toEqual(needs);
});
