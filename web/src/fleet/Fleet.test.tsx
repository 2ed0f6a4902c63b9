import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { Fleet } from './Fleet';

const row = (tag: string, order: string | null, ...outcomes: string[]) => ({
  tag,
  maker: 'Brackwater',
  model: 'Stile 14',
  order,
  outcomes,
});
const page = () => {
  serve({
    'GET /api/matrix': {
      systems: [
        { id: 'a', name: 'Tessaly 6' },
        { id: 'b', name: 'Wickerwork 26' },
      ],
      machines: [
        row('MR-0401', 'Seed Library', 'wall', 'caveat'),
        row('MR-0402', null, 'wall', 'patch'),
        row('MR-0403', 'Seed Library', 'clear', 'clear'),
      ],
    },
    'GET /api/machines': [{ tag: 'MR-0401', aim: 'b', run: null }],
    'GET /api/matrix/parts': [],
  });
  show(<Fleet />, '/fleet');
};
const tags = () => [...document.querySelectorAll('tbody th[scope=row] b')].map((b) => b.textContent);

test('what goes as it is is counted, a caveat among it and nothing worse', async () => {
  page();
  expect((await screen.findByRole('heading', { level: 1 })).textContent).toBe(
    '3 machines, 2 systems: 2 go as they are.',
  );
});

test('words and an outcome narrow the list, and the groups stay in order', async () => {
  page();
  await screen.findByRole('heading', { level: 1 });
  expect(tags()).toEqual(['MR-0401', 'MR-0403', 'MR-0402']);
  await userEvent.type(screen.getByLabelText('Only those with'), 'stile seed');
  expect(tags()).toEqual(['MR-0401', 'MR-0403']);
  await userEvent.selectOptions(screen.getByLabelText('and somewhere'), 'wall');
  expect(tags()).toEqual(['MR-0401']);
  await userEvent.type(screen.getByLabelText('Only those with'), ' quince');
  expect(screen.getByText('No machine fits.')).toBeTruthy();
});

test('arrow keys walk through the cells, one of which is in the order of Tab', async () => {
  page();
  const first = await screen.findByRole('button', { name: 'MR-0401, Tessaly 6: wall' });
  expect(document.querySelectorAll('[data-at][tabindex="0"]').length).toBe(1);
  first.focus();
  await userEvent.keyboard('{ArrowRight}');
  // Its aim is said, not only drawn.
  expect(document.activeElement?.getAttribute('aria-label')).toBe('MR-0401, Wickerwork 26: caveat, its aim');
  await userEvent.keyboard('{ArrowDown}{ArrowDown}{ArrowDown}');
  expect(document.activeElement?.getAttribute('aria-label')).toBe('MR-0402, Wickerwork 26: patch');
});
