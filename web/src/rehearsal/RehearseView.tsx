import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { Refusal, type Schema, fails } from '../api/client';
import { health, rehearsal, routes } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { RungShape } from '../ladder/RungShape';
import { pitch, rungs } from '../ladder/rungs';
import { useRouteName } from '../routes/words';
import { Failed, Loading } from '../shell/States';
import { addMinutes, chanceText, clockNow, doneBy, isClock, timeText } from './words';
import { WholeWay } from './WholeWay';
import { counted } from '../pieces/counted';

type Rehearsal = Schema['RehearsalSheet'];

/** A plan walked before anybody touches the machine: by reckoning at each rung, and for real in the twin. */
export function RehearseView() {
  const { sheet, aim, systems } = useMachine();
  const [search, setSearch] = useSearchParams();
  const all = useQuery(routes(sheet.tag, {}));
  const route =
    all.data?.find((r) => r.id === search.get('route')) ?? all.data?.find((r) => r.system === aim.system);
  const { data, error } = useQuery({ ...rehearsal(sheet.tag, route?.id ?? ''), enabled: !!route });
  const nameOf = useRouteName();
  if (all.error) return <Failed error={all.error} />;
  if (all.data && !route)
    return (
      <section aria-label="Rehearse">
        <h2 className="font-name text-[40px] leading-[1.05] font-bold" data-loud>
          No route leads to this aim.
        </h2>
        <p className="pt-2">
          There is nothing to rehearse.{' '}
          <Link className="font-semibold underline underline-offset-4" to="../routes">
            Choose among the routes
          </Link>
          .
        </p>
      </section>
    );
  if (fails(error, data)) return <Failed error={error} />;
  if (!data || !all.data || !route) return <Loading />;
  const stop = data.stopsAt[0];
  const heads = all.data.filter(
    (r, i, list) =>
      list.findIndex((o) => o.system === r.system && o.school === r.school) === i && r.system !== null,
  );
  return (
    <section aria-label="Rehearse">
      <div className="grid gap-x-5 lg:grid-cols-[minmax(0,1fr)_300px]">
        <Rungs data={data} />
        <div className="min-w-0 lg:order-last">
          <p className="caption">
            By reckoning: {systemName(systems.find((s) => s.id === data.system)) || nameOf(route)},{' '}
            {data.school}
          </p>
          <h2 className="font-name text-[36px] leading-[1.05] font-bold" data-loud>
            {stop ? `It would stop at ${stop.rung}.` : 'Nothing stands in its way.'}
          </h2>
          {stop && (
            <p className="border-l-4 border-wall pt-1 pl-3">
              <b>{stop.about}.</b> {stop.evidence} <span className="text-quiet">{stop.cure}</span>
            </p>
          )}
          {data.minutes && <When data={data} />}
        </div>
      </div>
      <div className="flex flex-col gap-5 pt-4 lg:-ml-[532px]">
        <WholeWay route={route.id} />
        <Failures data={data} />
        {heads.length > 1 && (
          <Compared
            tag={sheet.tag}
            routes={heads.slice(0, 5)}
            chosen={route.id}
            pick={(r) => {
              setSearch(
                (old) => {
                  const next = new URLSearchParams(old);
                  next.set('route', r.id);
                  if (r.system) next.set('aim', r.system);
                  return next;
                },
                { replace: true },
              );
            }}
          />
        )}
      </div>
    </section>
  );
}

