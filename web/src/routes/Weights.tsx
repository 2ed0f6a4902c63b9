import { useState } from 'react';
import type { Schema } from '../api/client';
import { useRouteName } from './words';

const criteria = ['money', 'work', 'risk', 'support', 'fit'] as const;

/** How much each criterion counts. A notch on the track is the exact weight at which the recommendation changes. */
export function Weights({
  routes,
  usual,
  chosen,
  set,
}: {
  routes: Schema['Route'][];
  usual: Schema['Weights'];
  chosen: string | undefined;
  set: (weights: string | null) => void;
}) {
  const name = useRouteName();
  // What is moved stands at once; the address and the ranking follow when they can.
  const suits = criteria.map((c) => usual[c]);
  const [values, setValues] = useState(chosen?.split(',').map(Number) ?? suits);
  const best = routes[0];
  return (
    <fieldset className="pb-2">
      <legend className="sr-only">What counts</legend>
      {criteria.map((criterion, i) => {
        const value = values[i] ?? 0;
        const flips = (best?.flips ?? []).filter((f) => f.criterion === criterion);
        const next = flips
          .map((f) => ({
            at: f.at,
            to: routes.find((r) => r.id === (f.below === best?.id ? f.above : f.below)),
          }))
          .sort((a, b) => Math.abs(a.at - value) - Math.abs(b.at - value))[0];
        return (
          <label
            key={criterion}
            className="grid grid-cols-[54px_76px_22px_minmax(0,1fr)] items-center gap-1.5"
          >
            <span className="caption">{criterion}</span>
            <span className="relative block">
              <input
                type="range"
                min={0}
                max={100}
                value={value}
                className="block h-7 w-full accent-ink"
                onChange={(event) => {
                  const all = values.map((v, j) => (j === i ? Number(event.target.value) : v));
                  if (all.every((v) => v === 0)) return;
                  setValues(all);
                  set(all.join(','));
                }}
              />
              {flips.map((f) => (
                <span
                  key={f.at}
                  aria-hidden="true"
                  className="absolute top-0 h-2 w-[2px] bg-spoof"
                  style={{ left: `calc(8px + (100% - 16px) * ${f.at / 100})` }}
                />
              ))}
            </span>
            <span className="text-right font-value text-[13px]">{Math.round(value)}</span>
            <span className="truncate text-[12px] leading-tight text-quiet">
              {next?.to
                ? `${next.at > value ? 'above' : 'below'} ${Math.round(next.at)}: ${name(next.to)}`
                : 'the first stays first'}
            </span>
          </label>
        );
      })}
      {chosen && (
        <button
          type="button"
          className="min-h-8 text-sm underline underline-offset-4"
          onClick={() => {
            setValues(suits);
            set(null);
          }}
        >
          Back to what suits the order
        </button>
      )}
    </fieldset>
  );
}
