import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../api/client';
import { machines, run as runQuery, useImport, useSay } from '../api/queries';
import { FactQuestion } from '../dossiers/FactQuestion';
import { useMachine } from '../dossiers/MachinePage';
import { State } from '../preparation/WorkItems';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { countdown, useNow } from './clock';

type Run = Schema['RunSheetView'];

/** The run of this machine: one step fills the sheet, the next two stand below it. */
export function RunView() {
  const { sheet } = useMachine();
  const glance = useQuery(machines).data?.find((m) => m.tag === sheet.tag)?.run;
  const { data, error } = useQuery({
    ...runQuery(glance?.id ?? ''),
    enabled: glance !== null && glance !== undefined,
  });
  if (error) return <Failed error={error} />;
  if (glance === null)
    return (
      <p className="pt-2">
        No run has begun. Choose a way under{' '}
        <Link className="font-semibold underline underline-offset-4" to={`/machines/${sheet.tag}/routes`}>
          Routes
        </Link>
        .
      </p>
    );
  if (!data) return <Loading />;
  return <Sheet key={data.state.current} run={data} />;
}

function Sheet({ run }: { run: Run }) {
  const say = useSay(run.id);
  const [who] = useWho();
  const heading = useRef<HTMLHeadingElement>(null);
  const step = run.steps[run.state.current];
  useEffect(() => {
    heading.current?.focus({ preventScroll: true });
  }, []);

  const tell = (kind: string, data?: Record<string, string>) => {
    if (!step) return;
    say.mutate({
      eventId: crypto.randomUUID(),
      expectedSeq: run.seq,
      kind,
      stepId: step.id,
      by: who || nobody,
      data: data ?? null,
    });
  };

  return (
    <section aria-label="Run" className="flex min-h-[520px] flex-col">
      <header className="flex justify-between border-b-2 border-quiet pb-1 text-quiet">
        <span>
          step {Math.min(run.state.current + 1, run.steps.length)} of {run.steps.length} · begun{' '}
          {clockTime(run.startedAt)} · {run.by}
        </span>
        <span className={run.chain === 'whole' ? '' : 'font-semibold text-wall'}>
          record {run.chain === 'whole' ? 'whole' : run.chain}
        </span>
      </header>
      {step ? (
        <>
          <h2
            ref={heading}
            tabIndex={-1}
            className={`pt-3 font-name leading-[1.04] font-bold outline-none ${step.text.length > 90 ? 'text-[34px]' : 'text-[44px]'}`}
            data-loud
          >
            {run.state.stopped && <span className="text-wall">Stopped: </span>}
            {step.text}
          </h2>
          {step.caution && (
            <p className="mt-3 border-l-4 border-setting pl-3 text-lg">
              <b>Caution.</b> {step.caution}
            </p>
          )}
          <Work run={run} step={step} tell={tell} busy={say.isPending} />
          {say.error && <Failed error={say.error} />}
          <Open run={run} />
          <div className="mt-auto border-t border-rule pt-2">
            {run.steps.slice(run.state.current + 1, run.state.current + 3).map((next, i) => (
              <p key={next.id} className={`flex gap-4 ${i > 0 ? 'text-quiet' : ''}`}>
                <span className="caption w-10 pt-0.5">{i === 0 ? 'next' : ''}</span>
                <span className="flex-1">{next.text}</span>
                <span className="text-quiet">
                  {next.usualMinutes} min, {next.kind === 'wait' ? 'waiting' : 'hands'}
                </span>
              </p>
            ))}
          </div>
        </>
      ) : (
        <Finished run={run} heading={heading} />
      )}
    </section>
  );
}

interface WorkProps {
  run: Run;
  step: Schema['Step'];
  tell: (kind: string, data?: Record<string, string>) => void;
  busy: boolean;
}

