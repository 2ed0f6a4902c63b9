import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { components } from '../api/imageQueries';
import { orders, useWrite } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { Failed } from '../shell/States';
import { Choose } from '../pieces/fields';
import { bytesText } from '../images/words';
import { Listing } from './Listing';
import { Keep } from './Keep';
import { wanted } from './wanted';

export function TrimBuilder({ systems: able }: { systems: Schema['SystemEntry'][] }) {
  const [search] = useSearchParams();
  const [system, setSystem] = useState(wanted(able, search.get('system')));
  const [order, setOrder] = useState('');
  const [leave, setLeave] = useState<string[]>([]);
  const all = useQuery(orders);
  const parts = useQuery({ ...components(system, order), enabled: system !== '' });
  const plan = useWrite((chosen: string[]) =>
    take(
      api.POST('/api/systems/{system}/trim', {
        params: { path: { system } },
        body: { leave: chosen, build: null },
      }),
    ),
  );
  const choose = (chosen: string[]) => {
    setLeave(chosen);
    if (chosen.length > 0) plan.mutate(chosen);
    else plan.reset();
  };
  const gone = new Set(plan.data?.left.map((l) => l.id));
  return (
    <div className="pt-3">
      <div className="grid grid-cols-2 gap-x-5">
        <Choose
          label="System"
          value={system}
          set={(id) => {
            setSystem(id);
            choose([]);
          }}
        >
          {able.map((s) => (
            <option key={s.id} value={s.id}>
              {systemName(s)}
            </option>
          ))}
        </Choose>
        <Choose label="For the order" value={order} set={setOrder}>
          <option value="">none</option>
          {all.data?.map((o) => (
            <option key={o.order.id} value={o.order.name}>
              {o.order.name}
            </option>
          ))}
        </Choose>
      </div>
      {order && parts.data && (
        <p className="pt-1">
          It wants {parts.data.because.length > 0 ? parts.data.because.join(', ') : 'nothing of these'}.{' '}
          <button
            type="button"
            className="font-semibold underline underline-offset-4"
            onClick={() => {
              choose(parts.data.suggested);
            }}
          >
            Leave out what it does not need
          </button>
        </p>
      )}
      <ul className="pt-2" aria-label="Components">
        {parts.data?.components.map((c) => (
          <li key={c.id} className="border-b border-rule py-1">
            <label className="flex items-baseline gap-2">
              <input
                type="checkbox"
                className="size-5 translate-y-1 accent-ink"
                disabled={c.fixed}
                checked={gone.has(c.id) || leave.includes(c.id)}
                onChange={(event) => {
                  choose(event.target.checked ? [...leave, c.id] : leave.filter((l) => l !== c.id));
                }}
              />
              <span className={gone.has(c.id) ? 'line-through' : ''}>
                <b>{c.name}</b>{' '}
                <span className="text-sm text-quiet">
                  {bytesText(c.sizeBytes)}, {c.memoryMiB} MiB of memory
                  {c.needs.length > 0 && `; needs ${c.needs.join(', ')}`}
                  {c.fixed && '; the system does not run without it'}
                </span>
              </span>
            </label>
          </li>
        ))}
      </ul>
      {plan.error && <Failed error={plan.error} />}
      {plan.data && leave.length > 0 && (
        <div className="pt-2">
          <p className="loud" data-loud>
            Saves {bytesText(plan.data.savedBytes)} and {plan.data.savedMemoryMiB} MiB.
          </p>
          <ul aria-label="What breaks">
            {plan.data.left.map((l) => (
              <li key={l.id} className="border-l-4 border-caveat pl-2">
                <b>{l.name}</b>
                {l.because && <span className="text-quiet"> goes with {l.because}</span>}: {l.breaks}
              </li>
            ))}
          </ul>
          <h3 className="caption pt-2">Script for the running system</h3>
          <Listing label="Trim script" text={plan.data.script} />
          <Keep recipe={plan.data.recipe} />
        </div>
      )}
    </div>
  );
}
