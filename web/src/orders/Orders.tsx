import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api, type Schema, take, fails } from '../api/client';
import { orders, useWrite } from '../api/queries';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Machines } from './Machines';
import { daysText, needText } from './words';
import { counted } from '../pieces/counted';

const empty: Schema['Order'] = {
  id: '',
  name: '',
  about: '',
  machines: 1,
  due: null,
  newOwner: true,
  shared: false,
  everyday: false,
  lookedAfterBy: 'owner',
  needs: [],
};

/** For whom machines are made ready: limits that no route may break, and wishes that count in the fit. */
export function Orders() {
  const { data, error } = useQuery(orders);
  const [search, setSearch] = useSearchParams();
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const fresh = search.get('order') === 'new';
  const open = fresh ? undefined : (data.find((o) => o.order.id === search.get('order')) ?? data[0]);
  return (
    <div className="grid flex-1 grid-cols-1 gap-x-10 pt-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <div>
        <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
          {data.length === 0 ? 'No orders.' : `${counted(data.length, 'order')}.`}
        </h1>
        <p className="pt-1 pb-2 text-quiet">
          A limit keeps routes out; a wish counts in the fit.{' '}
          <Link to="/wanted" className="underline underline-offset-4">
            What donors could bring
          </Link>
        </p>
        <ul>
          {data.map(({ order, ...standing }) => (
            <li key={order.id} className="border-t border-rule">
              <button
                type="button"
                aria-pressed={order.id === open?.order.id}
                className={`block w-full px-2 py-1.5 text-left ${order.id === open?.order.id ? 'bg-sheet outline-[1.5px] outline-ink' : 'hover:bg-sheet'}`}
                onClick={() => {
                  setSearch({ order: order.id }, { replace: true });
                }}
              >
                <span className="flex items-baseline justify-between">
                  <b className="font-name text-xl">{order.name}</b>
                  <span className="text-sm text-quiet">
                    {order.machines} {order.machines === 1 ? 'machine' : 'machines'}
                    {order.due && ` · due ${order.due}`}
                  </span>
                </span>
                <span className="block font-semibold">
                  <HowFar {...standing} />
                </span>
                <span className="block text-sm">{order.about}</span>
                <span className="block text-[13px] text-quiet">{order.needs.map(needText).join(' · ')}</span>
              </button>
            </li>
          ))}
        </ul>
        <button
          type="button"
          className="mt-2 min-h-11 border-[1.5px] border-ink px-4 font-semibold"
          onClick={() => {
            setSearch({ order: 'new' }, { replace: true });
          }}
        >
          A new order
        </button>
      </div>
      <div className="self-start border-l border-rule pl-6">
        {open && <Machines key={open.order.id} order={open.order} />}
        <OrderForm
          key={fresh ? 'new' : `${open?.order.id}-${open?.version}`}
          stored={fresh ? undefined : open}
          done={(id) => {
            setSearch({ order: id }, { replace: true });
          }}
        />
      </div>
    </div>
  );
}

/** How far an order is, and how long it has. */
function HowFar({
  ready,
  inWork,
  aside,
  missing,
  daysLeft,
}: Omit<Schema['OrderStanding'], 'order' | 'version'>) {
  const parts = [
    [ready, 'ready'],
    [inWork, 'in work'],
    [aside, 'set aside'],
    [missing, 'missing'],
  ] as const;
  return (
    <>
      {parts
        .filter(([count]) => count > 0)
        .map(([count, says]) => `${count} ${says}`)
        .join(' · ')}
      {daysLeft !== null && <span className={daysLeft < 0 ? 'text-wall' : ''}> · {daysText(daysLeft)}</span>}
    </>
  );
}

const kinds: { kind: Schema['NeedKind']; purpose?: Schema['Purpose']; says: string }[] = [
  { kind: 'program', purpose: 'web', says: 'a current browser' },
  { kind: 'program', purpose: 'office', says: 'documents' },
  { kind: 'program', purpose: 'calls', says: 'video calls' },
  { kind: 'program', purpose: 'drawing', says: 'drawing' },
  { kind: 'noAccount', says: 'no maker’s account' },
  { kind: 'offline', says: 'works offline' },
  { kind: 'unattended', says: 'starts by itself and stays up' },
  { kind: 'supportUntil', says: 'updates until' },
  { kind: 'budget', says: 'at most, a machine' },
];

