import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Schema, take } from '../api/client';
import { useWrite, wholeWays } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { JobLine } from '../jobs/JobLine';
import { RungShape } from '../ladder/RungShape';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** The whole way for real, in an emulated twin: installed, started from its drive, and read by the probe. */
export function WholeWay({ route }: { route: string }) {
  const { sheet } = useMachine();
  const [who] = useWho();
  const last = useQuery(wholeWays(sheet.tag)).data?.[0];
  const [begun, setBegun] = useState<number | null>(null);
  const start = useWrite(() =>
    take(
      api.POST('/api/machines/{tag}/routes/{route}/whole-way', {
        params: { path: { tag: sheet.tag, route } },
        body: { by: who || nobody, limitSeconds: 600, if: null },
      }),
    ),
  );
  const going = last && (last.state === 'running' || last.state === 'queued') ? last.id : begun;
  return (
    <section aria-label="The whole way in the twin" className="border-t-[1.5px] border-ink pt-2">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-1">
        <h2 className="caption">The whole way in the twin</h2>
        <button
          type="button"
          disabled={start.isPending || (last?.state === 'running' && last.id === going)}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold hover:bg-ink hover:text-ground disabled:opacity-50"
          onClick={() => {
            start.mutate(undefined, {
              onSuccess: (job) => {
                setBegun(job.id);
              },
            });
          }}
        >
          Walk the whole way
        </button>
        <span className="text-quiet">
          It installs from the prepared medium onto an empty drive, restarts without the medium, and runs the
          probe. About a minute; no network; nothing of it counts for the machine itself.
        </span>
      </div>
      {start.error && <Failed error={start.error} />}
      {going !== null && going !== last?.id && <JobLine id={going} />}
      {last && last.state !== 'done' && <JobLine id={last.id} failed="The machine was not touched." />}
      {last?.state === 'done' && last.result?.wholeWay && (
        <Walked job={last} way={last.result.wholeWay} current={last.result.wholeWay.route === route} />
      )}
    </section>
  );
}

function Walked({
  job,
  way,
  current,
}: {
  job: Schema['JobSheet'];
  way: Schema['WholeWaySheet'];
  current: boolean;
}) {
  const steps = [
    ['accepted', way.letIn],
    ['installed', way.installed],
    ['started from its drive', way.startedFromDrive],
    ['read by the probe', way.facts.length > 0],
  ] as const;
  const [at, setAt] = useState<number | null>(null);
  const picture = way.screens[at ?? way.screens.length - 1];
  return (
    <figure aria-label="What it showed" className="pt-2" data-whole-way={way.stop ?? 'whole'}>
      <p className="flex flex-wrap items-center gap-x-5 gap-y-1">
        {steps.map(([says, held]) => (
          <span key={says} className="flex items-center gap-2">
            <RungShape outcome={held ? 'clear' : 'wall'} width={40} bar={9} />
            <b className={held ? 'text-clear' : 'text-wall'}>{held ? says : `not ${says}`}</b>
          </span>
        ))}
        <span className="text-quiet">after {job.result?.seconds} s</span>
      </p>
      <p className="pt-1 text-lg">
        {way.stopsAt && <b className="text-wall">Stops at {way.stopsAt}. </b>}
        {job.says}
      </p>
      {!current && (
        <p className="border-l-4 border-setting pl-3">
          It was walked for another route, or before the plan changed: it proves nothing for this one.
        </p>
      )}
      <div className="grid gap-x-5 gap-y-2 pt-2 lg:grid-cols-[minmax(0,560px)_minmax(0,1fr)]">
        <div>
          {picture && (
            <img
              src={picture.url}
              alt={`Screen of the twin. ${picture.says}`}
              className="w-full border-[1.5px] border-ink bg-ink"
              width={1280}
              height={800}
            />
          )}
          <ol aria-label="Its screens" className="flex flex-wrap gap-x-1 gap-y-1 pt-1">
            {way.screens.map((s, i) => (
              <li key={s.url}>
                <button
                  type="button"
                  title={s.says}
                  aria-label={s.says}
                  aria-pressed={i === (at ?? way.screens.length - 1)}
                  className={`h-8 min-w-8 border-[1.5px] px-1 font-value text-sm ${i === (at ?? way.screens.length - 1) ? 'border-ink bg-ink text-ground' : 'border-quiet'}`}
                  onClick={() => {
                    setAt(i);
                  }}
                >
                  {i + 1}
                </button>
              </li>
            ))}
          </ol>
          <p className="text-sm text-quiet">
            {picture?.says}. From {way.medium}.
          </p>
        </div>
        <figcaption className="min-w-0">
          {way.acceptance.length > 0 && (
            <ul aria-label="Acceptance in the twin" className="text-[14.5px]">
              {way.acceptance.map((line) => (
                <li key={line.line} className="flex items-center gap-2 border-b border-rule py-0.5">
                  <RungShape
                    outcome={line.proof === 'failed' ? 'wall' : line.proof === 'open' ? 'unknown' : 'clear'}
                    width={32}
                    bar={7}
                  />
                  <span>
                    {line.line} <span className="text-quiet">{line.says}</span>
                  </span>
                </li>
              ))}
            </ul>
          )}
          {way.typed.length > 0 && (
            <details className="pt-1">
              <summary className="min-h-8 cursor-pointer underline underline-offset-4">
                What was asked, and typed
              </summary>
              <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-3 font-value text-[13px]">
                {way.typed.map((t, i) => (
                  <div key={i} className="contents">
                    <dt className="text-quiet">{t.question}</dt>
                    <dd>{t.typed || '(Enter)'}</dd>
                  </div>
                ))}
              </dl>
            </details>
          )}
          {job.result?.text && (
            <details className="pt-1">
              <summary className="min-h-8 cursor-pointer underline underline-offset-4">
                What it sent down the serial line
              </summary>
              <pre
                tabIndex={0}
                aria-label="What it sent down the serial line"
                className="mt-1 max-h-64 overflow-auto border-l-2 border-ink bg-sheet px-3 py-1 font-value text-[12.5px] whitespace-pre-wrap"
              >
                {job.result.text.trim()}
              </pre>
            </details>
          )}
          <details className="pt-1">
            <summary className="min-h-8 cursor-pointer underline underline-offset-4">
              What the twin is not like
            </summary>
            <ul className="text-sm text-quiet">
              {job.result?.differs?.map((difference) => (
                <li key={difference}>{difference}</li>
              ))}
            </ul>
          </details>
        </figcaption>
      </div>
    </figure>
  );
}
