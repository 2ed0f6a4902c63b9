import { useQuery } from '@tanstack/react-query';
import type { Schema } from '../api/client';
import { factKeys, nextMeasurements, systems } from '../api/queries';
import { inkOf } from '../ladder/outcomes';
import { factText, systemName } from '../dossiers/facts';
import { counted } from '../pieces/counted';

/** What to measure next, by decisions changed per minute of effort. */
export function MeasureNext({ tag, most, beside = false }: { tag: string; most: number; beside?: boolean }) {
  const { data } = useQuery(nextMeasurements(tag));
  const count = useQuery(systems).data?.length ?? 0;
  if (!data) return null;
  if (data.length === 0)
    return (
      <p className="text-quiet" data-testid="measure-next">
        Nothing that is still open would change a verdict.
      </p>
    );
  return (
    <ol
      data-testid="measure-next"
      className={beside ? 'grid grid-cols-1 gap-x-6 md:grid-cols-3' : 'divide-y divide-rule'}
    >
      {once(data)
        .slice(0, most)
        .map((measurement) => (
          <li key={measurement.key} className="py-0.5 text-sm leading-snug" title={measurement.text}>
            <b className="text-base">
              {measurement.conflict ? `Settle: ${measurement.label}` : measurement.label}
            </b>{' '}
            · {measurement.minutes} min ·{' '}
            {measurement.systems > 0
              ? `decides ${measurement.systems} of ${counted(count, 'system')}`
              : `settles ${counted(measurement.settles, 'open question')}`}
            <span className={`text-quiet ${beside ? 'line-clamp-1' : 'block'}`}>{measurement.how}</span>
            {!beside && <Decides measurement={measurement} />}
          </li>
        ))}
    </ol>
  );
}

/** What one act at the bench reads together is told once, under the fact that decides most. */
const once = (all: Schema['NextMeasurement'][]) =>
  all.filter((m, i) => m.conflict || all.findIndex((other) => other.how === m.how && !other.conflict) === i);

function Decides({ measurement }: { measurement: Schema['NextMeasurement'] }) {
  const known = useQuery(systems).data ?? [];
  const keys = useQuery(factKeys).data ?? [];
  const values = [...new Set(measurement.decides.map((d) => JSON.stringify(d.ifValue)))].slice(0, 3);
  if (values.length === 0) return null;
  return (
    <span className="block text-sm text-quiet">
      {values.map((value, i) => {
        const decided = measurement.decides.filter((d) => JSON.stringify(d.ifValue) === value);
        const first = decided[0];
        if (!first) return null;
        const more = decided.length - 1;
        return (
          <span key={value}>
            {i > 0 && '; '}
            {factText({ key: measurement.key, value: first.ifValue }, keys)}:{' '}
            {systemName(known.find((s) => s.id === first.system))}{' '}
            <b className={inkOf[first.outcome]}>{first.outcome}</b>
            {more > 0 && ` and ${more} more`}
          </span>
        );
      })}
    </span>
  );
}