function Work({ run, step, tell, busy }: WorkProps) {
  const { sheet, keys } = useMachine();
  const [tag, setTag] = useState('');
  const [note, setNote] = useState<string | null>(null);
  const [despite, setDespite] = useState('');
  const known =
    step.wants && step.wants !== 'probe' ? sheet.facts.find((f) => f.key === step.wants) : undefined;
  const used = run.items.filter((i) => step.uses.includes(i.id));
  const gone = step.uses.filter((id) => !run.items.some((i) => i.id === id));
  const held = gone.length > 0 || used.some((i) => !i.holds);
  const reason = held && despite.trim() ? { despite: despite.trim() } : {};
  const done = () => {
    tell('done', { ...(step.kind === 'confirm' ? { tag } : {}), ...reason });
  };
  return (
    <>
      {step.command && (
        <div className="mt-3">
          <p className="caption">Type</p>
          <pre className="overflow-x-auto border-l-2 border-ink bg-sheet px-3 py-2 font-value text-base whitespace-pre-wrap">
            {step.command}
          </pre>
          <p>
            It prints <b className="font-value">{step.expect}</b>. Anything else: stop and read it.
          </p>
        </div>
      )}
      {step.uses.length > 0 && (
        <Used items={used} gone={gone} held={held} despite={despite} setDespite={setDespite} />
      )}
      {step.kind === 'wait' && <Wait run={run} step={step} />}
      {step.wants === 'probe' && (
        <SecondProbe
          run={run}
          begin={() => {
            tell('begun');
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
      <div className="flex flex-wrap items-center gap-4 py-4">
        {run.state.stopped ? (
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
        ) : (
          <Act
            main
            busy={
              busy ||
              (step.kind === 'confirm' && tag.trim() === '') ||
              (held && despite.trim().length < 3) ||
              (step.wants === 'probe' && !run.proved)
            }
            onClick={done}
          >
            {step.kind === 'wait'
              ? 'It has ended'
              : step.kind === 'confirm'
                ? 'Do it'
                : step.kind === 'check'
                  ? 'It is so'
                  : 'Done'}
          </Act>
        )}
        {!run.state.stopped && (
          <Act
            busy={busy}
            onClick={() => {
              tell('stopped');
            }}
          >
            It stopped
          </Act>
        )}
        {note === null ? (
          <Act
            busy={busy}
            onClick={() => {
              setNote('');
            }}
          >
            Note
          </Act>
        ) : (
          <form
            className="flex flex-1 gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (note.trim()) tell('note', { text: note.trim() });
              setNote(null);
            }}
          >
            <input
              aria-label="Note"
              autoFocus
              maxLength={500}
              value={note}
              className="min-h-11 flex-1 border-b-2 border-ink bg-transparent"
              onChange={(event) => {
                setNote(event.target.value);
              }}
            />
            <button className="min-h-11 px-3 font-semibold">Save note</button>
          </form>
        )}
      </div>
    </>
  );
}

function Act({
  main = false,
  busy,
  onClick,
  children,
}: {
  main?: boolean;
  busy: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      disabled={busy}
      onClick={onClick}
      className={`min-h-12 px-6 text-lg font-semibold ${main ? 'bg-ink text-ground' : 'border-[1.5px] border-ink'}`}
    >
      {children}
    </button>
  );
}

/** The wait in numerals that are read across the room, and a bar that fills towards the time to worry. */
function Wait({ run, step }: { run: Run; step: Schema['Step'] }) {
  const now = useNow();
  const { waiting } = run.state;
  if (!waiting)
    return (
      <p className="pt-3 text-lg">
        About {step.usualMinutes} min; not sensible before {step.shortestMinutes}, worry after{' '}
        {step.worryMinutes}. Other machines can be worked on meanwhile.
      </p>
    );
  const begun = Date.parse(waiting.begunAt);
  const worry = Date.parse(waiting.worryAt);
  const share = (at: number) => `${Math.min(100, Math.max(0, ((at - begun) / (worry - begun)) * 100))}%`;
  const late = now > worry;
  return (
    <div className="pt-3">
      <p
        className="font-name text-[96px] leading-none font-bold"
        data-loud
        role="timer"
        aria-label="Left of the usual time"
      >
        {countdown(waiting.usualAt, now)}
      </p>
      <div className="relative mt-3 h-4 border-[1.5px] border-ink" aria-hidden="true">
        <div className="h-full bg-ink" style={{ width: share(now) }} />
        <div
          className="absolute inset-y-0 w-0.5 bg-quiet"
          style={{ left: share(Date.parse(waiting.usualAt)) }}
        />
      </div>
      <p className={late ? 'font-semibold text-wall' : 'text-quiet'}>
        {late
          ? 'Longer than it should take: look at the screen, then say “It stopped”.'
          : `usual ${step.usualMinutes} min · worry after ${step.worryMinutes} min, at ${clockTime(waiting.worryAt)}`}
      </p>
    </div>
  );
}

/** What the step uses, as it stands now; where something does not hold, the step wants the reason for going on. */
function Used({
  items,
  gone,
  held,
  despite,
  setDespite,
}: {
  items: Schema['WorkItem'][];
  gone: string[];
  held: boolean;
  despite: string;
  setDespite: (text: string) => void;
}) {
  return (
    <div className="mt-3 border-l-2 border-ink pl-3">
      <ul aria-label="What this step uses">
        {items.map((item) => (
          <li key={item.id} className="flex flex-wrap items-center gap-x-3 py-0.5" data-item={item.id}>
            <State item={item} />
            <b>{item.title}</b>
            <span className="text-quiet">{item.says}</span>
          </li>
        ))}
        {gone.map((id) => (
          <li key={id} className="py-0.5">
            <b>{id}</b> <span className="text-quiet">is not in the plan any more.</span>
          </li>
        ))}
      </ul>
      {held && (
        <label className="block max-w-2xl pt-1">
          <span>
            Make it under{' '}
            <Link className="font-semibold underline underline-offset-4" to="../prepare">
              Prepare
            </Link>
            , or say why the step goes on without it; it stays in the record.
          </span>
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
      )}
    </div>
  );
}

/** The second probe: the step gives a code, and only a new bundle that carries it proves anything. */
function SecondProbe({ run, begin, busy }: { run: Run; begin: () => void; busy: boolean }) {
  const bring = useImport();
  const code = run.state.code;
  if (!code)
    return (
      <div className="mt-3">
        <p>The bundle has to carry a code that this step gives, so that an older one is not taken for it.</p>
        <button
          type="button"
          disabled={busy}
          className="mt-2 min-h-12 border-[1.5px] border-ink px-6 text-lg font-semibold"
          onClick={begin}
        >
          Give the code
        </button>
      </div>
    );
  return (
    <div className="mt-3 border-2 border-dashed border-quiet p-4">
      <p className="font-value text-[40px] leading-none font-bold" data-loud aria-label="Code of this step">
        {code}
      </p>
      <p className="pt-2">
        In a live system: <b className="font-value">sh fresh-boot-probe.sh --code {code}</b>. The probe stick
        asks for it at its start; a command from Take in carries it by itself.
      </p>
      <label className="block pt-2 font-semibold">
        Bundle of the second probe
        <input
          type="file"
          className="mt-2 block font-value text-sm file:mr-4 file:min-h-11 file:border-[1.5px] file:border-ink file:bg-transparent file:px-4 file:text-ink"
          onChange={(event) => {
            const files = [...(event.target.files ?? [])];
            if (files.length > 0) bring.mutate({ tag: run.tag, files, known: true });
          }}
        />
      </label>
      <p role="status">
        {run.proved
          ? 'A new bundle with this code is in.'
          : bring.data
            ? `${bring.data.facts.length} facts stand now, but the bundle does not carry this code, or was here before.`
            : 'No new bundle with this code is in yet.'}
      </p>
      {bring.error && <Failed error={bring.error} />}
    </div>
  );
}

function Open({ run }: { run: Run }) {
  if (run.state.open.length === 0) return null;
  return (
    <p className="border-l-4 border-setting pl-3">
      <b>To be closed again:</b> {run.state.open.join('; ')}.
    </p>
  );
}

function Finished({ run, heading }: { run: Run; heading: React.RefObject<HTMLHeadingElement | null> }) {
  return (
    <>
      <h2
        ref={heading}
        tabIndex={-1}
        className="pt-3 font-name text-[44px] leading-none font-bold outline-none"
        data-loud
      >
        Every step is done.
      </h2>
      <AcceptanceList lines={run.acceptance} />
      <p className="pt-3">
        <Link
          className="flex min-h-11 items-center font-semibold underline underline-offset-4"
          to={`/machines/${run.tag}/handover`}
        >
          Hand it over
        </Link>
      </p>
    </>
  );
}

const mark: Record<Schema['Proof'], string> = { proved: '✓', open: '○', failed: '✕' };

export function AcceptanceList({ lines }: { lines: Schema['AcceptanceLine'][] }) {
  return (
    <ul className="pt-3" aria-label="Acceptance list">
      {lines.map((line) => (
        <li key={line.line} className="flex gap-3 border-b border-rule py-1.5">
          <span
            aria-hidden="true"
            className={
              line.proof === 'proved' ? 'text-clear' : line.proof === 'failed' ? 'text-wall' : 'text-unknown'
            }
          >
            {mark[line.proof]}
          </span>
          <b className="w-72">{line.line}</b>
          <span>
            <span className="text-quiet">{line.proof}: </span>
            {line.says}
          </span>
        </li>
      ))}
    </ul>
  );
}

const clockTime = (iso: string) =>
  new Date(Date.parse(iso) + 3_600_000).toLocaleTimeString('en-GB', {
    timeZone: 'UTC',
    hour: '2-digit',
    minute: '2-digit',
  });
