import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { type Asked, serve, show } from '../test/page';
import { RunView } from './RunView';

type Step = Schema['Step'];

const step = (id: string, kind: Step['kind'], more: Partial<Step> = {}): Step =>
  ({
    id,
    rung: 'setup',
    kind,
    text: `Step ${id}.`,
    caution: null,
    usualMinutes: 3,
    shortestMinutes: null,
    worryMinutes: null,
    command: null,
    expect: null,
    wants: null,
    opens: null,
    closes: null,
    uses: [],
    ...more,
  }) as Step;

const item = (id: string, state: Schema['WorkItemState'], needed = true): Schema['WorkItem'] =>
  ({
    id,
    kind: id,
    rung: 'medium',
    title: `The ${id}`,
    state,
    says: `It is ${state}.`,
    needed,
    from: [],
    next: null,
    evidence: [],
    imageId: null,
    mediumId: null,
    holds: state === 'ready' || !needed,
  }) as never;

function run(steps: Step[], more: object = {}, state: object = {}) {
  return {
    id: 'r1',
    tag: 'MR-0404',
    system: 'tessaly-6-r2',
    school: 'patch',
    by: 'Pim',
    startedAt: '2026-12-03T12:00:00Z',
    steps,
    events: [],
    seq: 7,
    state: { current: 0, stopped: false, waiting: null, open: [], finishedAt: null, code: null, ...state },
    chain: 'whole',
    items: [],
    proved: false,
    acceptance: [],
    override: null,
    ...more,
  };
}

function at(sheet: ReturnType<typeof run>): Asked[] {
  localStorage.setItem('fresh-boot-who', 'Odalys Brandt');
  const asked = serve({
    'GET /api/machines': [{ tag: 'MR-0404', run: { id: 'r1' } }],
    'GET /api/runs/r1': sheet,
    'POST /api/runs/r1/events': sheet,
  });
  show(<RunView />);
  return asked;
}

const said = (asked: Asked[]) =>
  asked.filter((a) => a.method === 'POST').map((a) => a.body as Record<string, unknown>);

test('a step that uses something stale is held, until somebody says why it goes on', async () => {
  const asked = at(
    run([step('boot', 'do', { uses: ['image', 'medium'] })], {
      items: [item('image', 'stale'), item('medium', 'ready')],
    }),
  );
  const done = await screen.findByRole('button', { name: 'Done' });
  expect(done).toHaveProperty('disabled', true);
  expect(screen.getByRole('list', { name: 'What this step uses' }).textContent).toContain('It is stale.');

  await userEvent.type(screen.getByLabelText('Why it goes on without'), ' ok');
  expect(done, 'a reason is more than two letters').toHaveProperty('disabled', true);
  await userEvent.type(screen.getByLabelText('Why it goes on without'), ', the old stick is proved ');
  await userEvent.click(done);
  expect(said(asked)).toMatchObject([
    {
      kind: 'done',
      stepId: 'boot',
      expectedSeq: 7,
      by: 'Odalys Brandt',
      data: { despite: 'ok, the old stick is proved' },
    },
  ]);
});

test('a step whose items are ready, or not needed, asks for no reason', async () => {
  const asked = at(
    run([step('boot', 'do', { uses: ['image', 'answers'] })], {
      items: [item('image', 'ready'), item('answers', 'missing', false)],
    }),
  );
  await userEvent.click(await screen.findByRole('button', { name: 'Done' }));
  expect(screen.queryByLabelText('Why it goes on without')).toBeNull();
  expect(said(asked)).toMatchObject([{ kind: 'done', data: {} }]);
});

test('an item that the plan has no more holds its step, and is named', async () => {
  at(run([step('boot', 'do', { uses: ['image', 'recipe-gates'] })], { items: [item('image', 'ready')] }));
  expect(await screen.findByRole('button', { name: 'Done' })).toHaveProperty('disabled', true);
  expect(screen.getByRole('list', { name: 'What this step uses' }).textContent).toContain(
    'recipe-gates is not in the plan any more',
  );
});

test('what cannot be undone wants the tag, and the tag goes with it', async () => {
  const asked = at(run([step('erase', 'confirm', { caution: 'Everything on it is lost.' })]));
  const button = await screen.findByRole('button', { name: 'Do it' });
  expect(screen.getByText('Everything on it is lost.', { exact: false })).toBeTruthy();
  expect(button).toHaveProperty('disabled', true);
  await userEvent.type(screen.getByLabelText('Scan or type the tag to go on'), 'MR-0404{Enter}');
  await waitFor(() => {
    expect(said(asked)).toMatchObject([{ kind: 'done', stepId: 'erase', data: { tag: 'MR-0404' } }]);
  });
});

