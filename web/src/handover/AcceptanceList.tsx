import { useState } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../api/client';

type Line = Schema['AcceptanceLine'];

const mark: Record<Schema['Proof'], { sign: string; ink: string }> = {
  proved: { sign: '✓', ink: 'text-clear' },
  accepted: { sign: '✓', ink: 'text-caveat' },
  open: { sign: '○', ink: 'text-unknown' },
  failed: { sign: '✕', ink: 'text-wall' },
};

/** What the machine has to be when it leaves: what stands in the way first, then what was read, then what hands saw. */
export function AcceptanceList({ lines, tag }: { lines: Line[]; tag: string }) {
  const open = lines.filter((l) => l.isOpen);
  const done = lines.filter((l) => !l.isOpen);
  const read = done.filter((l) => l.by !== 'step' && !l.evidence?.startsWith('step'));
  return (
    <section aria-label="Acceptance">
      {open.length > 0 && (
        <>
          <h3 className="caption pt-4">
            {open.length} of {lines.length} still in the way
          </h3>
          <ul aria-label="Still in the way">
            {open
              .filter((l) => l.by !== 'step')
              .map((line) => (
                <Row key={line.id} line={line} tag={tag} />
              ))}
          </ul>
          <ul aria-label="Not looked at yet" className="grid gap-x-8 md:grid-cols-2">
            {open
              .filter((l) => l.by === 'step')
              .map((line) => (
                <li key={line.id} className="flex gap-3 border-b border-rule py-1">
                  <Mark line={line} />
                  {line.line}
                </li>
              ))}
          </ul>
        </>
      )}
      {read.length > 0 && (
        <>
          <h3 className="caption pt-4">
            Read from the machine and its record:{' '}
            {read.find((l) => l.by === 'probe')?.evidence ?? 'no probe yet'}
          </h3>
          <ul aria-label="Acceptance list">
            {read.map((line) => (
              <Row key={line.id} line={line} tag={tag} />
            ))}
          </ul>
        </>
      )}
      {done.length > read.length && (
        <>
          <h3 className="caption pt-4">Seen by hand</h3>
          <ul aria-label="Seen by hand" className="grid gap-x-8 md:grid-cols-2">
            {done
              .filter((l) => !read.includes(l))
              .map((line) => (
                <li
                  key={line.id}
                  className="flex gap-3 border-b border-rule py-1"
                  title={`${line.says}, ${line.evidence ?? ''}`}
                >
                  <Mark line={line} />
                  <span className="min-w-0 flex-1">
                    {line.line}
                    {line.proof === 'accepted' && (
                      <b className="block text-caveat">
                        <span className="sr-only">accepted: </span>
                        {line.says}
                      </b>
                    )}
                  </span>
                </li>
              ))}
          </ul>
        </>
      )}
    </section>
  );
}

function Mark({ line }: { line: Line }) {
  const { sign, ink } = mark[line.proof];
  return (
    <span aria-hidden="true" className={`w-4 shrink-0 font-bold ${ink}`}>
      {sign}
    </span>
  );
}

function Row({ line, tag }: { line: Line; tag: string }) {
  return (
    <li className="flex gap-3 border-b border-rule py-1.5">
      <Mark line={line} />
      <b className="w-72 shrink-0">{line.line}</b>
      <span className="min-w-0 flex-1">
        <span className="text-quiet">{line.proof}: </span>
        {line.says}
        {line.before && !line.says.includes(line.before) && (
          <span className="text-quiet"> · before the work: {line.before}</span>
        )}
        {line.proof === 'failed' && (
          <>
            {' '}
            <Link className="font-semibold underline underline-offset-4" to={`/machines/${tag}/fault`}>
              Find the fault
            </Link>{' '}
            <span className="text-quiet">on rung {line.rung}</span>
          </>
        )}
      </span>
    </li>
  );
}

/** Somebody answers for what may stay as it is; the reason stays in the record, and the owner reads what was found. */
export function AnswerFor({
  line,
  busy,
  say,
}: {
  line: Line;
  busy: boolean;
  say: (data: Record<string, string>) => void;
}) {
  const [why, setWhy] = useState('');
  return (
    <form
      className="flex flex-wrap items-end gap-3 pt-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (why.trim()) say({ accepts: line.id, text: why.trim() });
      }}
    >
      <label className="min-w-64 flex-1">
        <span className="caption block">Why “{line.line}” may stay so</span>
        <input
          maxLength={500}
          value={why}
          className="h-10 w-full border-b-2 border-ink bg-transparent"
          onChange={(event) => {
            setWhy(event.target.value);
          }}
        />
      </label>
      <button
        disabled={busy || !why.trim()}
        className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
      >
        I answer for it
      </button>
    </form>
  );
}
