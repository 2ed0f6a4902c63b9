import { useState } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../api/client';
import { FactQuestion } from '../dossiers/FactQuestion';
import { useMachine } from '../dossiers/MachinePage';
import { State } from '../preparation/WorkItems';
import { Asides } from './Asides';
import { Happened } from './Happened';
import { Stopped } from './Stopped';
import { Act, Otherwise } from './Act';
import { Choices, Trials } from './Options';
import { SecondProbe } from './SecondProbe';
import { Typed } from './Typed';
import { Wait } from './Wait';
import type { Run } from './run';
import { Simulated } from '../pieces/Simulated';

interface WorkProps {
  run: Run;
  step: Schema['Step'];
  tell: (kind: string, data?: Record<string, string>) => void;
  busy: boolean;
  /** What speaks against a step that was said to be done. */
  asked: string | null;
  /** Whether a key alone ticks it. */
  byKey: boolean;
  /** What stands between the step and what can be said beside it. */
  children: React.ReactNode;
}

export function Work({ run, step, tell, busy, asked, byKey, children }: WorkProps) {
  const { sheet, keys } = useMachine();
  const [tag, setTag] = useState('');
  const [despite, setDespite] = useState('');
  const [seen, setSeen] = useState<string | null>(null);
  const known =
    step.wants && step.wants !== 'probe' ? sheet.facts.find((f) => f.key === step.wants) : undefined;
  const used = run.items.filter((i) => step.uses.includes(i.id));
  const gone = step.uses.filter((id) => !run.items.some((i) => i.id === id));
  const printed = run.state.output !== null && run.state.output.verdict !== 'done';
  const missing = gone.length > 0 || used.some((i) => !i.holds);
  const held = missing || printed || asked !== null;
  const halted = run.state.stopped || run.state.paused !== null;
  const reason = held && despite.trim() ? { despite: despite.trim() } : {};
  const done = () => {
    tell('done', { ...(step.kind === 'confirm' ? { tag } : {}), ...reason });
  };
  return (
    <>
      {step.command && (
        <Typed
          run={run}
          step={step}
          busy={busy}
          bring={(text) => {
            tell('output', { text });
          }}
        />
      )}
      {step.expect && !step.command && (
        <p className="pt-2 text-lg">
          <span className="caption mr-3">See</span>
          {step.expect}
        </p>
      )}
      {step.harmless.length > 0 && (
        <p className="pt-1 text-quiet">
          <span className="caption mr-3">Harmless</span>
          {step.harmless.join(' ')}
        </p>
      )}
      {step.uses.length > 0 && (
        <Used items={used} gone={gone}>
          {missing && (
            <Reason despite={despite} setDespite={setDespite}>
              Make it under{' '}
              <Link className="font-semibold underline underline-offset-4" to="../prepare">
                Prepare
              </Link>
              , or say why the step goes on without it; it stays in the record.
            </Reason>
          )}
        </Used>
      )}
      {printed && !missing && (
        <Reason despite={despite} setDespite={setDespite}>
          Bring its output once more, or say why it is done all the same; it stays in the record.
        </Reason>
      )}
      {asked !== null && !missing && !printed && (
        <div role="alert" className="mt-3 border-l-4 border-setting pl-3">
          <Reason despite={despite} setDespite={setDespite}>
            <b>{asked}</b> {step.kind === 'wait' ? 'Wait' : 'Put it right'}, or say why it is done all the
            same; the reason stays in the record.
          </Reason>
        </div>
      )}
      {step.kind === 'wait' && <Wait run={run} step={step} />}
      {step.wants === 'probe' && (
        <SecondProbe
          run={run}
          begin={() => {
            tell('begun');
          }}
          answer={(data) => {
            tell('accepted', data);
          }}
          busy={busy}
        />
      )}
      {step.wants && step.wants !== 'probe' && (
        <FactQuestion
          tag={run.tag}
          factKey={step.wants}
          keys={keys}
          {...(known ? { value: String(known.value) } : {})}
        />
      )}
      {step.kind === 'confirm' && (
        <form
          className="mt-4"
          onSubmit={(event) => {
            event.preventDefault();
            done();
          }}
        >
          <label className="block max-w-md">
            <span>Scan or type the tag to go on</span>
            <input
              data-scan="field"
              autoComplete="off"
              spellCheck={false}
              value={tag}
              className="block h-14 w-full border-b-[3px] border-ink bg-transparent font-value text-[32px] uppercase"
              onChange={(event) => {
                setTag(event.target.value);
              }}
            />
          </label>
        </form>
      )}
      {step.kind === 'trial' && !halted && (
        <Trials
          run={run}
          step={step}
          busy={busy || (held && despite.trim().length < 3)}
          tell={(kind, data) => {
            tell(kind, kind === 'done' ? { ...data, ...reason } : data);
          }}
        />
      )}
      {step.kind === 'choose' && !halted && (
        <Choices
          step={step}
          busy={busy || (held && despite.trim().length < 3)}
          tell={(kind, data) => {
            tell(kind, { ...data, ...reason });
          }}
        />
      )}
      {run.state.paused !== null && (
        <p role="status" className="mt-3 border-l-4 border-setting pl-3 text-lg font-semibold">
          Laid aside: {run.state.paused}
        </p>
      )}
      {run.state.because && (
        <p role="status" className="mt-3 border-l-4 border-wall pl-3 text-lg font-semibold text-wall">
          {run.state.because}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-4 py-4">
        {halted ? (
          <Act
            main
            busy={busy}
            onClick={() => {
              tell('resumed');
            }}
          >
            Go on
          </Act>
        ) : step.kind === 'wait' && !run.state.waiting ? (
          <Act
            main
            busy={busy}
            onClick={() => {
              tell('begun');
            }}
          >
            It has begun
          </Act>
        ) : step.kind === 'trial' || step.kind === 'choose' ? null : (
          <Act
            main
            busy={
              busy ||
              (step.kind === 'confirm' && tag.trim() === '') ||
              (held && despite.trim().length < 3) ||
              (step.wants === 'probe' && (!run.proved || run.acceptance.some((l) => l.proof === 'failed')))
            }
            onClick={done}
          >
            {step.kind === 'wait'
              ? 'It has ended'
              : step.kind === 'confirm'
                ? 'Do it'
                : step.kind === 'check'
                  ? 'As it should be'
                  : 'Done'}
          </Act>
        )}
        {!halted && (
          <Act
            busy={busy}
            onClick={() => {
              setSeen(seen === null ? '' : null);
            }}
          >
            It stopped
          </Act>
        )}
        {byKey && (
          <span className="text-quiet">
            Enter: {step.kind === 'check' ? 'as it should be' : 'done'}
            {step.branches.length > 0 && ' · x: otherwise'}
          </span>
        )}
      </div>
      {!halted && seen !== null && (
        <form
          aria-label="It stopped"
          className="flex items-end gap-3 pb-3"
          onSubmit={(event) => {
            event.preventDefault();
            tell('stopped', seen.trim() ? { text: seen.trim() } : {});
          }}
        >
          <label className="flex-1">
            <span className="caption block">
              What is on the screen?{step.branches.length > 0 && ' It may be one of those below.'}
            </span>
            <input
              autoFocus
              maxLength={500}
              value={seen}
              className="h-11 w-full border-b-2 border-ink bg-transparent text-lg"
              onChange={(event) => {
                setSeen(event.target.value);
              }}
            />
          </label>
          <button disabled={busy} className="min-h-11 border-[1.5px] border-ink px-4 font-semibold">
            Stop here
          </button>
        </form>
      )}
      {run.state.stopped && <Stopped run={run} tell={tell} busy={busy} />}
      {!halted && step.branches.length > 0 && (
        <Otherwise
          branches={step.branches}
          busy={busy}
          take={(outcome) => {
            tell('done', { outcome });
          }}
        />
      )}
      <Happened run={run} step={step.id} />
      {children}
      <Asides run={run} step={step} tell={tell} busy={busy} />
    </>
  );
}

/** What the step uses, as it stands now; where something does not hold, the step wants the reason for going on. */
function Used({
  items,
  gone,
  children,
}: {
  items: Schema['WorkItem'][];
  gone: string[];
  children: React.ReactNode;
}) {
  return (
    <div className="mt-3 border-l-2 border-ink pl-3">
      <ul aria-label="What this step uses">
        {items.map((item) => (
          <li key={item.id} className="flex flex-wrap items-center gap-x-3 py-0.5" data-item={item.id}>
            <State item={item} />
            <b>{item.title}</b>
            <span className="text-quiet">{item.says}</span>
            <Simulated
              says={item.simulated}
              imageId={item.imageId}
              sha256={item.from.find((f) => f.what === 'image')?.value}
            />
          </li>
        ))}
        {gone.map((id) => (
          <li key={id} className="py-0.5">
            <b>{id}</b> <span className="text-quiet">is not in the plan any more.</span>
          </li>
        ))}
      </ul>
      {children}
    </div>
  );
}

/** Why a step goes on although something speaks against it. */
function Reason({
  despite,
  setDespite,
  children,
}: {
  despite: string;
  setDespite: (text: string) => void;
  children: React.ReactNode;
}) {
  return (
    <label className="block max-w-2xl pt-1">
      <span>{children}</span>
      <input
        aria-label="Why it goes on without"
        maxLength={500}
        value={despite}
        className="block h-11 w-full border-b-2 border-ink bg-transparent"
        onChange={(event) => {
          setDespite(event.target.value);
        }}
      />
    </label>
  );
}
