import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { BoardView } from './BoardView';

const verdict = (...outcomes: string[]) => ({
  effective: [],
  findings: outcomes.map((outcome, i) => ({ outcome, line: i + 1, text: `${outcome} says` })),
});
const sheet = (own: boolean) => ({
  text: 'arm_freq=1500',
  own,
  verdict: verdict(),
  board: {
    id: 'pear-4',
    name: 'Pear 4',
    supplyMilliamps: 3000,
    largeSupplyMilliamps: 5000,
    assembleMinutes: 20,
    ports: [],
    storage: [],
    builds: [],
    capMenu: null,
    fault: null,
    keys: [],
  },
});
const page = (checked: object) => {
  const asked = serve({
    'GET /api/machines/MR-0404/board': sheet(false),
    'POST /api/boards/config/check': checked,
    'PUT /api/machines/MR-0404/facts/board.settings': {},
  });
  show(<BoardView />, '/machines/MR-0404/board');
  return asked;
};
const keep = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Keep these settings' });

test('settings that the board does not take are not kept', async () => {
  page(verdict('wall'));
  await userEvent.type(await screen.findByLabelText(/config.txt/), '0');
  expect(await screen.findByText('wall says')).toBeTruthy();
  expect(keep().disabled).toBe(true);
  expect(screen.getByText('What the board does not take is mended first.')).toBeTruthy();
});

test('settings that it takes are kept once they differ from what is there', async () => {
  page(verdict('caveat'));
  const text = await screen.findByLabelText(/config.txt/);
  expect(keep().disabled).toBe(true);
  await userEvent.type(text, '0');
  expect(await screen.findByText('caveat says')).toBeTruthy();
  expect(keep().disabled).toBe(false);
});

test('a machine that is no small board is told so, and what would be', async () => {
  serve({
    'GET /api/machines/MR-0404/board': Response.json(
      { detail: 'MR-0404 is no small board.', where: 'tag', wanted: 'A board of the catalogue.' },
      { status: 422 },
    ),
  });
  show(<BoardView />, '/machines/MR-0404/board');
  expect((await screen.findByRole('region', { name: 'Board' })).textContent).toBe(
    'No small board.MR-0404 is no small board. A board of the catalogue.',
  );
});
