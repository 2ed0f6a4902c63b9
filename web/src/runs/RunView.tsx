import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { fails, Refusal, type Schema } from '../api/client';
import { run as runQuery, useSay, useSayAll } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { clockTime } from '../shell/time';
import type { Run } from './run';
import { AcceptanceList } from '../handover/AcceptanceList';
import { Act } from './Act';
import { useLineKeys } from './lineKeys';
import { Ticked, ToCome } from './Lines';
import { isPlain, isShort, keepShort, placeOf } from './stops';
import { Work } from './StepWork';

const whereOf: Record<Schema['StepPlace'], string> = {
  machine: 'at the machine',
  outgoing: 'in the system that is on it',
  installer: 'in the installer',
  system: 'in the new system',
  otherComputer: 'at another computer',
  programmer: 'at the unlocked command line',
};

/** The run of this machine: one step fills the sheet, the next two stand below it. */
export function RunView() {
  const { sheet } = useMachine();
  const glance = sheet.run;
  const [apartAt, setApartAt] = useState<number | null>(null);
  const { data, error } = useQuery({
    ...runQuery(glance?.id ?? ''),
    enabled: glance !== null,
  });
  if (fails(error, data)) return <Failed error={error} />;
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
  return <Sheet key={data.state.current} run={data} apartAt={apartAt} setApartAt={setApartAt} />;
}

function Sheet({
  run,
  apartAt,
  setApartAt,
}: {
  run: Run;
  /** The stop that is gone through line by line although sheets are shown in short. */
  apartAt: number | null;
  setApartAt: (stop: number | null) => void;
}) {
  const say = useSay(run.id);
  const { sheet } = useMachine();
  const [who] = useWho();
  const [saidOf, setSaidOf] = useState<unknown>();
  const heading = useRef<HTMLHeadingElement>(null);
  const step = run.steps[run.state.current];
  const place = placeOf(run, step);
  const [short, setShort] = useState(isShort);
  const apart = apartAt === place?.number;
  const sayAll = useSayAll(run.id);
  const rest = place?.lines.slice(place.line + 1) ?? [];
  const halted = run.state.stopped || run.state.paused !== null;
  // In short a stop is one line; what can hurt or lose something, and what went otherwise, is shown as ever.
  const inOne =
    short && !apart && !halted && step !== undefined && !step.on && rest.length > 0
      ? [step, ...rest].every((line) => isPlain(run, line))
      : false;
  useEffect(() => {
    heading.current?.focus({ preventScroll: true });
  }, []);

  const section = useRef<HTMLElement>(null);
  const byKey = step !== undefined && !halted && (inOne || isPlain(run, step));
  useLineKeys(byKey, section, heading);

  // What can be seen to be otherwise is asked about once; with the reason it goes on, and without one when it is put right.
  const entered = sheet.facts.find((f) => f.key === step?.wants)?.value;
  const asked =
    say.error instanceof Refusal && say.error.where === 'data.despite' && entered === saidOf
      ? say.error.message
      : null;
  const tell = (kind: string, data?: Record<string, string>) => {
    if (!step) return;
    setSaidOf(entered);
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
    <section ref={section} aria-label="Run" className="flex min-h-[520px] flex-col">
      <header className="flex justify-between gap-5 border-b-2 border-quiet pb-1 text-quiet">
        <span>
          {step && `${whereOf[step.where]} · `}
          {step?.on && 'on a way round · '}
          {place && `stop ${String(place.number)} of ${String(place.of)} · `}
          {place &&
            place.lines.length > 1 &&
            `line ${String(place.line + 1)} of ${String(place.lines.length)} · `}
          begun {clockTime(run.startedAt)} · {run.state.with ?? run.by}
        </span>
        <button
          type="button"
          aria-pressed={short}
          title="One line for each stop. What can hurt somebody or lose something is shown as ever."
          className={`ml-auto underline-offset-4 hover:underline ${short ? 'font-semibold text-ink underline' : ''}`}
          onClick={() => {
            keepShort(!short);
            setShort(!short);
            setApartAt(null);
          }}
        >
          Short
        </button>
        <a
          className="underline underline-offset-4"
          href={`/api/runs/${run.id}/sheet${short ? '?inShort=true' : ''}`}
          target="_blank"
          rel="noreferrer"
        >
          on paper
        </a>
        {run.chain !== 'whole' && (
          <span role="alert" className="font-semibold text-wall">
            The record is {run.chain}: it proves nothing.
          </span>
        )}
      </header>
      {step && place ? (
        <>
          {place.stop.title && !inOne && <p className="caption pt-3">{place.stop.title}</p>}
          <Ticked run={run} lines={place.lines.slice(0, place.line)} />
          {inOne ? (
            <InOne
              title={place.stop.title ?? step.text}
              lines={[step, ...rest]}
              heading={heading}
              busy={sayAll.isPending}
              all={() => {
                sayAll.mutate(
                  [step, ...rest].map((line) => ({
                    eventId: crypto.randomUUID(),
                    kind: 'done',
                    stepId: line.id,
                    by: who || nobody,
                    data: { inOne: 'yes' },
                  })),
                );
              }}
              apart={() => {
                setApartAt(place.number);
              }}
            />
          ) : (
            <>
              <h2
                ref={heading}
                tabIndex={-1}
                className={`pt-3 font-name leading-[1.04] font-bold outline-none ${sizeOf(step.text, place.lines.length)}`}
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
              <Work run={run} step={step} tell={tell} busy={say.isPending} asked={asked} byKey={byKey}>
                <ToCome lines={rest} />
              </Work>
            </>
          )}
          {say.error && asked === null && entered === saidOf && <Failed error={say.error} />}
          {sayAll.error && <Failed error={sayAll.error} />}
          <Open run={run} />
          <div className="mt-auto border-t border-rule pt-2">
            {run.stops.slice(place.number, place.number + 2).map((next, i) => (
              <Next key={next.steps[0]} run={run} stop={next} isFirst={i === 0} />
            ))}
          </div>
        </>
      ) : (
        <Finished run={run} heading={heading} />
      )}
    </section>
  );
}

