import type { Schema } from '../api/client';
import type { Run } from './run';

type Step = Schema['Step'];

/** Lines of the stop that are over, above the one in hand: ticked only where they went as described. */
export function Ticked({ run, lines }: { run: Run; lines: Step[] }) {
  if (lines.length === 0) return null;
  return (
    <ol aria-label="Done in this stop" className="pt-1 text-quiet">
      {lines.map((line) => {
        const other = otherwise(run, line);
        return (
          <li key={line.id} className="flex gap-3 py-px">
            <span aria-hidden="true" className="w-4 font-semibold">
              {other === null ? '✓' : '–'}
            </span>
            <span className="flex-1 truncate" title={line.text}>
              {other !== null && <b>{other}: </b>}
              {line.text}
            </span>
          </li>
        );
      })}
    </ol>
  );
}

/** How a line that is over went, where it did not go as described. */
function otherwise(run: Run, line: Step): string | null {
  const seen = run.state.taken[line.id];
  if (seen !== undefined) return seen;
  const last = run.events.filter((e) => e.stepId === line.id).at(-1);
  return last?.kind === 'skipped' ? 'Left out' : last?.kind === 'deviated' ? 'In another way' : null;
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
