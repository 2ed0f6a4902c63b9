import type { Schema } from '../api/client';
import { useEnterFact } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/**
 * What has to be answered before the sheet is used: each answer with what follows from it, and, where there is room, what is done while nobody
 * answers.
 */
export function OpenQuestions({ asks, brief = false }: { asks: Schema['PlanAsk'][]; brief?: boolean }) {
  const { sheet } = useMachine();
  const enter = useEnterFact(sheet.tag);
  const [who] = useWho();
  if (asks.length === 0) return null;
  return (
    <section aria-label="Open questions" className="border-l-4 border-setting pl-3">
      <h3 className="font-semibold">
        {asks.length === 1 ? 'One question is open' : `${asks.length} questions are open`}: the steps depend
        on the answer.
      </h3>
      {enter.error && <Failed error={enter.error} />}
      <ul>
        {asks.map((ask) => (
          <li key={ask.fact} className="border-t border-rule py-1 first:border-t-0" data-ask={ask.fact}>
            <p>{ask.asks}</p>
            <div className="flex flex-wrap gap-x-6">
              {ask.answers.map((answer) => (
                <button
                  key={answer.value}
                  type="button"
                  title={answer.consequence}
                  disabled={enter.isPending}
                  className="min-h-9 font-semibold underline underline-offset-4"
                  onClick={() => {
                    enter.mutate({
                      key: ask.fact,
                      value: answer.value,
                      source: 'answered before the sheet',
                      by: who || nobody,
                    });
                  }}
                >
                  {answer.meaning}
                </button>
              ))}
            </div>
            {!brief && <p className="text-[13px] text-quiet">Until it is answered: {ask.until}</p>}
          </li>
        ))}
      </ul>
    </section>
  );
}
