import { fireEvent, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test, vi } from 'vitest';
import { serve, show } from '../test/page';
import { Keys } from './keys';

const where = () => screen.getByTestId('where').textContent;

async function at(path: string, beside?: React.ReactNode) {
  serve({});
  show(
    <>
      <Keys />
      {beside}
    </>,
    path,
  );
  await screen.findByTestId('where');
}

/** Keys as a scanner sends them: so many milliseconds apart. */
function type(text: string, pace: number, target: Element = document.body) {
  let now = 1000;
  for (const key of [...text.split(/(?:)/u), 'Enter']) {
    const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true });
    Object.defineProperty(event, 'timeStamp', { value: now });
    fireEvent(target, event);
    now += pace;
  }
}

test('the leader key shows the shortcuts, and a letter after it goes there', async () => {
  await at('/');
  await userEvent.keyboard('.');
  expect((await screen.findByRole('dialog')).textContent).toContain('Take a machine in');
  await userEvent.keyboard('t');
  expect(where()).toBe('/intake');
});

test('on a machine the views are there too, and what the address holds goes along', async () => {
  await at('/machines/MR-0404/systems?aim=tessaly-6-r2');
  await userEvent.keyboard('.r');
  expect(where()).toBe('/machines/MR-0404/routes?aim=tessaly-6-r2');
});

test('a scanned tag opens its machine from anywhere', async () => {
  await at('/orders');
  type('mr-0417', 10);
  expect(where()).toBe('/machines/MR-0417');
});

test('the same by hand is too slow to be a scanner', async () => {
  await at('/orders');
  type('MR-0417', 200);
  expect(where()).toBe('/orders');
});

test('what is no tag opens nothing, however fast', async () => {
  await at('/orders');
  type('4006381333931', 10);
  expect(where()).toBe('/orders');
});

test('in a field that waits for a tag a scan only fills the field', async () => {
  const sent = vi.fn();
  await at('/orders', <input aria-label="tag" data-scan="field" onKeyDown={sent} />);
  type('MR-0417', 10, screen.getByLabelText('tag'));
  expect(where()).toBe('/orders');
  expect(sent).toHaveBeenCalled();
});

test('while somebody writes a letter is a letter', async () => {
  await at('/orders', <input aria-label="note" />);
  await userEvent.type(screen.getByLabelText('note'), '.t');
  expect(where()).toBe('/orders');
  expect(screen.queryByRole('dialog')).toBeNull();
});