/** What would happen at each rung, at its height: a stop, or the chance of one. */
function Rungs({ data }: { data: Rehearsal }) {
  return (
    <ol aria-label="What would happen at each rung" className="flex flex-col-reverse">
      {rungs.map(({ name }) => {
        const stop = data.stopsAt.find((s) => s.rung === name);
        const here = data.failures.filter((f) => f.rung === name);
        const chance = here.reduce((sum, f) => sum + f.chance, 0);
        return (
          <li
            key={name}
            className="flex items-center gap-3 border-b border-rule"
            style={{ height: pitch }}
            data-rehearsed={name}
            data-stops={stop ? stop.cause : undefined}
          >
            <RungShape outcome={stop ? 'wall' : chance >= 0.03 ? 'caveat' : 'clear'} width={46} bar={9} />
            <span className="min-w-0 text-[14.5px] leading-tight">
              {stop ? (
                <>
                  <b className="line-clamp-1 text-wall">{stop.about}</b>
                  <span className="line-clamp-1 text-quiet">{stop.evidence}</span>
                </>
              ) : here[0] ? (
                <>
                  <b className="tabular-nums">{chanceText(chance)}</b> stop here
                  <span className="line-clamp-1 text-quiet">mostly: {here[0].about}</span>
                </>
              ) : (
                <span className="text-quiet">no step of this plan</span>
              )}
            </span>
          </li>
        );
      })}
    </ol>
  );
}

