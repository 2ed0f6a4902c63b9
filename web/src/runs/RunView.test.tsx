import { QueryClient } from '@tanstack/react-query';
import { fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test, vi } from 'vitest';
import type { Schema } from '../api/client';
import { run as runQuery } from '../api/queries';
import { type Asked, serve, show } from '../test/page';
import { scanPause } from '../shell/scan';
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
    where: 'machine',
    harmless: [],
    branches: [],
    options: [],
    carries: false,
    isPlain: (kind === 'do' || kind === 'check') && !more.caution && !more.wants,
    on: null,
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
    simulated: null,
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
    stops: steps
      .filter((s) => !s.on)
      .map((s) => ({ title: null, steps: [s.id], isDanger: s.caution !== null })),
    events: [],
    seq: 7,
    state: {
      current: 0,
      stopped: false,
      waiting: null,
      open: [],
      finishedAt: null,
      code: null,
      because: null,
      taken: {},
      output: null,
      paused: null,
      with: null,
      trials: [],
      otherwise: [],
      takesBack: null,
      ...state,
    },
    chain: 'whole',
    items: [],
    proved: false,
    acceptance: [],
    override: null,
    worked: null,
    ...more,
  };
}

function at(sheet: ReturnType<typeof run>): Asked[] {
  localStorage.setItem('fresh-boot-who', 'Odalys Brandt');
  const asked = serve({
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
  await userEvent.type(screen.getByLabelText('What is worth keeping?'), '  the hinge is loose {Enter}');
  await userEvent.click(await screen.findByRole('button', { name: 'Note' }));
  await userEvent.type(screen.getByLabelText('What is worth keeping?'), '   {Enter}');
  expect(said(asked)).toMatchObject([{ kind: 'note', data: { text: 'the hinge is loose' } }]);
  expect(said(asked)).toHaveLength(1);
});

test('what is open stays in sight, and a broken record is said', async () => {
  at(run([step('boot', 'do')], { chain: 'broken at event 3' }, { open: ['start from a stick is allowed'] }));
  expect(await screen.findByText(/start from a stick is allowed/)).toBeTruthy();
  expect(screen.getByText(/broken at event 3: it proves nothing/)).toBeTruthy();
});

test('what can be seen to be otherwise is asked about once, and goes on with the reason', async () => {
  const asked = serve({
    'GET /api/runs/r1': run([step('boot', 'do')]),
    'POST /api/runs/r1/events': Response.json(
      { detail: 'It says “Tessaly 5”.', where: 'data.despite', wanted: 'Why.' },
      { status: 409 },
    ),
  });
  show(<RunView />);
  await userEvent.click(await screen.findByRole('button', { name: 'Done' }));
  expect(await screen.findByText('It says “Tessaly 5”.')).toBeTruthy();
  expect(screen.getByRole('button', { name: 'Done' })).toHaveProperty('disabled', true);
  await userEvent.type(screen.getByLabelText('Why it goes on without'), 'the owner wants it');
  await userEvent.click(screen.getByRole('button', { name: 'Done' }));
  await waitFor(() => {
    expect(asked.filter((a) => a.method === 'POST').at(-1)?.body).toMatchObject({
      data: { despite: 'the owner wants it' },
    });
  });
});

test('a command is shown with what it prints', async () => {
  at(run([step('identity', 'type', { command: 'cp identity.json /media/stick/', expect: 'nothing' })]));
  expect(await screen.findByText('cp identity.json /media/stick/')).toBeTruthy();
  expect(screen.getByText('nothing')).toBeTruthy();
});

test('a refusal says what, where and what would be right, and the step stays', async () => {
  localStorage.setItem('fresh-boot-who', 'Odalys Brandt');
  serve({
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
  serve({});
  show(<RunView />, '/machines/MR-0404/run', { run: null });
  expect((await screen.findByRole('link', { name: 'Routes' })).getAttribute('href')).toBe(
    '/machines/MR-0404/routes',
  );
});

const looks = step('boot', 'do', {
  text: 'Start the installer.',
  expect: 'Its first question.',
  harmless: ['A line about a missing picture.'],
  branches: [
    { when: 'It is not listed', stop: null, then: ['port', 'again'] },
    { when: 'It smokes', stop: 'Off, and to somebody who is trained.', then: [] },
  ],
});
const port = step('port', 'do', { text: 'Another port.', on: { step: 'boot', when: 'It is not listed' } });

test('a step says what to see and what is harmless, and each other way with what follows', async () => {
  at(run([looks, port, step('next', 'do')]));
  expect(await screen.findByText('Its first question.')).toBeTruthy();
  expect(screen.getByText('A line about a missing picture.')).toBeTruthy();
  expect(screen.getByText('2 more steps')).toBeTruthy();
  expect(screen.getByText('the run stops')).toBeTruthy();
  expect(screen.getByText(/stop 1 of 2/), 'steps of a branch count only where it was taken').toBeTruthy();
  expect(screen.queryByText('Another port.')).toBeNull();
});

test('another way is said in the words of the sheet', async () => {
  const asked = at(run([looks, port, step('next', 'do')]));
  await userEvent.click(await screen.findByRole('button', { name: 'It is not listed' }));
  await waitFor(() => {
    expect(said(asked)[0]).toMatchObject({
      kind: 'done',
      stepId: 'boot',
      data: { outcome: 'It is not listed' },
    });
  });
});

test('on a way round its steps are shown, and the place counts them', async () => {
  at(run([looks, port, step('next', 'do')], {}, { current: 1, taken: { boot: 'It is not listed' } }));
  expect(await screen.findByText('Another port.')).toBeTruthy();
  expect(screen.getByText(/on a way round · stop 1 of 2/)).toBeTruthy();
});

test('a run that a branch stopped says why, and offers only to go on', async () => {
  at(run([looks, port], {}, { stopped: true, because: 'Off, and to somebody who is trained.' }));
  expect(await screen.findByText('Off, and to somebody who is trained.')).toBeTruthy();
  expect(screen.getByRole('button', { name: 'Go on' })).toBeTruthy();
  expect(screen.queryByRole('region', { name: 'Otherwise' })).toBeNull();
});

const typed = step('read', 'type', { command: 'flash-chip read a.rom', expect: 'EQUAL' });

test('what a command printed is brought in, its end where it is long', async () => {
  const asked = at(run([typed]));
  const field = await screen.findByLabelText('What it printed');
  await userEvent.click(field);
  await userEvent.paste('x'.repeat(30_000) + 'EQUAL');
  await userEvent.click(screen.getByRole('button', { name: 'Compare it' }));
  await waitFor(() => {
    const data = said(asked)[0]?.['data'] as { text: string };
    expect(data.text).toHaveLength(20_000);
    expect(data.text.endsWith('EQUAL')).toBe(true);
  });
});

test.each([
  ['wrong', 'Wrong: it should print “EQUAL”.', true],
  ['notYet', 'It still works.', true],
  ['done', 'As it should be.', false],
])('an output that is %s says so, and holds the step or lets it go', async (verdict, says, held) => {
  at(run([typed], {}, { output: { verdict, line: 'the line' } }));
  expect(await screen.findByText(says)).toBeTruthy();
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Done' }).disabled).toBe(held);
  if (held) {
    await userEvent.type(screen.getByLabelText('Why it goes on without'), 'seen with my own eyes');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Done' }).disabled).toBe(false);
  }
});

test('the courier shows where the command stands, as text and as a code for a phone', async () => {
  serve({
    'GET /api/runs/r1': run([typed]),
    'POST /api/runs/r1/courier': {
      code: 'k7m2',
      address: 'http://bench/c/k7m2',
      expiresAt: '',
      listening: false,
    },
  });
  show(<RunView />);
  await userEvent.click(await screen.findByRole('button', { name: 'Send it over' }));
  expect(await screen.findByText('http://bench/c/k7m2')).toBeTruthy();
  expect(screen.getByRole('img', { name: 'QR code of http://bench/c/k7m2' }).getAttribute('src')).toBe(
    '/c/k7m2/qr.svg',
  );
  expect(screen.getByText(/Only this computer reaches it/)).toBeTruthy();
});

test('an older answer that comes late does not take the page back a step', async () => {
  const first = run([step('one', 'do'), step('two', 'do')]);
  const client = new QueryClient();
  const { queryKey } = runQuery('r1');
  const shown = () => client.getQueryData<typeof first>(queryKey)?.state.current;
  let answer: (response: Response) => void = () => undefined;
  vi.stubGlobal('fetch', () => new Promise<Response>((resolve) => (answer = resolve)));
  const late = client.query(runQuery('r1'));
  client.setQueryDefaults(queryKey, runQuery('r1') as object);
  client.setQueryData(queryKey, { ...first, seq: 8, state: { ...first.state, current: 1 } } as never);
  answer(Response.json(first));
  await late;
  expect(shown()).toBe(1);
  client.setQueryData(queryKey, { ...first, seq: 9, state: { ...first.state, current: 2 } } as never);
  expect(shown()).toBe(2);
});

test('what is said beside a step asks for words, and only what fits the step is offered', async () => {
  const asked = at(
    run([step('look', 'check', { expect: 'So.' }), step('close', 'do', { carries: true })], {
      events: [
        {
          eventId: 'e1',
          seq: 1,
          kind: 'note',
          stepId: 'look',
          by: 'Pim',
          at: '2026-12-03T12:00:00Z',
          data: { text: 'The left hinge is loose.' },
          says: 'The left hinge is loose.',
        },
        {
          eventId: 'e2',
          seq: 2,
          kind: 'photo',
          stepId: 'look',
          by: 'Pim',
          at: '2026-12-03T12:01:00Z',
          data: { photo: '3' },
          says: null,
        },
        {
          eventId: 'e3',
          seq: 3,
          kind: 'note',
          stepId: 'close',
          by: 'Pim',
          at: '2026-12-03T12:02:00Z',
          data: { text: 'Of another step.' },
          says: 'Of another step.',
        },
      ],
    }),
  );
  const notes = await screen.findByRole('list', { name: 'Said at this step' });
  expect(notes.textContent).toContain('The left hinge is loose.');
  expect(notes.textContent).not.toContain('another step');
  expect(screen.getByAltText('Photograph of this step, by Pim').getAttribute('src')).toBe(
    '/api/machines/MR-0404/photos/3',
  );
  expect(screen.queryByRole('button', { name: 'Take the last step back' })).toBeNull();

  await userEvent.click(screen.getByRole('button', { name: 'Leave out' }));
  await userEvent.type(screen.getByLabelText('Why does it not apply here?'), 'It has none.{Enter}');
  expect(said(asked)).toMatchObject([{ kind: 'skipped', stepId: 'look', data: { text: 'It has none.' } }]);
});

test('what later steps rest on is not left out, and what was said by mistake is taken back', async () => {
  const asked = at(
    run(
      [step('look', 'check', { expect: 'So.' }), step('close', 'do', { carries: true })],
      {},
      { current: 1, takesBack: 'look' },
    ),
  );
  expect(await screen.findByRole('button', { name: 'In another way' })).toBeDefined();
  expect(screen.queryByRole('button', { name: 'Leave out' })).toBeNull();
  await userEvent.click(screen.getByRole('button', { name: 'Take the last step back' }));
  expect(said(asked)).toMatchObject([{ kind: 'undone', stepId: 'close' }]);
});

test('a run that is laid aside says why and goes on when somebody says so', async () => {
  const asked = at(
    run([step('look', 'check', { expect: 'So.' })], {}, { paused: 'Waits for the module.', with: 'Odalys' }),
  );
  expect((await screen.findByRole('status')).textContent).toContain('Waits for the module.');
  expect(screen.queryByRole('button', { name: 'As it should be' })).toBeNull();
  expect(screen.queryByRole('button', { name: 'In another way' })).toBeNull();
  expect(screen.getByText(/Odalys/)).toBeDefined();
  await userEvent.click(screen.getByRole('button', { name: 'Go on' }));
  expect(said(asked)).toMatchObject([{ kind: 'resumed' }]);
});

test('a trial goes through its list one change at a time, what worked on this board first', async () => {
  const asked = at(
    run(
      [step('boot', 'trial', { options: ['one port', 'another port', 'the other entry'], carries: true })],
      { worked: { tag: 'MR-0409', what: 'the other entry', at: '2026-12-01T12:00:00Z' } },
      {
        trials: [{ stepId: 'boot', what: 'one port', worked: false, by: 'Pim', at: '2026-12-03T12:00:00Z' }],
      },
    ),
  );
  const list = await screen.findByRole('region', { name: 'Trials' });
  expect([...list.querySelectorAll('li')].map((l) => l.textContent.slice(0, 16))).toEqual([
    expect.stringContaining('1one port'),
    expect.stringContaining('2the other entry'),
    expect.stringContaining('3another port'),
    expect.anything(),
  ]);
  expect(list.textContent).toContain('worked on MR-0409');
  expect(screen.queryByRole('button', { name: 'Done' })).toBeNull();
  const [worked] = screen.getAllByRole('button', { name: 'It worked' });
  const [didNot] = screen.getAllByRole('button', { name: 'It did not' });
  await userEvent.click(didNot as HTMLElement);
  await userEvent.click(worked as HTMLElement);
  expect(said(asked)).toMatchObject([
    { kind: 'tried', data: { what: 'the other entry' } },
    { kind: 'done', data: { worked: 'the other entry' } },
  ]);
});

test('a choice is kept with its step', async () => {
  const asked = at(run([step('method', 'choose', { options: ['clear', 'purge'] })]));
  await userEvent.click(await screen.findByRole('button', { name: 'purge' }));
  expect(said(asked)).toMatchObject([{ kind: 'done', data: { chosen: 'purge' } }]);
});

test('a step is put in other words for a reason, and offered to the catalogue', async () => {
  const asked = at(run([step('look', 'check', { expect: 'So.' })]));
  await userEvent.click(await screen.findByRole('button', { name: 'Change its words' }));
  const words = screen.getByLabelText('As it should read on this machine');
  const keep = screen.getByRole('button', { name: 'Keep it' });
  await userEvent.clear(words);
  await userEvent.type(words, 'Look at the left.');
  expect(keep, 'no reason yet').toHaveProperty('disabled', true);
  await userEvent.type(screen.getByLabelText('Why'), 'Here it is at the left.');
  await userEvent.click(screen.getByLabelText('Offer it to the catalogue'));
  await userEvent.click(keep);
  expect(said(asked)).toMatchObject([
    {
      kind: 'edited',
      data: { step: 'look', words: 'Look at the left.', text: 'Here it is at the left.', offer: 'yes' },
    },
  ]);
});

const line = (id: string, proof: Schema['Proof'], mayAccept = true): Schema['AcceptanceLine'] => ({
  id,
  line: `The ${id}`,
  rung: 'parts',
  proof,
  by: 'probe',
  says: '6 GiB of 16 GiB',
  evidence: null,
  before: '15.6 GiB',
  mayAccept,
  instead: null,
  isOpen: proof !== 'proved',
});

test('what the new probe shows otherwise holds the step, and somebody may answer for it by name', async () => {
  const asked = at(
    run(
      [step('probe', 'measure', { wants: 'probe' })],
      { proved: true, acceptance: [line('memory', 'failed'), line('drive', 'proved')] },
      { code: 'abcd2345' },
    ),
  );
  const otherwise = await screen.findByRole('region', { name: 'The new probe shows it otherwise' });
  expect(otherwise.textContent).toContain('6 GiB of 16 GiB · before the work: 15.6 GiB');
  expect(otherwise.textContent).not.toContain('The drive');
  expect(screen.getByRole('button', { name: 'Done' })).toHaveProperty('disabled', true);
  await userEvent.type(
    screen.getByLabelText('Why “The memory” may stay so'),
    'the board sees no more{Enter}',
  );
  await waitFor(() => {
    expect(said(asked)).toMatchObject([
      { kind: 'accepted', stepId: 'probe', data: { accepts: 'memory', text: 'the board sees no more' } },
    ]);
  });
});

test('what nobody may answer for is mended, or stays', async () => {
  at(
    run(
      [step('probe', 'measure', { wants: 'probe' })],
      { proved: true, acceptance: [line('same', 'failed', false)] },
      { code: 'abcd2345' },
    ),
  );
  await screen.findByRole('region', { name: 'The new probe shows it otherwise' });
  expect(screen.queryByRole('button', { name: 'I answer for it' })).toBeNull();
});

test('a run is given up only when what it opened is said to be closed again', async () => {
  const asked = at(
    run([step('boot', 'do')], {}, { stopped: true, open: ['write protection of the firmware is off'] }),
  );
  await userEvent.click(await screen.findByRole('button', { name: 'give this run up' }));
  await userEvent.type(screen.getByLabelText('Why it is given up'), 'its graphics are dead');
  await userEvent.click(screen.getByLabelText(/^no: it is marked so/));
  const give = screen.getByRole('button', { name: 'Give the run up' });
  expect(give).toHaveProperty('disabled', true);
  await userEvent.click(screen.getByLabelText('Closed again: write protection of the firmware is off'));
  await userEvent.click(give);
  expect(said(asked)).toMatchObject([
    { kind: 'givenUp', data: { text: 'its graphics are dead', starts: 'no', closed: 'yes' } },
  ]);
});

const listed = (steps: Step[], more: object = {}, state: object = {}) =>
  run(
    steps,
    {
      stops: [{ title: 'Devices', steps: steps.filter((s) => !s.on).map((s) => s.id), isDanger: false }],
      ...more,
    },
    state,
  );

test('a stop shows all of its lines, and Enter ticks the one in hand', async () => {
  const steps = [
    step('sound', 'check'),
    step('wired', 'check', { expect: 'It opens.' }),
    step('clock', 'check'),
  ];
  const asked = at(listed(steps, {}, { current: 1 }));
  expect((await screen.findByRole('list', { name: 'Done in this stop' })).textContent).toContain(
    'Step sound.',
  );
  expect(screen.getByRole('list', { name: 'Also in this stop' }).textContent).toContain('Step clock.');
  expect(screen.getByText(/stop 1 of 1 · line 2 of 3/)).toBeTruthy();
  await userEvent.keyboard('{Enter}');
  await waitFor(() => {
    expect(said(asked)).toHaveLength(1);
  });
  expect(said(asked)[0]).toMatchObject({ kind: 'done', stepId: 'wired' });
});

test('a line that went otherwise, or was left out, is not ticked', async () => {
  at(
    listed(
      [step('sound', 'check'), step('wired', 'check'), step('clock', 'check')],
      { events: [{ eventId: 'e', seq: 2, kind: 'skipped', stepId: 'wired', says: 'Left out', data: {} }] },
      { current: 2, taken: { sound: 'It does not work' } },
    ),
  );
  const lines = await screen.findByRole('list', { name: 'Done in this stop' });
  expect(lines.textContent).toContain('It does not work: Step sound.');
  expect(lines.textContent).toContain('Left out: Step wired.');
  expect(lines.textContent).not.toContain('✓');
});

test('what can be lost is never ticked by Enter, and x goes to what may be otherwise', async () => {
  const branches = [{ when: 'It beeps', stop: 'Take it out.', then: [] }];
  const asked = at(listed([step('in', 'do', { caution: 'It may break.', branches }), step('seen', 'check')]));
  await screen.findByRole('heading', { name: 'Step in.' });
  await userEvent.keyboard('{Enter}');
  expect(said(asked)).toHaveLength(0);
  await new Promise((done) => setTimeout(done, 2 * scanPause));
  await userEvent.keyboard('x');
  await waitFor(() => {
    expect(document.activeElement?.textContent).toBe('It beeps');
  });
});

test('what a scanner reads ticks nothing and goes nowhere, whatever it reads', async () => {
  const branches = [{ when: 'It hums', stop: 'Replace it.', then: [] }];
  const asked = at(listed([step('sound', 'check', { branches }), step('clock', 'check')]));
  const heading = await screen.findByRole('heading', { name: 'Step sound.' });
  let now = 1000;
  for (const key of ['4', '0', '0', '6', 'x', '8', '1', 'x', 'Enter']) {
    const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true });
    Object.defineProperty(event, 'timeStamp', { value: now });
    fireEvent(document.body, event);
    now += 10;
  }
  await new Promise((done) => setTimeout(done, 2 * scanPause));
  expect(said(asked)).toHaveLength(0);
  expect(document.activeElement).toBe(heading);
});

test('in short a stop is one line, said in one, and each of its lines is kept', async () => {
  const steps = [step('sound', 'check'), step('wired', 'check')];
  const asked = at(listed(steps));
  await userEvent.click(await screen.findByRole('button', { name: 'Short' }));
  await screen.findByRole('heading', { name: 'Devices' });
  await userEvent.click(screen.getByRole('button', { name: 'All 2 as described' }));
  await waitFor(() => {
    expect(said(asked).map((s) => [s['stepId'], s['data']])).toEqual([
      ['sound', { inOne: 'yes' }],
      ['wired', { inOne: 'yes' }],
    ]);
  });
  localStorage.removeItem('fresh-boot-short');
});

test('in short a line that wants something, or can lose something, is shown as ever', async () => {
  localStorage.setItem('fresh-boot-short', 'yes');
  at(listed([step('sound', 'check'), step('named', 'measure', { wants: 'os.name' })]));
  await screen.findByRole('heading', { name: 'Step sound.' });
  expect(screen.queryByRole('button', { name: /as described/ })).toBeNull();
  localStorage.removeItem('fresh-boot-short');
});
