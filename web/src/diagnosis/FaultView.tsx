import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { fails, type Schema } from '../api/client';
import { howFar, openDiagnosis, useAnswer, useBeginDiagnosis, useMend } from '../api/diagnosisQueries';
import { run as runQuery } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { RungShape } from '../ladder/RungShape';
import { pitch } from '../ladder/rungs';
import { counted } from '../pieces/counted';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Cause, CheckToMake } from './Parts';

type Search = Schema['DiagnosisSheet'];

/** Why a machine stopped: how far it got, what to look at next, and how likely each cause is. */
export function FaultView() {
  const { sheet } = useMachine();
  const open = useQuery(openDiagnosis(sheet.tag));
  const rungs = useQuery(howFar);
  if (fails(open.error, open.data)) return <Failed error={open.error} />;
  if (rungs.error) return <Failed error={rungs.error} />;
  if (!open.data || !rungs.data) return <Loading />;
  const search = open.data[0];
  return search ? <Searching search={search} key={search.id} /> : <Begin rungs={rungs.data} />;
}

/** How far did it get? Ten sentences at the ten heights: the first that one sees is the one. */
function Begin({ rungs }: { rungs: Schema['HowFarSheet'][] }) {
  const { sheet } = useMachine();
  const [who] = useWho();
  const begin = useBeginDiagnosis();
  const glance = sheet.run;
  const current = useQuery({ ...runQuery(glance?.id ?? ''), enabled: !!glance }).data;
  const [message, setMessage] = useState('');
  const stopped = current?.state.stopped === true;
  return (
    <section aria-label="Find the fault" className="grid gap-x-5 lg:grid-cols-[minmax(0,1fr)_300px]">
      <ol aria-label="How far did it get?" className="flex flex-col-reverse">
        {rungs.map(({ rung, sees }) => (
          <li key={rung} style={{ height: pitch }} className="border-b border-rule">
            <button
              type="button"
              disabled={begin.isPending}
              className="flex h-full w-full items-center gap-3 text-left text-[15px] leading-tight hover:bg-sheet"
              onClick={() => {
                begin.mutate({
                  tag: sheet.tag,
                  rung,
                  by: who || nobody,
                  run: stopped ? current.id : null,
                  message: message.trim() || null,
                });
              }}
            >
              <RungShape outcome="wall" width={40} bar={8} />
              <span>{sees}</span>
            </button>
          </li>
        ))}
      </ol>
      <div className="min-w-0">
        <p className="caption">{stopped ? 'The run stopped' : 'A machine that does not do what it should'}</p>
        <h2 className="font-name text-[36px] leading-[1.05] font-bold" data-loud>
          How far did it get?
        </h2>
        <p className="pt-2">Read from the bottom, and choose the first sentence that is so.</p>
        <label className="block pt-3">
          <span className="caption block">What it printed, if it did: typed off, or the serial text</span>
          <textarea
            rows={4}
            maxLength={20_000}
            value={message}
            className="w-full border-[1.5px] border-ink bg-sheet p-2 font-value text-[13px]"
            onChange={(event) => {
              setMessage(event.target.value);
            }}
          />
        </label>
        {begin.error && <Failed error={begin.error} />}
      </div>
    </section>
  );
}

function Searching({ search }: { search: Search }) {
  const { sheet } = useMachine();
  const [who] = useWho();
  const answer = useAnswer(search.id);
  const mend = useMend(search.id);
  const begin = useBeginDiagnosis();
  const go = useNavigate();
  const [all, setAll] = useState(false);
  const first = search.causes[0];
  if (!first) return null;
  const say = (check: string, seen: string) => {
    answer.mutate({ check, seen });
  };
  const shown = all ? search.causes : search.causes.slice(0, 6);
  return (
    <section aria-label="Find the fault">
      <p className="caption">
        It does not get past {search.rung}: {search.sees}{' '}
        <button
          type="button"
          className="min-h-8 underline underline-offset-4"
          onClick={() => {
            begin.mutate({
              tag: sheet.tag,
              rung: search.rung,
              by: who || nobody,
              run: search.run,
              message: search.message,
            });
          }}
        >
          Look again from the beginning
        </button>
      </p>
      {search.next ? (
        <CheckToMake check={search.next} busy={answer.isPending} say={say} />
      ) : (
        <h2 className="font-name text-[36px] leading-[1.05] font-bold" data-loud>
          {first.about}.
        </h2>
      )}
      {answer.error && <Failed error={answer.error} />}
      <ol aria-label="Causes" className="mt-3 border-t-[1.5px] border-ink">
        {shown.map((cause, i) => (
          <Cause
            key={cause.cause}
            cause={cause}
            sure={!search.next && i === 0}
            act={
              cause.mend.ends
                ? 'That is it: stop here'
                : search.run
                  ? 'That is it: make it the next step'
                  : 'That is it: it is mended'
            }
            busy={mend.isPending}
            mend={() => {
              // The search ends with it, and this page is another one before the answer is here.
              mend
                .mutateAsync({ cause: cause.cause, by: who || nobody })
                .then(() => {
                  if (search.run && !cause.mend.ends) void go(`/machines/${sheet.tag}/run`);
                })
                .catch(() => undefined);
            }}
          />
        ))}
      </ol>
      {mend.error && <Failed error={mend.error} />}
      {search.excluded.length > 0 && (
        <details className="text-sm">
          <summary className="min-h-9 cursor-pointer content-center underline underline-offset-4">
            {counted(search.excluded.length, 'cause')} ruled out on this machine
          </summary>
          <ul>
            {search.excluded.map((x) => (
              <li key={x.cause} className="border-b border-rule py-1">
                {x.about}: <span className="text-quiet">{x.why}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      <div className="flex flex-wrap gap-x-6">
        {search.causes.length > shown.length && (
          <button
            type="button"
            className="min-h-9 underline underline-offset-4"
            onClick={() => {
              setAll(true);
            }}
          >
            All {search.causes.length} causes
          </button>
        )}
        {search.run && (
          <Link
            className="flex min-h-9 items-center underline underline-offset-4"
            to={`/machines/${sheet.tag}/run`}
          >
            Back to the run
          </Link>
        )}
        <span className="flex min-h-9 items-center text-sm text-quiet">
          {search.recorded > 0
            ? `${search.recorded} recorded ${search.recorded === 1 ? 'stop of this shop counts' : 'stops of this shop count'} beside the catalogue.`
            : 'No stop was recorded here yet: chances are the catalogue’s.'}
        </span>
      </div>
      {search.answers.length > 0 && (
        <section aria-label="What was looked at">
          <h3 className="caption border-t border-rule pt-2">What was looked at</h3>
          <ul className="text-[15px]">
            {search.answers.map((a) => (
              <li key={a.check}>
                {a.text} <b>{a.seenText}</b>
              </li>
            ))}
          </ul>
        </section>
      )}
      {search.others.length > 0 && (
        <details className="pt-2">
          <summary className="min-h-9 cursor-pointer underline underline-offset-4">
            Other checks that tell something
          </summary>
          {search.others.map((check) => (
            <CheckToMake key={check.check} check={check} busy={answer.isPending} say={say} small />
          ))}
        </details>
      )}
    </section>
  );
}
