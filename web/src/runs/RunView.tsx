import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { fails, Refusal, type Schema } from '../api/client';
import { run as runQuery, useSay } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { clockTime } from '../shell/time';
import type { Run } from './run';
import { AcceptanceList } from '../handover/AcceptanceList';
import { Work } from './StepWork';

const placeOf: Record<Schema['StepPlace'], string> = {
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
  return <Sheet key={data.state.current} run={data} />;
}

function Sheet({ run }: { run: Run }) {
  const say = useSay(run.id);
  const { sheet } = useMachine();
  const [who] = useWho();
  const [saidOf, setSaidOf] = useState<unknown>();
  const heading = useRef<HTMLHeadingElement>(null);
  const step = run.steps[run.state.current];
  // The way as it was gone: steps of a branch count only where it was taken.
  const way = run.steps.filter((s) => !s.on || run.state.taken[s.on.step] === s.on.when);
  const place = step ? way.indexOf(step) + 1 : way.length;
  useEffect(() => {
    heading.current?.focus({ preventScroll: true });
  }, []);

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
    <section aria-label="Run" className="flex min-h-[520px] flex-col">
      <header className="flex justify-between border-b-2 border-quiet pb-1 text-quiet">
        <span>
          {step && `${placeOf[step.where]} · `}
          {step?.on && 'on a way round · '}step {Math.min(place, way.length)} of {way.length} · begun{' '}
          {clockTime(run.startedAt)} · {run.state.with ?? run.by}
        </span>
        <a
          className="ml-auto underline underline-offset-4"
          href={`/api/runs/${run.id}/sheet`}
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
          <Work run={run} step={step} tell={tell} busy={say.isPending} asked={asked} />
          {say.error && asked === null && entered === saidOf && <Failed error={say.error} />}
          <Open run={run} />
          <div className="mt-auto border-t border-rule pt-2">
            {way.slice(place, place + 2).map((next, i) => (
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
