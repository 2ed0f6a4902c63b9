import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test, vi } from 'vitest';
import type { Schema } from '../api/client';
import { serve, show } from '../test/page';
import { AcceptanceList, AnswerFor } from './AcceptanceList';
import { HandoverView } from './HandoverView';

const line = (id: string, more: Partial<Schema['AcceptanceLine']>) =>
  ({
    id,
    line: id,
    says: `${id} says`,
    by: 'probe',
    proof: 'proved',
    isOpen: false,
    evidence: null,
    before: null,
    rung: 'use',
    ...more,
  }) as never;

test('what stands in the way comes first, and what failed leads to the fault finder', async () => {
  serve({});
  show(
    <AcceptanceList
      tag="MR-0404"
      lines={[
        line('memory', {}),
        line('sound', { proof: 'failed', isOpen: true }),
        line('lid', { proof: 'open', isOpen: true, by: 'step' }),
        line('hinge', { by: 'step', proof: 'accepted', says: 'loose, the owner knows' }),
      ]}
    />,
    '/machines/MR-0404/handover',
  );
  expect(await screen.findByText('2 of 4 still in the way')).toBeTruthy();
  const open = within(screen.getByRole('list', { name: 'Still in the way' }));
  expect(open.getByRole('link', { name: 'Find the fault' }).getAttribute('href')).toBe(
    '/machines/MR-0404/fault',
  );
  expect(screen.getByRole('list', { name: 'Not looked at yet' }).textContent).toContain('lid');
  expect(screen.getByRole('list', { name: 'Acceptance list' }).textContent).toContain('proved: memory says');
  // What a person answers for is not shown as proved.
  expect(screen.getByRole('list', { name: 'Seen by hand' }).textContent).toContain(
    'accepted: loose, the owner knows',
  );
});

test('nobody answers for anything without a reason', async () => {
  serve({});
  const say = vi.fn();
  show(<AnswerFor line={line('hinge', {})} busy={false} say={say} />, '/machines/MR-0404/handover');
  await userEvent.type(await screen.findByLabelText(/may stay so/), '   {Enter}');
  expect(say).not.toHaveBeenCalled();
  await userEvent.type(screen.getByLabelText(/may stay so/), 'the owner knows{Enter}');
  expect(say).toHaveBeenCalledWith({ accepts: 'hinge', text: 'the owner knows' });
});

test('a machine that may not leave has no paper to take along', async () => {
  serve({
    'GET /api/machines/MR-0404/handover': Response.json(
      { detail: 'The run is not finished.', where: 'tag', wanted: 'Finish the run.' },
      { status: 409 },
    ),
    'GET /api/machines/MR-0404/acceptance': [],
  });
  show(<HandoverView />, '/machines/MR-0404/handover');
  expect((await screen.findByRole('heading', { level: 2 })).textContent).toBe('Not yet.');
  expect(screen.getByText('The run is not finished.')).toBeTruthy();
  expect(screen.queryByRole('link', { name: /print|PDF|ZIP/ })).toBeNull();
});
