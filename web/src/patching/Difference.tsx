import type { Schema } from '../api/client';

/** The lines of a difference: what goes out, what comes in, and what stands around it. */
export function Difference({ file }: { file: Schema['FileDifference'] }) {
  return (
    <article className="pb-3" aria-label={`Difference in ${file.path}`}>
      <h4 className="flex items-baseline gap-3 border-b border-rule pb-0.5">
        <b className="font-value">{file.path}</b>
        <span className="text-sm text-quiet">
          {file.change}, {file.oldSizeBytes} → {file.newSizeBytes} bytes
        </span>
      </h4>
      <pre
        tabIndex={0}
        aria-label={`Lines of ${file.path}`}
        className="overflow-auto bg-sheet font-value text-[13px] leading-[1.5]"
      >
        {file.lines.map((line, i) => (
          <span
            key={i}
            data-line={line.kind}
            className={`block px-2 ${line.kind === 'in' ? 'border-l-4 border-clear' : line.kind === 'out' ? 'border-l-4 border-wall text-quiet line-through decoration-wall/60' : 'border-l-4 border-transparent'} ${line.kind === 'gap' ? 'text-quiet italic' : ''}`}
          >
            <span className="inline-block w-9 pr-2 text-right text-quiet select-none" aria-hidden="true">
              {line.new ?? line.old ?? ''}
            </span>
            <span className="sr-only">
              {line.kind === 'in' ? 'in: ' : line.kind === 'out' ? 'out: ' : ''}
            </span>
            {line.text || ' '}
          </span>
        ))}
      </pre>
    </article>
  );
}