/** When it is done if somebody begins at a time of the clock, and with how much of a chance. */
function When({ data }: { data: Rehearsal }) {
  // The workshop's clock, which is not this browser's.
  const now = clockNow(useQuery(health).data?.now ?? new Date().toISOString());
  const [own, setTyped] = useState<string | null>(null);
  const typed = own ?? now;
  const begin = isClock(typed) ? typed : now;
  const minutes = data.minutes;
  if (!minutes) return null;
  return (
    <div className="pt-3">
      <label className="flex items-baseline gap-2">
        <span className="caption">Begun at</span>
        <input
          inputMode="numeric"
          maxLength={5}
          size={6}
          value={typed}
          aria-invalid={isClock(typed) ? undefined : true}
          className="h-10 border-b-2 border-ink bg-transparent font-value text-lg"
          onChange={(event) => {
            setTyped(event.target.value);
          }}
        />
      </label>
      <p className="pt-1 text-lg">
        it is done by{' '}
        <b className="font-name text-[34px] leading-none font-bold whitespace-nowrap" data-loud>
          {addMinutes(begin, doneBy(data.by, 0.8))}
        </b>{' '}
        with 80 %.
      </p>
      <table className="mt-2 w-full text-[14.5px]">
        <caption className="sr-only">When it is finished</caption>
        <tbody>
          {(
            [
              ['10 % are done in', minutes.p10],
              ['half in', minutes.p50],
              ['90 % in', minutes.p90],
              ['hands on it', data.handsOn],
            ] as const
          ).map(([says, value]) => (
            <tr key={says} className="border-b border-rule">
              <th scope="row" className="py-1 text-left font-normal">
                {says}
              </th>
              <td className="text-right font-value tabular-nums">{timeText(value)}</td>
              <td className="text-right font-value text-quiet tabular-nums">
                {says === 'hands on it' ? '' : addMinutes(begin, value)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="pt-1 text-sm">
        The sheet takes {timeText(data.sheetInAll)}, {timeText(data.sheetHandsOn)} of them with hands on it,
        when nothing goes wrong. These times count what may go wrong, and how this shop’s own times differ.
      </p>
      <p className="pt-1 text-sm text-quiet">
        {data.walks.toLocaleString('en')} walks over {data.steps} steps, {chanceText(data.finishes)} come to
        their end.{' '}
        {data.learned > 0
          ? `Times rest on ${counted(data.learned, 'recorded step')} of ${counted(data.runs, 'run')}: this shop takes ${Math.round(data.pace * 100)} % of the catalogue’s time.`
          : 'No step was recorded here yet: times are the catalogue’s.'}{' '}
        {data.found > 0
          ? `Chances rest on ${data.found} recorded ${data.found === 1 ? 'stop' : 'stops'} too.`
          : 'Chances are the catalogue’s.'}
      </p>
    </div>
  );
}

/** What may go wrong, what it costs, and what a look beforehand would save. */
function Failures({ data }: { data: Rehearsal }) {
  const [every, setEvery] = useState(false);
  if (data.failures.length === 0) return null;
  const shown = every ? data.failures : data.failures.slice(0, 6);
  return (
    <section aria-label="What may go wrong">
      <h2 className="caption border-t-[1.5px] border-ink pt-2">What may go wrong</h2>
      <table className="w-full text-[15px]">
        <thead className="caption">
          <tr>
            <th className="py-1 text-left font-normal">Rung</th>
            <th className="text-left font-normal">Cause</th>
            <th className="text-right font-normal">Chance</th>
            <th className="pr-4 text-right font-normal">Costs then</th>
            <th className="text-left font-normal">A look beforehand</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((f) => (
            <tr key={f.cause} className="border-t border-rule align-top">
              <td className="py-1.5 pr-3">{f.rung}</td>
              <td className="py-1.5 pr-3">
                {f.about}
                {f.ends && <b className="text-wall"> ends the work</b>}
              </td>
              <td className="py-1.5 pr-3 text-right font-value tabular-nums">{chanceText(f.chance)}</td>
              <td className="py-1.5 pr-4 text-right font-value tabular-nums">{timeText(f.costs)}</td>
              <td className="py-1.5 text-quiet">
                {f.before ? (
                  f.saves > 0 ? (
                    <>
                      <b className="text-clear">saves {f.saves.toFixed(1)} min: </b>
                      {f.before}
                    </>
                  ) : (
                    `costs more than it saves: ${f.beforeMinutes} min`
                  )
                ) : (
                  'none would show it'
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {data.failures.length > shown.length && (
        <button
          type="button"
          className="min-h-9 underline underline-offset-4"
          onClick={() => {
            setEvery(true);
          }}
        >
          All {data.failures.length}
        </button>
      )}
    </section>
  );
}

/** The routes beside each other, walked by the same chances. */
function Compared({
  tag,
  routes: list,
  chosen,
  pick,
}: {
  tag: string;
  routes: Schema['Route'][];
  chosen: string;
  pick: (route: Schema['Route']) => void;
}) {
  const nameOf = useRouteName();
  return (
    <section aria-label="Routes compared">
      <h2 className="caption border-t-[1.5px] border-ink pt-2">The routes beside each other</h2>
      <table className="w-full text-[15px]">
        <thead className="caption">
          <tr>
            <th className="py-1 text-left font-normal">Route</th>
            <th className="text-left font-normal">Stops at</th>
            <th className="text-right font-normal">10 %</th>
            <th className="text-right font-normal">half</th>
            <th className="text-right font-normal">90 %</th>
            <th className="text-right font-normal">hands</th>
            <th className="text-right font-normal">come to an end</th>
          </tr>
        </thead>
        <tbody>
          {list.map((route) => (
            <Row
              key={route.id}
              tag={tag}
              route={route}
              name={nameOf(route)}
              chosen={route.id === chosen}
              pick={() => {
                pick(route);
              }}
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Row({
  tag,
  route,
  name,
  chosen,
  pick,
}: {
  tag: string;
  route: Schema['Route'];
  name: string;
  chosen: boolean;
  pick: () => void;
}) {
  const { data, error } = useQuery(rehearsal(tag, route.id));
  return (
    <tr className="border-t border-rule">
      <th scope="row" className="text-left font-normal">
        <button
          type="button"
          aria-pressed={chosen}
          className={`min-h-9 text-left underline-offset-4 ${chosen ? 'font-bold' : 'underline'}`}
          onClick={pick}
        >
          {name}
        </button>
      </th>
      <td className={data?.stopsAt[0] ? 'text-wall' : 'text-quiet'}>
        {error instanceof Refusal ? error.message : (data?.stopsAt[0]?.rung ?? (data ? 'nowhere' : '…'))}
      </td>
      {[
        data?.minutes?.p10,
        data?.minutes?.p50,
        data?.minutes?.p90,
        data?.minutes ? data.handsOn : undefined,
      ].map((value, i) => (
        <td key={i} className="text-right font-value tabular-nums">
          {value === undefined ? '–' : timeText(value)}
        </td>
      ))}
      <td className="text-right font-value tabular-nums">
        {data?.minutes ? chanceText(data.finishes) : '–'}
      </td>
    </tr>
  );
}
