import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { Schema } from '../api/client';
import { systems } from '../api/queries';
import { RungShape } from '../ladder/RungShape';
import { systemName } from '../dossiers/facts';
import { changedLines } from './schema';

/** What a change would do: its faults with their places, or each outcome of the fleet that moves. */
export function Effects({
  effect,
  differences = false,
}: {
  effect: Schema['CatalogueEffect'];
  differences?: boolean;
}) {
  const known = useQuery(systems).data ?? [];
  return (
    <section aria-label="Effect on the fleet">
      {effect.faults.length > 0 ? (
        <>
          <h3 className="caption pt-2">
            {effect.faults.length} {effect.faults.length === 1 ? 'fault' : 'faults'}
          </h3>
          <ul role="alert">
            {effect.faults.map((fault) => (
              <li key={`${fault.pointer} ${fault.message}`} className="border-b border-rule py-1 text-sm">
                <b className="font-value text-wall">{fault.pointer || '/'}</b> {fault.message}
                <span className="block text-xs text-quiet">{fault.file}</span>
              </li>
            ))}
          </ul>
        </>
      ) : (
        <>
          <h3 className="caption pt-2">Effect on the fleet</h3>
          {effect.changes.length === 0 && <p className="text-sm text-quiet">No outcome changes.</p>}
          <ul>
            {effect.changes.slice(0, 60).map((change) => (
              <li
                key={`${change.tag} ${change.system}`}
                className="flex flex-wrap items-center gap-x-2 border-b border-rule py-1 text-[13px]"
              >
                <Link className="w-[68px] font-value hover:underline" to={`/machines/${change.tag}/systems`}>
                  {change.tag}
                </Link>
                <span className="min-w-0 flex-1">
                  {systemName(known.find((s) => s.id === change.system)) || change.system}
                </span>
                <span className="flex w-full items-center gap-2 pl-[76px]">
                  <Outcome outcome={change.from} /> → <Outcome outcome={change.to} />
                </span>
              </li>
            ))}
          </ul>
          {effect.changes.length > 60 && (
            <p className="text-sm text-quiet">and {effect.changes.length - 60} more</p>
          )}
        </>
      )}
      {differences &&
        effect.differences.map((d) => (
          <details key={`${d.kind}/${d.id}`} className="border-b border-rule">
            <summary className="min-h-9 cursor-pointer pt-1">
              <b>{d.id}</b> <span className="text-quiet">{d.kind}, </span>
              {d.before === null ? 'new' : 'changed'}
            </summary>
            <Lines before={d.before} after={d.after} />
          </details>
        ))}
    </section>
  );
}

function Outcome({ outcome }: { outcome: Schema['Outcome'] | null }) {
  return outcome === null ? (
    <span className="w-[92px] text-quiet">not there</span>
  ) : (
    <span className="flex w-[92px] items-center gap-1.5">
      <RungShape outcome={outcome} width={28} bar={5} />
      {outcome}
    </span>
  );
}

/** What changed between two entries, line by line. */
export function Lines({ before, after }: { before: unknown; after: unknown }) {
  const text = (value: unknown) =>
    value === null || value === undefined ? '' : JSON.stringify(value, null, 2);
  return (
    <pre className="overflow-x-auto font-value text-[12px] leading-snug">
      {changedLines(text(before), text(after)).map((l, i) => (
        <span
          key={i}
          className={`block ${l.mark === '+' ? 'text-clear' : l.mark === '-' ? 'text-wall' : 'text-quiet'}`}
        >
          {l.mark} {l.line}
        </span>
      ))}
    </pre>
  );
}
