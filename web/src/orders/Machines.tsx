import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../api/client';
import { fitting, found, systems, useAside } from '../api/queries';
import { moneyText } from '../dossiers/facts';
import { RungShape } from '../ladder/RungShape';
import { routeName } from '../routes/words';
import { Pick } from '../shell/Picked';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** The machines of an order: set aside by scan, from what fits it best on the shelf, and taken out again. */
export function Machines({ order }: { order: Schema['Order'] }) {
  const mine = (useQuery(found(order.name, 100)).data ?? []).filter((m) => m.order === order.name);
  const aside = useAside();
  const [who] = useWho();
  const [tag, setTag] = useState('');
  const put = (machine: string, name: string | null) => {
    aside.mutate({ tag: machine.trim().toUpperCase(), order: name, by: who || nobody });
  };
  return (
    <section aria-label={`Machines of ${order.name}`} className="pb-4">
      <h2 className="loud" data-loud>
        {order.name}
      </h2>
      <ul>
        {mine.length === 0 && <li className="text-quiet">No machine is set aside for it yet.</li>}
        {mine.map((m) => (
          <li key={m.tag} className="flex min-h-9 items-center gap-3 border-b border-rule">
            <Pick tag={m.tag} />
            <RungShape outcome={m.outcome} width={28} bar={5} />
            <Link to={`/machines/${m.tag}/routes`} className="font-value font-semibold hover:underline">
              {m.tag}
            </Link>
            <span className="min-w-0 flex-1 truncate text-sm text-quiet">
              {m.model} · {standsText(m)}
            </span>
            <button
              type="button"
              className="min-h-9 text-sm underline underline-offset-4"
              aria-label={`Take ${m.tag} out of ${order.name}`}
              onClick={() => {
                put(m.tag, null);
              }}
            >
              take out
            </button>
          </li>
        ))}
      </ul>
      <form
        className="flex items-end gap-3 pt-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (!tag.trim()) return;
          put(tag, order.name);
          setTag('');
        }}
      >
        <label className="flex-1">
          <span className="caption block">Set a machine aside: scan or type its tag</span>
          <input
            data-scan="field"
            value={tag}
            placeholder="MR-0000"
            autoComplete="off"
            spellCheck={false}
            className="h-11 w-full border-b-2 border-ink bg-transparent font-value text-xl uppercase placeholder:text-rule"
            onChange={(event) => {
              setTag(event.target.value);
            }}
          />
        </label>
        <button className="min-h-11 bg-ink px-4 font-semibold text-ground">Set aside</button>
      </form>
      {aside.error && <Failed error={aside.error} />}
      <Fits order={order} put={put} />
    </section>
  );
}

/** What nobody has yet and fits it, best route first. */
function Fits({ order, put }: { order: Schema['Order']; put: (tag: string, name: string) => void }) {
  const [all, setAll] = useState(false);
  const { data } = useQuery(fitting(order.id));
  const known = useQuery(systems).data ?? [];
  if (!data) return <p className="pt-2 text-quiet">Looking along the shelf…</p>;
  return (
    <>
      <h3 className="caption pt-3">What fits it, best first</h3>
      <ul>
        {data.length === 0 && <li className="text-quiet">Nothing on the shelf fits its limits.</li>}
        {data.slice(0, all ? undefined : 4).map((m) => (
          <li key={m.tag} className="flex min-h-9 items-center gap-3 border-b border-rule">
            <Link to={`/machines/${m.tag}/routes`} className="font-value font-semibold hover:underline">
              {m.tag}
            </Link>
            <span className="min-w-0 flex-1 truncate text-sm">
              {m.model}{' '}
              <span className="text-quiet">
                · {routeName(m.route, known)} · {moneyText(m.route.money)} · fit {m.route.fit}
              </span>
            </span>
            <button
              type="button"
              className="min-h-9 border-[1.5px] border-ink px-3 text-sm font-semibold"
              aria-label={`Set ${m.tag} aside for ${order.name}`}
              onClick={() => {
                put(m.tag, order.name);
              }}
            >
              set aside
            </button>
          </li>
        ))}
      </ul>
      {data.length > 4 && (
        <button
          type="button"
          className="min-h-9 text-sm underline underline-offset-4"
          onClick={() => {
            setAll(!all);
          }}
        >
          {all ? 'Only the first four' : `All ${data.length}`}
        </button>
      )}
    </>
  );
}

const standsText = (m: Schema['MachineSummary']) =>
  m.left
    ? 'has left'
    : m.run?.finishedAt
      ? 'ready'
      : m.run
        ? `in work${m.bay === null ? '' : `, bay ${m.bay}`}`
        : m.bay === null
          ? 'on the shelf'
          : `bay ${m.bay}`;
