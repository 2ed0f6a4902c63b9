import type { Schema } from '../api/client';
import { verdicts } from '../images/words';
import { RungShape } from '../ladder/RungShape';

/** What a twin showed: the verdict, the last picture of its screen, and the text. */
export function TwinResult({ job }: { job: Schema['JobSheet'] }) {
  const result = job.result;
  const verdict = verdicts[result?.rehearsal?.verdict ?? ''];
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
            <b className="text-lg" data-verdict={result?.rehearsal?.verdict}>
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