test('the second probe gives a code first, and is done only when a bundle with it is in', async () => {
  const probe = step('probe', 'measure', { wants: 'probe' });
  const asked = at(run([probe]));
  expect(await screen.findByRole('button', { name: 'Done' })).toHaveProperty('disabled', true);
  await userEvent.click(screen.getByRole('button', { name: 'Give the code' }));
  expect(said(asked)).toMatchObject([{ kind: 'begun', stepId: 'probe' }]);
});

test('with a code it shows how each way carries it, and what is still missing', async () => {
  at(run([step('probe', 'measure', { wants: 'probe' })], {}, { code: 'abcd2345' }));
  expect((await screen.findByLabelText('Code of this step')).textContent).toBe('abcd2345');
  expect(screen.getByText('sh fresh-boot-probe.sh --code abcd2345')).toBeTruthy();
  expect(screen.getByRole('status').textContent).toContain('No new bundle with this code is in yet.');
  expect(screen.getByRole('button', { name: 'Done' })).toHaveProperty('disabled', true);
});

test('a wait begins, and ends by a person', async () => {
  at(run([step('copying', 'wait', { usualMinutes: 25, shortestMinutes: 10, worryMinutes: 60 })]));
  expect(await screen.findByRole('button', { name: 'It has begun' })).toBeTruthy();
  expect(screen.getByText(/not sensible before 10, worry after 60/)).toBeTruthy();
  expect(screen.queryByRole('timer')).toBeNull();
});

test('a wait that takes longer than it should says what to do', async () => {
  const begun = new Date(Date.now() - 3_600_000).toISOString();
  at(
    run(
      [step('copying', 'wait', { usualMinutes: 5, shortestMinutes: 1, worryMinutes: 10 })],
      {},
      {
        waiting: {
          begunAt: begun,
          usualAt: new Date(Date.now() - 3_300_000).toISOString(),
          worryAt: new Date(Date.now() - 3_000_000).toISOString(),
        },
      },
    ),
  );
  expect(await screen.findByText(/Longer than it should take: look at the screen/)).toBeTruthy();
  expect(screen.getByRole('button', { name: 'It has ended' })).toBeTruthy();
});

test('a run that was stopped offers to go on, and nothing else moves it', async () => {
  const asked = at(run([step('boot', 'do')], {}, { stopped: true }));
  await userEvent.click(await screen.findByRole('button', { name: 'Go on' }));
  expect(screen.queryByRole('button', { name: 'Done' })).toBeNull();
  expect(said(asked)).toMatchObject([{ kind: 'resumed' }]);
});

test('a note is kept with the step, an empty one is not', async () => {
  const asked = at(run([step('boot', 'do')]));
  await userEvent.click(await screen.findByRole('button', { name: 'Note' }));
  await userEvent.type(screen.getByLabelText('Note'), '  the hinge is loose {Enter}');
  await userEvent.click(await screen.findByRole('button', { name: 'Note' }));
  await userEvent.type(screen.getByLabelText('Note'), '   {Enter}');
  expect(said(asked)).toMatchObject([{ kind: 'note', data: { text: 'the hinge is loose' } }]);
  expect(said(asked)).toHaveLength(1);
});

test('what is open stays in sight, and a broken record is said', async () => {
  at(run([step('boot', 'do')], { chain: 'broken at event 3' }, { open: ['start from a stick is allowed'] }));
  expect(await screen.findByText(/start from a stick is allowed/)).toBeTruthy();
  expect(screen.getByText('record broken at event 3')).toBeTruthy();
});

test('a command is shown with what it prints', async () => {
  at(run([step('identity', 'type', { command: 'cp identity.json /media/stick/', expect: 'nothing' })]));
  expect(await screen.findByText('cp identity.json /media/stick/')).toBeTruthy();
  expect(screen.getByText('nothing')).toBeTruthy();
});

test('a refusal says what, where and what would be right, and the step stays', async () => {
  localStorage.setItem('fresh-boot-who', 'Odalys Brandt');
  serve({
    'GET /api/machines': [{ tag: 'MR-0404', run: { id: 'r1' } }],
    'GET /api/runs/r1': run([step('boot', 'do')]),
    'POST /api/runs/r1/events': Response.json(
      { detail: 'Somebody else was quicker.', where: 'expectedSeq', wanted: '8 instead of 7' },
      { status: 409 },
    ),
  });
  show(<RunView />);
  await userEvent.click(await screen.findByRole('button', { name: 'Done' }));
  const alert = await screen.findByRole('alert');
  expect(alert.textContent).toContain('Somebody else was quicker.');
  expect(alert.textContent).toContain('8 instead of 7');
  expect(screen.getByText('Step boot.')).toBeTruthy();
});

test('without a run it leads to the routes', async () => {
  serve({ 'GET /api/machines': [{ tag: 'MR-0404', run: null }] });
  show(<RunView />);
  expect((await screen.findByRole('link', { name: 'Routes' })).getAttribute('href')).toBe(
    '/machines/MR-0404/routes',
  );
});
