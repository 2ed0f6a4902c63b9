import { queryOptions, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, take } from '../api/client';
import { clockTime, dayInWords, dayOf } from '../shell/time';
import { Failed } from '../shell/States';
import { LogRow } from './LogRow';

interface Asked {
  find: string;
  from: string;
  to: string;
  everything: boolean;
}

const shown = 200;

const log = ({ find, from, to, everything }: Asked) =>
  queryOptions({
    queryKey: ['log', find, from, to, everything],
    queryFn: () =>
      take(
        api.GET('/api/log', {
          params: {
            query: {
              ...(find && { find }),
              ...(from && { from }),
              ...(to && { to }),
              everything,
              take: shown,
            },
          },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  });

/** Everything that happened in the shop, found by words and days. */
export function LogPage() {
  const [search, setSearch] = useSearchParams();
  const [find, setFind] = useState(search.get('q') ?? '');
  const asked: Asked = {
    find,
    from: search.get('from') ?? '',
    to: search.get('to') ?? '',
    everything: search.get('all') === 'yes',
  };
  const { data, error } = useQuery(log(asked));
  const set = (key: string, value: string) => {
    setSearch(
      (before) => {
        const next = new URLSearchParams(before);
        if (value) next.set(key, value);
        else next.delete(key);
        return next;
      },
      { replace: true },
    );
  };
  const address = `/api/log.csv?${new URLSearchParams({
    ...(find && { find }),
    ...(asked.from && { from: asked.from }),
    ...(asked.to && { to: asked.to }),
    everything: `${asked.everything}`,
  }).toString()}`;
  const days = [...new Set(data?.lines.map((l) => dayOf(l.at)))];
  return (
    <div className="flex flex-1 flex-col pt-4">
      <h1>
        <label htmlFor="log-find" className="font-name text-[44px] leading-none font-bold" data-loud>
          What happened…
        </label>
      </h1>
      <input
        id="log-find"
        autoFocus
        value={find}
        placeholder="odalys stopped, stick, MR-0409, battery"
        autoComplete="off"
        spellCheck={false}
        className="mt-1 block h-13 w-full border-b-[3px] border-ink bg-transparent font-value text-[26px] placeholder:text-rule"
        onChange={(event) => {
          setFind(event.target.value);
          set('q', event.target.value);
        }}
      />
      <div className="flex flex-wrap items-center gap-x-6 pt-1.5 pb-2 text-quiet">
        <Day
          label="from"
          value={asked.from}
          set={(day) => {
            set('from', day);
          }}
        />
        <Day
          label="to"
          value={asked.to}
          set={(day) => {
            set('to', day);
          }}
        />
        <label className="flex min-h-9 items-center gap-2">
          <input
            type="checkbox"
            className="size-4 accent-ink"
            checked={asked.everything}
            onChange={(event) => {
              set('all', event.target.checked ? 'yes' : '');
            }}
          />
          with every step that went as written
        </label>
        {data && (
          <span aria-live="polite" className="ml-auto">
            {data.found > data.lines.length
              ? `the latest ${data.lines.length} of ${data.found}`
              : `${data.found} found`}
          </span>
        )}
        <a className="underline underline-offset-4" href={address} download>
          as a table
        </a>
      </div>
      {error && <Failed error={error} />}
      {data?.lines.length === 0 && (
        <p className="py-4 text-quiet">
          Nothing that says all of that. Fewer words, or more days, find more.
        </p>
      )}
      {days.map((day) => (
        <section key={day} aria-label={day} className="pb-3">
          <h2 className="caption border-b-[1.5px] border-ink">{longDay(day)}</h2>
          <ol>
            {data?.lines
              .filter((l) => dayOf(l.at) === day)
              .map((line, i) => (
                <LogRow key={`${line.at} ${i}`} line={line} when={clockTime(line.at)} named />
              ))}
          </ol>
        </section>
      ))}
    </div>
  );
}

const longDay = (day: string) =>
  dayInWords(day, { weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' });

function Day({ label, value, set }: { label: string; value: string; set: (day: string) => void }) {
  const [typed, setTyped] = useState(value);
  return (
    <label className="flex items-center gap-2">
      <span className="caption">{label}</span>
      <input
        inputMode="numeric"
        value={typed}
        placeholder="2026-12-31"
        title="A day: year, month, day"
        autoComplete="off"
        className="h-9 w-[108px] border-b-2 border-ink bg-transparent font-value text-ink placeholder:text-rule"
        onChange={(event) => {
          const day = event.target.value.trim();
          setTyped(event.target.value);
          if (day === '' || /^\d{4}-\d{2}-\d{2}$/.test(day)) set(day);
        }}
      />
    </label>
  );
}