/** The line in hand fills the page where it stands alone; in a list it leaves room for the others. */
const sizeOf = (text: string, lines: number) =>
  lines > 1 ? 'text-[28px]' : text.length > 90 ? 'text-[34px]' : 'text-[44px]';

/** A stop that comes after this one, in a line. */
function Next({ run, stop, isFirst }: { run: Run; stop: Schema['Stop']; isFirst: boolean }) {
  const lines = stop.steps.flatMap((id) => run.steps.find((s) => s.id === id) ?? []);
  const minutes = lines.reduce((sum, line) => sum + line.usualMinutes, 0);
  return (
    <p className={`flex gap-4 ${isFirst ? '' : 'text-quiet'}`}>
      <span className="caption w-10 pt-0.5">{isFirst ? 'next' : ''}</span>
      <span className="flex-1">
        {stop.title ?? lines[0]?.text}
        {lines.length > 1 && <span className="text-quiet"> ({lines.length} lines)</span>}
      </span>
      <span className="text-quiet">
        {minutes} min, {lines[0]?.kind === 'wait' ? 'waiting' : 'hands'}
      </span>
    </p>
  );
}

/** A whole stop, said in one; the record keeps each line, and that they were said so. */
function InOne({
  title,
  lines,
  heading,
  busy,
  all,
  apart,
}: {
  title: string;
  lines: Schema['Step'][];
  heading: React.RefObject<HTMLHeadingElement | null>;
  busy: boolean;
  all: () => void;
  apart: () => void;
}) {
  return (
    <>
      <h2
        ref={heading}
        tabIndex={-1}
        className="pt-3 font-name text-[28px] leading-tight font-bold outline-none"
        data-loud
      >
        {title}
      </h2>
      <ToCome lines={lines} isShort />
      <div className="flex flex-wrap items-center gap-4 pb-4">
        <Act main busy={busy} onClick={all}>
          All {lines.length} as described
        </Act>
        <Act busy={busy} onClick={apart}>
          Line by line
        </Act>
        <span className="text-quiet">Enter: all as described</span>
      </div>
    </>
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
      <AcceptanceList lines={run.acceptance} tag={run.tag} />
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
