import { useQuery } from '@tanstack/react-query';
import type { Schema } from '../api/client';
import { choices, useEnterFact } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** Where practitioners disagree: each school with its price. What is chosen keeps routes out, or changes steps and files. */
export function ChoicesPanel({ left }: { left: number }) {
  const { sheet } = useMachine();
  const { data } = useQuery(choices);
  const enter = useEnterFact(sheet.tag);
  const [who] = useWho();
  if (!data) return <Loading />;
  return (
    <section aria-label="Choices">
      <p className="py-1.5 text-quiet">
        {left} {left === 1 ? 'route is' : 'routes are'} left under what is chosen. While nobody chooses,
        nothing is kept out.
      </p>
      {enter.error && <Failed error={enter.error} />}
      <ul>
        {data.map((choice) => {
          const chosen = sheet.facts.find((f) => f.key === choice.key);
          return (
            <li key={choice.key} className="border-t border-rule py-1.5">
              <p className="flex items-baseline justify-between">
                <b>{choice.question}</b>
                <span className="text-sm text-quiet">
                  {choice.rung}
                  {chosen?.by && ` · chosen by ${chosen.by}`}
                </span>
              </p>
              <div className="grid grid-cols-2 gap-x-4">
                {choice.answers.map((answer) => (
                  <button
                    key={answer.value}
                    type="button"
                    aria-pressed={chosen?.value === answer.value}
                    data-choice={`${choice.key}=${answer.value}`}
                    className={`flex min-h-11 flex-col py-1 text-left ${chosen?.value === answer.value ? 'border-l-4 border-ink bg-sheet pl-2' : 'border-l-4 border-transparent pl-2 hover:border-rule'}`}
                    onClick={() => {
                      enter.mutate({
                        key: choice.key,
                        value: answer.value,
                        source: 'chosen with the route',
                        by: who || nobody,
                      });
                    }}
                  >
                    <span className="font-semibold underline decoration-rule underline-offset-4">
                      {answer.meaning}
                    </span>
                    <span className="text-[13px] leading-snug text-quiet">{answer.consequence}</span>
                  </button>
                ))}
              </div>
              <WhoSaysWhat choice={choice} />
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** Practitioners contradict each other: each claim with the answer it speaks for, its source, and how sure. */
function WhoSaysWhat({ choice }: { choice: Schema['ChoiceView'] }) {
  if (choice.claims.length === 0) return null;
  const sources = choice.claims.length;
  return (
    <details className="pl-2">
      <summary className="min-h-8 cursor-pointer text-[13px] text-quiet">
        Who says what: {sources === 1 ? 'one source' : `${sources} sources`}
      </summary>
      <ul className="list-disc pb-1 pl-5 text-sm">
        {choice.claims.map((claim) => (
          <li key={claim.says}>
            <b>{choice.answers.find((a) => a.value === claim.answer)?.meaning}:</b> “{claim.says}”
            <span className="text-quiet">
              {' '}
              {claim.evidence.source}, {claim.evidence.date}, {claim.evidence.sure}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
