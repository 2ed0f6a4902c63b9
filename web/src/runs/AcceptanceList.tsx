import type { Schema } from '../api/client';

const mark: Record<Schema['Proof'], string> = { proved: '✓', accepted: '✓', open: '○', failed: '✕' };

export function AcceptanceList({ lines }: { lines: Schema['AcceptanceLine'][] }) {
  return (
    <ul className="pt-3" aria-label="Acceptance list">
      {lines.map((line) => (
        <li key={line.line} className="flex gap-3 border-b border-rule py-1.5">
          <span
            aria-hidden="true"
            className={
              line.proof === 'proved' ? 'text-clear' : line.proof === 'failed' ? 'text-wall' : 'text-unknown'
            }
          >
            {mark[line.proof]}
          </span>
          <b className="w-72">{line.line}</b>
          <span>
            <span className="text-quiet">{line.proof}: </span>
            {line.says}
          </span>
        </li>
      ))}
    </ul>
  );
}
