import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { fails, type Schema } from '../api/client';
import { orders, routes, usualWeights } from '../api/queries';
import { moneyText } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { Failed, Loading } from '../shell/States';
import { ChoicesPanel } from './ChoicesPanel';
import { Chosen } from './Chosen';
import { MissingPanel } from './MissingPanel';
import { Plot } from './Plot';
import { SideBySide } from './SideBySide';
import { Weights } from './Weights';
import { WhatIfPanel } from './WhatIfPanel';
import { support, useRouteName } from './words';

const panels = [
  ['route', 'This route'],
  ['beside', 'Side by side'],
  ['choices', 'Choices'],
  ['missing', 'Why not?'],
  ['whatif', 'What if…'],
] as const;

/** The sensible ways out: ranked, plotted and weighed; one of them opened with what it costs and what it brings. */
export function RoutesView() {
  const { sheet, aim } = useMachine();
  const [search, setSearch] = useSearchParams();
  const order = search.get('order') ?? undefined;
  const weights = search.get('weights') ?? undefined;
  const { data, error } = useQuery(
    routes(sheet.tag, { ...(order && { order }), ...(weights && { weights }) }),
  );
  const usual = useQuery(usualWeights(sheet.tag, order)).data;
  const [every, setEvery] = useState(false);
  if (fails(error, data)) return <Failed error={error} />;
  if (!data || !usual) return <Loading />;

  const chosen =
    data.find((r) => r.id === search.get('route')) ?? data.find((r) => r.system === aim.system) ?? data[0];
  const beside =
    data.find((r) => r.id === search.get('beside')) ?? data.find((r) => r.id !== chosen?.id) ?? chosen;
  const panel = panels.find(([name]) => name === search.get('panel'))?.[0] ?? 'route';
  const set = (changes: Record<string, string | null>) => {
    setSearch(
      (old) => {
        const next = new URLSearchParams(old);
        for (const [name, value] of Object.entries(changes))
          if (value === null) next.delete(name);
          else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  };
  const choose = (route: Schema['Route']) => {
    set({ route: route.id, ...(route.system && { aim: route.system }) });
  };

  // Of each system and school the best speaks first; its variants are a click away.
  const heads = data.filter(
    (r, i) => data.findIndex((o) => o.system === r.system && o.school === r.school) === i,
  );
  const shown = every ? data : data.filter((r) => heads.includes(r) || r.id === chosen?.id);

  return (
    <div className="grid grid-cols-1 gap-x-4 md:max-lg:grid-cols-[292px_minmax(0,1fr)] xl:grid-cols-[292px_minmax(0,1fr)]">
      <div>
        <ForWhom
          order={order}
          pick={(id) => {
            set({ order: id, weights: null });
          }}
        />
        <Weights
          key={order ?? ''}
          routes={data}
          usual={usual}
          chosen={weights}
          set={(next) => {
            set({ weights: next });
          }}
        />
        {sheet.aim === '' && (
          <p className="border-l-4 border-setting pl-3">
            Too little is known for any route but the end.{' '}
            <Link className="font-semibold underline underline-offset-4" to="../facts">
              Measure first
            </Link>
            .
          </p>
        )}
        <ol aria-label="Routes, best first" className="border-t-[1.5px] border-ink">
          {shown.map((route, i) => (
            <Row
              key={route.id}
              route={route}
              place={i + 1}
              chosen={route.id === chosen?.id}
              choose={() => {
                choose(route);
              }}
            />
          ))}
        </ol>
        <button
          type="button"
          className="min-h-10 text-sm underline underline-offset-4"
          onClick={() => {
            setEvery(!every);
          }}
        >
          {every ? 'Only the best of each kind' : `All ${data.length} ways, variants among them`}
        </button>
      </div>
      <div className="flex min-w-0 flex-col">
        <div className="max-lg:order-last">
          <Plot routes={data} chosen={chosen?.id} choose={choose} />
        </div>
        <nav aria-label="About the routes" className="flex flex-wrap gap-x-5 border-b border-rule">
          {panels.map(([name, says]) => (
            <button
              key={name}
              type="button"
              aria-pressed={panel === name}
              className={`min-h-9 border-b-2 text-[15px] whitespace-nowrap ${panel === name ? 'border-ink font-bold' : 'border-transparent text-quiet hover:text-ink'}`}
              onClick={() => {
                set({ panel: name === 'route' ? null : name });
              }}
            >
              {says}
            </button>
          ))}
        </nav>
        {panel === 'route' && chosen && <Chosen key={chosen.id} route={chosen} />}
        {panel === 'beside' && chosen && beside && (
          <SideBySide
            one={chosen}
            other={beside}
            all={data}
            pick={(id) => {
              set({ beside: id });
            }}
          />
        )}
        {panel === 'choices' && <ChoicesPanel left={data.length} />}
        {panel === 'missing' && <MissingPanel />}
        {panel === 'whatif' && <WhatIfPanel />}
      </div>
    </div>
  );
}

function Row({
  route,
  place,
  chosen,
  choose,
}: {
  route: Schema['Route'];
  place: number;
  chosen: boolean;
  choose: () => void;
}) {
  const name = useRouteName();
  return (
    <li className="border-b border-rule">
      <button
        type="button"
        aria-pressed={chosen}
        data-route={route.school}
        className={`flex min-h-[46px] w-full items-center gap-2.5 px-1.5 text-left ${chosen ? 'bg-sheet outline-[1.5px] outline-ink' : 'hover:bg-sheet'}`}
        onClick={choose}
      >
        <span className="w-8 text-right font-name text-[22px] font-bold">{Math.round(route.score)}</span>
        <span className="min-w-0 flex-1 leading-tight">
          <b className="block truncate text-[15px]">{name(route)}</b>
          <span className="block truncate text-[13px] text-quiet">
            {place} · {route.school} · {moneyText(route.money)} · {route.handsOnMinutes} min
          </span>
        </span>
        <span className="text-right text-[13px] leading-tight">
          {support(route)}
          <span className="block text-quiet">
            {route.school === 'retire' ? '' : `risk ${Math.round(route.risk * 100)} %`}
          </span>
        </span>
      </button>
    </li>
  );
}

function ForWhom({ order, pick }: { order: string | undefined; pick: (id: string | null) => void }) {
  const { sheet } = useMachine();
  const known = useQuery(orders).data ?? [];
  const own = sheet.facts.find((f) => f.key === 'order.name')?.value;
  return (
    <label className="flex items-center gap-2 pb-1">
      <span className="caption w-14">for</span>
      <select
        aria-label="For whom"
        className="h-9 min-w-0 flex-1 border-b-[1.5px] border-ink bg-ground font-semibold"
        value={order ?? ''}
        onChange={(event) => {
          pick(event.target.value === '' ? null : event.target.value);
        }}
      >
        <option value="">{typeof own === 'string' ? own : 'nobody in particular'}</option>
        {known
          .filter((o) => o.order.name !== own)
          .map((o) => (
            <option key={o.order.id} value={o.order.id}>
              {o.order.name}
            </option>
          ))}
      </select>
    </label>
  );
}
