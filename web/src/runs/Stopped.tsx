import { useState } from 'react';
import { Link } from 'react-router';
import type { Run } from './run';

/** A run that stopped: what may help, and the way out of it, which leaves nothing open. */
export function Stopped({
  run,
  tell,
  busy,
}: {
  run: Run;
  tell: (kind: string, data?: Record<string, string>) => void;
  busy: boolean;
}) {
  const [leaving, setLeaving] = useState(false);
  const [why, setWhy] = useState('');
  const [starts, setStarts] = useState('');
  const [closed, setClosed] = useState(false);
  const { open } = run.state;
  const ready = why.trim().length > 2 && starts !== '' && (open.length === 0 || closed);
  return (
    <section aria-label="The run stopped" className="border-t border-rule py-1">
      <p className="text-quiet">
        <Link
          className="inline-flex min-h-9 items-center font-semibold text-ink underline underline-offset-4"
          to={`/machines/${run.tag}/fault`}
        >
          Find the fault
        </Link>
        . Go on when it is mended, or take the last step back. Nothing mends it?{' '}
        <Link className="underline underline-offset-4" to={`/machines/${run.tag}/routes?panel=beside`}>
          Look at other routes
        </Link>
        , then{' '}
        <button
          type="button"
          aria-expanded={leaving}
          className="min-h-9 font-semibold text-ink underline underline-offset-4"
          onClick={() => {
            setLeaving(!leaving);
          }}
        >
          give this run up
        </button>
        .
      </p>
      {leaving && (
        <form
          aria-label="Give the run up"
          className="flex flex-col gap-2 py-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (ready)
              tell('givenUp', { text: why.trim(), starts, ...(open.length > 0 ? { closed: 'yes' } : {}) });
          }}
        >
          <label>
            <span className="caption block">Why it is given up</span>
            <input
              autoFocus
              maxLength={500}
              value={why}
              className="h-11 w-full border-b-2 border-ink bg-transparent text-lg"
              onChange={(event) => {
                setWhy(event.target.value);
              }}
            />
          </label>
          <fieldset className="flex flex-wrap gap-x-6">
            <legend className="caption">Does the machine start something now?</legend>
            {(
              [
                ['yes', 'yes, its old or its new system'],
                ['no', 'no: it is marked so'],
              ] as const
            ).map(([value, says]) => (
              <label key={value} className="flex min-h-11 items-center gap-2">
                <input
                  type="radio"
                  name="starts"
                  className="size-5 accent-(--ink)"
                  checked={starts === value}
                  onChange={() => {
                    setStarts(value);
                  }}
                />
                {says}
              </label>
            ))}
          </fieldset>
          {open.length > 0 && (
            <label className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                className="size-5 accent-(--ink)"
                checked={closed}
                onChange={(event) => {
                  setClosed(event.target.checked);
                }}
              />
              Closed again: {open.join('; ')}
            </label>
          )}
          <button
            disabled={busy || !ready}
            className="min-h-12 self-start border-[1.5px] border-ink px-6 text-lg font-semibold"
          >
            Give the run up
          </button>
        </form>
      )}
    </section>
  );
}