function OrderForm({
  stored,
  done,
}: {
  stored: Schema['OrderStanding'] | undefined;
  done: (id: string) => void;
}) {
  const [order, setOrder] = useState(stored?.order ?? empty);
  const [who] = useWho();
  const set = (change: Partial<Schema['Order']>) => {
    setOrder({ ...order, ...change });
  };
  const save = useWrite(() =>
    stored
      ? take(
          api.PUT('/api/orders/{id}', {
            params: { path: { id: stored.order.id } },
            body: { order, version: stored.version, by: who || nobody },
          }),
        )
      : take(api.POST('/api/orders', { body: { order, by: who || nobody } })),
  );
  const needOf = (kind: (typeof kinds)[number]) =>
    order.needs.find((n) => n.kind === kind.kind && n.purpose === (kind.purpose ?? null));
  const setNeed = (kind: (typeof kinds)[number], change: Partial<Schema['OrderNeed']> | null) => {
    const others = order.needs.filter((n) => n !== needOf(kind));
    if (change === null) {
      set({ needs: others });
      return;
    }
    const need: Schema['OrderNeed'] = {
      kind: kind.kind,
      hard: false,
      purpose: kind.purpose ?? null,
      until: kind.kind === 'supportUntil' ? '2029-12-31' : null,
      money: kind.kind === 'budget' ? 5000 : null,
      ...needOf(kind),
      ...change,
    };
    set({ needs: [...others, need] });
  };
  return (
    <form
      aria-label={stored ? `Order of ${stored.order.name}` : 'New order'}
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(undefined, {
          onSuccess: (saved) => {
            done(saved.order.id);
          },
        });
      }}
    >
      <h2 className={stored ? 'caption' : 'loud'} data-loud={stored ? undefined : true}>
        {stored ? 'What it asks for' : 'A new order'}
      </h2>
      <label>
        <span className="caption block">Who ordered</span>
        <input
          className="h-10 w-full border-b-2 border-ink bg-transparent"
          value={order.name}
          onChange={(event) => {
            set({ name: event.target.value });
          }}
        />
      </label>
      <label>
        <span className="caption block">What it is for</span>
        <textarea
          rows={2}
          className="w-full border-b-2 border-ink bg-transparent"
          value={order.about}
          onChange={(event) => {
            set({ about: event.target.value });
          }}
        />
      </label>
      <div className="flex gap-4">
        <label className="w-24">
          <span className="caption block">Machines</span>
          <input
            type="number"
            min={1}
            className="h-10 w-full border-b-2 border-ink bg-transparent"
            value={order.machines}
            onChange={(event) => {
              set({ machines: Number(event.target.value) });
            }}
          />
        </label>
        <label>
          <span className="caption block">Due</span>
          <input
            type="date"
            className="h-10 border-b-2 border-ink bg-transparent"
            value={order.due ?? ''}
            onChange={(event) => {
              set({ due: event.target.value === '' ? null : event.target.value });
            }}
          />
        </label>
        <label className="flex-1">
          <span className="caption block">Looked after by</span>
          <select
            className="h-10 w-full border-b-2 border-ink bg-ground"
            value={order.lookedAfterBy}
            onChange={(event) => {
              set({ lookedAfterBy: event.target.value as Schema['LooksAfter'] });
            }}
          >
            <option value="shop">the shop, or somebody who knows</option>
            <option value="owner">the person who uses it</option>
            <option value="nobody">nobody</option>
          </select>
        </label>
      </div>
      <div className="flex flex-wrap gap-x-6">
        <Tick
          says="a new owner gets it"
          on={order.newOwner}
          set={(newOwner) => {
            set({ newOwner });
          }}
        />
        <Tick
          says="strangers share it"
          on={order.shared}
          set={(shared) => {
            set({ shared });
          }}
        />
        <Tick
          says="somebody relies on it every day"
          on={order.everyday}
          set={(everyday) => {
            set({ everyday });
          }}
        />
      </div>
      <fieldset>
        <legend className="caption">Needs</legend>
        <ul>
          {kinds.map((kind) => {
            const need = needOf(kind);
            return (
              <li key={kind.says} className="flex min-h-10 items-center gap-3 border-b border-rule">
                <Tick
                  says={kind.says}
                  on={need !== undefined}
                  set={(on) => {
                    setNeed(kind, on ? {} : null);
                  }}
                />
                {need?.kind === 'supportUntil' && (
                  <input
                    type="date"
                    aria-label="Updates until"
                    className="border-b-[1.5px] border-quiet bg-transparent"
                    value={need.until ?? ''}
                    onChange={(event) => {
                      setNeed(kind, { until: event.target.value });
                    }}
                  />
                )}
                {need?.kind === 'budget' && (
                  <label className="flex items-center gap-1">
                    M
                    <input
                      type="number"
                      min={0}
                      aria-label="Budget a machine, in marks"
                      className="w-20 border-b-[1.5px] border-quiet bg-transparent"
                      value={(need.money ?? 0) / 100}
                      onChange={(event) => {
                        setNeed(kind, { money: Math.round(Number(event.target.value) * 100) });
                      }}
                    />
                  </label>
                )}
                {need && (
                  <select
                    aria-label={`${kind.says}: limit or wish`}
                    className="h-9 border-b-[1.5px] border-quiet bg-ground"
                    value={need.hard ? 'limit' : 'wish'}
                    onChange={(event) => {
                      setNeed(kind, { hard: event.target.value === 'limit' });
                    }}
                  >
                    <option>limit</option>
                    <option>wish</option>
                  </select>
                )}
              </li>
            );
          })}
        </ul>
      </fieldset>
      {save.error && <Failed error={save.error} />}
      <button disabled={save.isPending} className="mt-1 min-h-12 bg-ink text-lg font-semibold text-ground">
        {stored ? 'Save the order' : 'Take the order'}
      </button>
    </form>
  );
}

function Tick({ says, on, set }: { says: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label className="flex min-h-10 items-center gap-2">
      <input
        type="checkbox"
        className="h-4 w-4 accent-ink"
        checked={on}
        onChange={() => {
          set(!on);
        }}
      />
      {says}
    </label>
  );
}
