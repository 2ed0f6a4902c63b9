import type { Schema } from '../api/client';

type Step = Schema['Step'];

/** Lines of the stop that are ticked, above the one in hand. */
export function Ticked({ lines }: { lines: Step[] }) {
  if (lines.length === 0) return null;
  return (
    <ol aria-label="Done in this stop" className="pt-1 text-quiet">
      {lines.map((line) => (
        <li key={line.id} className="flex gap-3 py-px">
          <span aria-hidden="true" className="w-4 font-semibold">
            ✓
          </span>
          <span className="flex-1 truncate" title={line.text}>
            {line.text}
          </span>
        </li>
      ))}
    </ol>
  );
}

/** Lines of the stop that are still to come: what is done, and what one sees; in short only the first. */
export function ToCome({ lines, isShort = false }: { lines: Step[]; isShort?: boolean }) {
  if (lines.length === 0) return null;
  return (
    <ol aria-label="Also in this stop" className="pb-3">
      {lines.map((line) => (
        <li key={line.id} className="flex gap-3 py-0.5">
          <span aria-hidden="true" className="mt-1 size-4 border-[1.5px] border-quiet" />
          <span className="flex-1">
            {line.text}{' '}
            {!isShort && line.expect && !line.command && <span className="text-quiet">{line.expect}</span>}
          </span>
        </li>
      ))}
    </ol>
  );
}
