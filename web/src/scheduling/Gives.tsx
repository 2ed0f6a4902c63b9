import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { Schema } from '../api/client';
import { orders, systems, useAside } from '../api/queries';
import { moneyText, systemName } from '../dossiers/facts';
import { percent } from '../routes/words';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** Which machine for whom, what stands by, and what is missing. */
export function Gives({ plan }: { plan: Schema['PlanSheet'] }) {
  const known = useQuery(systems).data ?? [];
  const all = useQuery(orders).data ?? [];
  const aside = useAside();
  const [who] = useWho();
  const names = new Map(all.map((o) => [o.order.id, o.order.name]));
  const ids = [...new Set([...plan.gives.map((g) => g.order), ...plan.unfilled.map((u) => u.order)])];
  return (
    <section aria-label="Which machine for whom">
      <h2 className="caption border-b-[1.5px] border-ink">Which machine for whom</h2>
      {aside.error && <Failed error={aside.error} />}
      {ids.map((id) => {
        const gives = plan.gives.filter((g) => g.order === id);
        const missing = plan.unfilled.find((u) => u.order === id);
        return (
          <section key={id} aria-label={names.get(id) ?? id} className="pt-3">
            <h3 className="flex flex-wrap items-baseline gap-x-3">
              <b className="font-name text-xl">{names.get(id) ?? id}</b>
              <span className="text-quiet">
                {gives.filter((g) => !g.reserve).length} given
                {gives.some((g) => g.reserve) && `, ${gives.filter((g) => g.reserve).length} by their side`}
              </span>
              {missing && (
                <span className="font-semibold text-wall">
                  lacks {missing.missing}; expects {missing.expected.toFixed(1)} as things go
                </span>
              )}
            </h3>
            <ul>
              {gives.map((g) => (
                <li
                  key={g.tag}
                  className="grid grid-cols-[84px_minmax(0,1fr)_auto] items-baseline gap-x-3 border-b border-rule py-0.5"
                >
                  <Link
                    to={`/machines/${g.tag}/routes?route=${g.route}`}
                    className="font-value font-semibold hover:underline"
                  >
                    {g.tag}
                  </Link>
                  <span className="min-w-0">
                    {g.reserve && <b>stands by: </b>}
                    {systemName(known.find((s) => s.id === g.system))}{' '}
                    <span className="text-sm text-quiet">
                      {g.model} · {g.school} · {moneyText(g.money)} · {g.handsOn} min · fit {g.fit} ·{' '}
                      {percent(g.finishes)} come through
                    </span>
                  </span>
                  {g.begun ? (
                    <span className="text-sm text-quiet">begun</span>
                  ) : g.aside === names.get(id) ? (
                    <span className="text-sm text-quiet">is set aside</span>
                  ) : (
                    !g.reserve && (
                      <button
                        type="button"
                        className="min-h-9 border-[1.5px] border-ink px-3 text-sm font-semibold"
                        aria-label={`Set ${g.tag} aside for ${names.get(id) ?? id}`}
                        onClick={() => {
                          aside.mutate({ tag: g.tag, order: names.get(id) ?? null, by: who || nobody });
                        }}
                      >
                        {g.aside ? `not ${g.aside}: set aside` : 'set aside'}
                      </button>
                    )
                  )}
                </li>
              ))}
            </ul>
            {missing && missing.ask.length > 0 && (
              <div className="pt-1">
                <p className="caption">Ask donors for</p>
                <ul className="text-sm">
                  {missing.ask.map((line) => (
                    <li key={line}>{line}</li>
                  ))}
                </ul>
              </div>
            )}
          </section>
        );
      })}
      {plan.left.length > 0 && (
        <details className="pt-4">
          <summary className="min-h-9 cursor-pointer font-semibold">
            {plan.left.length} {plan.left.length === 1 ? 'machine goes' : 'machines go'} to nobody
          </summary>
          <ul>
            {plan.left.map((l) => (
              <li key={l.tag} className="border-b border-rule py-0.5">
                <Link to={`/machines/${l.tag}/routes`} className="font-value font-semibold hover:underline">
                  {l.tag}
                </Link>{' '}
                <span className="text-quiet">{l.why}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}
