import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import type { Schema } from '../api/client';
import { release, routes, useBegin } from '../api/queries';
import { RungShape } from '../ladder/RungShape';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { labelOf, moneyText, systemName } from './facts';
import { useMachine } from './MachinePage';

/** The sensible ways out, best score first; one of them opened with what it costs and what it brings. */
export function RoutesView() {
  const { sheet, systems, aim } = useMachine();
  const { data, error } = useQuery(routes(sheet.tag));
  const [search, setSearch] = useSearchParams();
  if (error) return <Failed error={error} />;
  if (!data) return <Loading />;
  const chosen =
    data.find((r) => r.id === search.get('route')) ?? data.find((r) => r.system === aim.system) ?? data[0];
  return (
    <div className="grid grid-cols-1 gap-x-5 xl:grid-cols-[300px_minmax(0,1fr)]">
      <ol aria-label="Routes, best first">
        {data.map((route, i) => (
          <li key={route.id} className="border-b border-rule">
            <button
              type="button"
              aria-pressed={route.id === chosen?.id}
              data-route={route.school}
              className={`flex min-h-[51px] w-full items-center gap-3 px-2 text-left ${route.id === chosen?.id ? 'bg-sheet outline-[1.5px] outline-ink' : 'hover:bg-sheet'}`}
              onClick={() => {
                const next = new URLSearchParams(search);
                next.set('route', route.id);
                if (route.system) next.set('aim', route.system);
                setSearch(next, { replace: true });
              }}
            >
              <span className="w-9 text-right font-name text-2xl font-bold">{route.score}</span>
              <span className="min-w-0 flex-1 leading-tight">
                <b className="block truncate">
                  {route.system
                    ? systemName(systems.find((s) => s.id === route.system))
                    : 'Parts and recycling'}
                </b>
                <span className="block truncate text-sm text-quiet">
                  {i + 1} · {route.school} · {moneyText(route.money)} · {route.handsOnMinutes} min
                </span>
              </span>
              <span className="text-right text-sm leading-tight">{support(route)}</span>
            </button>
          </li>
        ))}
      </ol>
      {chosen && <Chosen key={chosen.id} route={chosen} />}
    </div>
  );
}

const support = (route: Schema['Route']) =>
  route.school === 'retire'
    ? 'ends'
    : route.supportMonths === null
      ? 'no end set'
      : `${route.supportMonths} months`;

const schoolSays: Record<Schema['School'], string> = {
  comply: 'Meets the rules: switches and parts, and it stays supported.',
  patch: 'Changes the installer so that its gates do not check.',
  spoof: 'Takes the identity of a later model of its line.',
  reflash: 'Replaces the firmware.',
  lighten: 'Takes a light or browser-first system: fast and updated.',
  stay: 'Keeps the system that is on it until its support ends.',
  retire: 'Ends the machine: sound parts to the shelf, the rest to recycling.',
};

function Chosen({ route }: { route: Schema['Route'] }) {
  const { sheet, keys, systems } = useMachine();
  const begin = useBegin(sheet.tag);
  const [who] = useWho();
  const go = useNavigate();
  const [sure, setSure] = useState(false);
  const [because, setBecause] = useState('');
  // What a person may not override speaks first. A machine that ends needs no sound drive.
  const stops = (useQuery(release(sheet.tag)).data?.stops ?? []).filter(
    (stop) => stop.retiring || route.school !== 'retire',
  );
  const open = stops.find((stop) => !stop.mayOverride) ?? stops[0];
  return (
    <section aria-label="Chosen route" className="border-l-[1.5px] border-ink pl-5">
      <h2 className="font-name text-[32px] leading-none font-bold" data-loud>
        {route.system ? systemName(systems.find((s) => s.id === route.system)) : 'Parts and recycling'}
      </h2>
      <p className="pt-1">
        <b>{route.school}.</b> {schoolSays[route.school]}
      </p>
      <dl className="grid grid-cols-4 gap-3 py-2">
        <Big label="Money" value={moneyText(route.money)} />
        <Big label="Hands on" value={`${route.handsOnMinutes} min`} />
        <Big label="In all" value={`${route.elapsedMinutes} min`} />
        <Big label="Support" value={support(route)} />
      </dl>
      <ul>
        {route.cures.map((cure) => (
          <li key={cure.id} className="flex items-center gap-3 py-0.5">
            <RungShape outcome={cure.kind} width={40} bar={7} />
            <span>
              <b>{cure.does}</b>
              <span className="text-quiet">
                {' '}
                · at {cure.rung}
                {cure.money > 0 && ` · ${moneyText(cure.money)}`}
              </span>
            </span>
          </li>
        ))}
        {route.cures.length === 0 && <li className="text-quiet">Nothing has to be changed.</li>}
      </ul>
      {route.assumes.length > 0 && (
        <p className="pt-2">
          <b>Assumes</b>, because nobody has measured it:{' '}
          {route.assumes.map((key) => labelOf(key, keys)).join(', ')}.
        </p>
      )}
      {route.caveats.length > 0 && (
        <>
          <h3 className="caption pt-2">What to know</h3>
          <ul className="list-disc pl-4 text-sm">
            {route.caveats.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </>
      )}
      <h3 className="caption pt-2">Why {route.score} of 100</h3>
      <ul className="text-sm">
        {route.scoreParts.map((part) => (
          <li key={part.name} className="flex items-center gap-2">
            <span className="w-20 shrink-0 text-quiet">{part.name}</span>
            <span aria-hidden="true" className="h-2 w-24 shrink-0 border border-quiet">
              <span
                className="block h-full bg-ink"
                style={{ width: `${(part.points / part.most) * 100}%` }}
              />
            </span>
            <span>
              {part.points} of {part.most}: {part.says}
            </span>
          </li>
        ))}
      </ul>
      {begin.error && <Failed error={begin.error} />}
      {open && (
        <div role="alert" className="mt-3 border-l-4 border-wall pl-3">
          <p className="font-semibold text-wall">{open.text}</p>
          {open.mayOverride ? (
            <label className="block pt-1">
              <span className="caption">To begin all the same, say why; your name goes with it</span>
              <input
                className="block h-10 w-full border-b-[1.5px] border-ink bg-transparent"
                value={because}
                onChange={(event) => {
                  setBecause(event.target.value);
                }}
              />
            </label>
          ) : (
            <Link
              to={`/machines/${sheet.tag}/facts?rung=${open.rung}`}
              className="flex min-h-9 items-center font-semibold underline underline-offset-4"
            >
              To the rung {open.rung}
            </Link>
          )}
        </div>
      )}
      <div className="flex items-center gap-4 pt-3">
        <button
          type="button"
          disabled={begin.isPending || (open ? !open.mayOverride || because.trim() === '' : false)}
          className="min-h-11 bg-ink px-6 font-semibold text-ground"
          onClick={() => {
            if (route.school === 'retire' && !sure) {
              setSure(true);
              return;
            }
            const by = who || nobody;
            begin.mutate(
              { routeId: route.id, by, override: open ? { reason: because.trim(), by } : null },
              { onSuccess: () => void go(`/machines/${sheet.tag}/run`) },
            );
          }}
        >
          {sure ? 'Yes, end this machine' : open ? 'Begin all the same' : 'Begin the run'}
        </button>
      </div>
    </section>
  );
}

function Big({ label, value }: { label: string; value: string }) {
  return (
    <div>
      <dt className="caption">{label}</dt>
      <dd className="font-name text-lg leading-tight font-bold whitespace-nowrap [font-stretch:85%]">
        {value}
      </dd>
    </div>
  );
}
