import { useState } from 'react';
import type { Schema } from '../api/client';
import { clockTime } from '../shell/time';
import type { Run } from './run';

interface OptionsProps {
  run: Run;
  step: Schema['Step'];
  tell: (kind: string, data?: Record<string, string>) => void;
  busy: boolean;
}

/**
 * Things to try, in their order and one change at a time. What was tried stays in the list with what came of it, so that
 * nobody credits the wrong thing when one works at last.
 */
export function Trials({ run, step, tell, busy }: OptionsProps) {
  const [own, setOwn] = useState('');
  const tried = run.state.trials.filter((t) => t.stepId === step.id);
  const last = run.worked;
  // What worked on this board last time is tried first.
  const order = [...step.options].sort((a, b) => Number(b === last?.what) - Number(a === last?.what));
  const left = order.filter((o) => !tried.some((t) => t.what === o));
  return (
    <section aria-label="Trials" className="pt-3">
      <p className="pb-1 text-quiet">
        Try these in their order, with nothing else changed between two tries.
      </p>
      <ol className="border-t border-rule">
        {tried.map((t, i) => (
          <li key={i} className="flex min-h-11 items-center gap-4 border-b border-rule text-quiet">
            <span className="w-10 font-value">{i + 1}</span>
            <s className="flex-1">{t.what}</s>
            <span>
              {t.worked ? 'worked, and was taken back' : 'did not help'} · {clockTime(t.at)} · {t.by}
            </span>
          </li>
        ))}
        {left.map((option, i) => (
          <Try
            key={option}
            number={tried.length + i + 1}
            turn={i === 0}
            what={option}
            says={option === last?.what ? `worked on ${last.tag}, which has the same board` : undefined}
            tell={tell}
            busy={busy}
          />
        ))}
        <li className="flex min-h-12 items-center gap-4 border-b border-rule">
          <span className="w-10" />
          <input
            aria-label="Something else"
            placeholder="Something else: what is the one thing that is other than before?"
            maxLength={300}
            value={own}
            className="h-11 flex-1 border-b-2 border-quiet bg-transparent"
            onChange={(event) => {
              setOwn(event.target.value);
            }}
          />
          <Came what={own.trim()} tell={tell} busy={busy || own.trim().length < 3} />
        </li>
      </ol>
    </section>
  );
}

function Try({
  number,
  turn,
  what,
  says,
  tell,
  busy,
}: {
  number: number;
  turn: boolean;
  what: string;
  says: string | undefined;
  tell: OptionsProps['tell'];
  busy: boolean;
}) {
  return (
    <li className={`flex min-h-12 items-center gap-4 border-b border-rule ${turn ? '' : 'text-quiet'}`}>
      <span className="w-10 font-value">{number}</span>
      <span className="flex-1">
        {turn ? <b>{what}</b> : what}
        {says && <span className="block text-sm text-clear">{says}</span>}
      </span>
      {turn && <Came what={what} tell={tell} busy={busy} />}
    </li>
  );
}

/** What came of a try. */
function Came({ what, tell, busy }: { what: string; tell: OptionsProps['tell']; busy: boolean }) {
  return (
    <span className="flex gap-3">
      <button
        type="button"
        disabled={busy}
        className="min-h-11 bg-ink px-4 font-semibold text-ground"
        onClick={() => {
          tell('done', { worked: what });
        }}
      >
        It worked
      </button>
      <button
        type="button"
        disabled={busy}
        className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
        onClick={() => {
          tell('tried', { what });
        }}
      >
        It did not
      </button>
    </span>
  );
}

/** One of several: the choice is kept, and the step is done with it. */
export function Choices({ step, tell, busy }: Omit<OptionsProps, 'run'>) {
  return (
    <ul aria-label="Choose one" className="mt-3 border-t border-rule">
      {step.options.map((option) => (
        <li key={option} className="border-b border-rule">
          <button
            type="button"
            disabled={busy}
            className="flex min-h-12 w-full items-center text-left text-lg font-semibold underline-offset-4 hover:underline"
            onClick={() => {
              tell('done', { chosen: option });
            }}
          >
            {option}
          </button>
        </li>
      ))}
    </ul>
  );
}
