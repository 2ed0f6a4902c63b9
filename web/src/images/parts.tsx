import { useQuery } from '@tanstack/react-query';
import { NavLink } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { job as jobQuery } from '../api/imageQueries';
import { useWrite } from '../api/queries';
import { RungShape } from '../ladder/RungShape';
import { Failed } from '../shell/States';
import { verdicts } from './words';

/** The boards of the shelf. */
export function ShelfNav() {
  return (
    <nav aria-label="Shelf" className="flex gap-6 border-b-[1.5px] border-ink">
      {(
        [
          ['/shelf/images', 'Images'],
          ['/shelf/media', 'Sticks and discs'],
          ['/shelf/recipes', 'Recipes'],
          ['/shelf', 'Parts'],
        ] as const
      ).map(([to, name]) => (
        <NavLink
          key={to}
          to={to}
          end
          className={({ isActive }) =>
            `flex min-h-10 items-center border-b-4 pt-1 text-[17px] ${isActive ? 'border-ink font-bold' : 'border-transparent text-quiet hover:text-ink'}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}

/** Yes or no as a rung: whole, or broken; the word stands beside it. */
export function YesNo({ can }: { can: boolean | null }) {
  return (
    <span className="inline-flex items-center gap-1.5 text-sm">
      <RungShape outcome={can === null ? 'unknown' : can ? 'clear' : 'wall'} width={28} bar={7} />
      <span className={can ? '' : 'text-quiet'}>{can === null ? 'open' : can ? 'yes' : 'no'}</span>
    </span>
  );
}

/** Long work while it goes on, and what came of it. */
export function JobLine({ id, done }: { id: number; done?: (job: Schema['JobSheet']) => React.ReactNode }) {
  const { data } = useQuery(jobQuery(id));
  const cancel = useWrite(() => take(api.DELETE('/api/jobs/{id}', { params: { path: { id } } })));
  if (!data) return null;
  const going = data.state === 'queued' || data.state === 'running';
  return (
    <div role="status" className="py-1" data-job={data.state}>
      <p className="flex items-center gap-3">
        <b>{going ? data.says || 'It waits for its turn.' : data.says}</b>
        {going && (
          <>
            <span className="font-value text-sm">{Math.round(data.part * 100)} %</span>
            <button
              type="button"
              className="ml-auto min-h-9 border-[1.5px] border-quiet px-2.5 text-sm hover:border-ink"
              onClick={() => {
                cancel.mutate(undefined);
              }}
            >
              Cancel
            </button>
          </>
        )}
      </p>
      {going && <Bar part={data.part} />}
      {data.state === 'failed' && <p className="text-wall">It was not done; nothing half-made is offered.</p>}
      {cancel.error && <Failed error={cancel.error} />}
      {!going && done?.(data)}
    </div>
  );
}

/** How far something is, drawn as a filling rail. */
export function Bar({ part }: { part: number }) {
  return (
    <span
      className="block h-2.5 border-[1.5px] border-ink"
      role="progressbar"
      aria-label="Done"
      aria-valuenow={Math.round(part * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
    >
      <span className="block h-full bg-ink" style={{ width: `${part * 100}%` }} />
    </span>
  );
}

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

/** What a twin showed: the verdict, the last picture of its screen, and the text. */
export function TwinResult({ job }: { job: Schema['JobSheet'] }) {
  const result = job.result;
  const verdict = verdicts[result?.verdict ?? ''];
  const last = result?.screens?.at(-1);
  return (
    <figure
      className="grid gap-x-5 gap-y-2 pt-1 lg:grid-cols-[minmax(0,560px)_minmax(0,1fr)]"
      aria-label="Twin"
    >
      {last ? (
        <img
          src={last}
          alt={`Screen of the twin${verdict ? `: ${verdict.word}` : ''}`}
          className="w-full border-[1.5px] border-ink bg-ink"
          width={1280}
          height={800}
        />
      ) : (
        <div className="flex aspect-[8/5] items-center justify-center border-[1.5px] border-dashed border-quiet text-quiet">
          no picture yet
        </div>
      )}
      <figcaption className="min-w-0">
        {verdict && (
          <p className="flex items-center gap-2">
            <RungShape outcome={verdict.outcome} width={64} bar={10} />
            <b className="text-lg" data-verdict={result?.verdict}>
              {verdict.word}
            </b>
            <span className="text-quiet">after {result?.seconds} s</span>
          </p>
        )}
        {result?.text && (
          <pre
            tabIndex={0}
            aria-label="What it sent down the serial line"
            className="mt-1 max-h-64 overflow-auto border-l-2 border-ink bg-sheet px-3 py-1 font-value text-[12.5px] whitespace-pre-wrap"
          >
            {result.text.trim()}
          </pre>
        )}
        <ul className="pt-1 text-sm text-quiet">
          {result?.differs?.map((difference) => (
            <li key={difference}>{difference}</li>
          ))}
        </ul>
      </figcaption>
    </figure>
  );
}
