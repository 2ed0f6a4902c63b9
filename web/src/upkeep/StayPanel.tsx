import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../api/client';
import { stay, useLeave } from '../api/queries';
import { dayInWords, dayOf } from '../shell/time';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

const days = (count: number) =>
  count === 0 ? 'the same day' : count === 1 ? 'after one day' : `after ${count} days`;

/** A machine that has left, or came back and is not begun with: what it left with, and what happened since. */
export function StayPanel({ sheet }: { sheet: Schema['MachineSheet'] }) {
  const left = sheet.facts.find((f) => f.key === 'handover.left')?.value;
  const { data } = useQuery({ ...stay(sheet.tag), enabled: left !== undefined, retry: false });
  const leave = useLeave(sheet.tag);
  const [who] = useWho();
  if (left === undefined || !data || data.begun) return null;
  const away = data.backAt === null;
  return (
    <section aria-label="It was away" className="mt-2 border-l-4 border-ink bg-sheet px-5 py-3">
      <div className="flex flex-wrap items-center justify-between gap-x-6">
        <h2 className="font-name text-[32px] leading-tight font-bold" data-loud>
          {away ? 'It has left.' : `It is back, ${days(data.daysAway)}.`}
        </h2>
        {away && (
          <button
            type="button"
            disabled={leave.isPending}
            className="min-h-12 bg-ink px-6 text-lg font-semibold text-ground"
            onClick={() => {
              leave.mutate({ left: false, by: who || nobody });
            }}
          >
            It came back
          </button>
        )}
      </div>
      {leave.error && <Failed error={leave.error} />}
      <p className="pt-1">
        It left on {dayInWords(dayOf(data.leftAt))}{' '}
        {data.system ? (
          <>
            with <b>{data.system}</b>
            {data.changed.length > 0 && <> ({data.changed.join(' · ')})</>}
          </>
        ) : (
          'at its end'
        )}
        , made ready by {data.by} on {dayInWords(dayOf(data.finishedAt))}.{' '}
        <Link className="font-semibold underline underline-offset-4" to={`/machines/${sheet.tag}/handover`}>
          Its sheet and its record
        </Link>
      </p>
      <div className="grid gap-x-10 md:grid-cols-2">
        <div>
          {data.since.length > 0 && (
            <Part title="Fallen due since">
              <List of={data.since} />
            </Part>
          )}
          <Part title="Asked anew">
            {away ? (
              <p>Once it is back: whose it is, what is on it, and how its parts are.</p>
            ) : data.asks.length > 0 ? (
              <>
                <p className="font-semibold">{data.asks.join(' · ')}</p>
                <p>
                  What was said before it left says nothing of whoever brings it: what is on it now is theirs.
                </p>
              </>
            ) : (
              <p className="text-quiet">All of it is answered.</p>
            )}
          </Part>
        </div>
        <Part title="What its owner was told">
          {data.told.length > 0 ? (
            <List of={data.told} />
          ) : (
            <p className="text-quiet">Nothing that wants knowing.</p>
          )}
        </Part>
      </div>
      {!away && (
        <p className="flex flex-wrap gap-x-6 pt-2">
          <Next to={`/machines/${sheet.tag}/fault`}>Something does not work</Next>
          <Next to={`/machines/${sheet.tag}/routes`}>Another system, another owner, or its end</Next>
          <Next to={`/machines/${sheet.tag}/handover`}>It leaves again as it is</Next>
        </p>
      )}
    </section>
  );
}

function Next({ to, children }: { to: string; children: string }) {
  return (
    <Link className="flex min-h-11 items-center font-semibold underline underline-offset-4" to={to}>
      {children}
    </Link>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="pt-2">
      <h3 className="caption">{title}</h3>
      {children}
    </div>
  );
}

function List({ of }: { of: string[] }) {
  return (
    <ul className="list-disc pl-5">
      {of.map((text) => (
        <li key={text}>{text}</li>
      ))}
    </ul>
  );
}
