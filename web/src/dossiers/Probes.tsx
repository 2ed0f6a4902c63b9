import { useQuery } from '@tanstack/react-query';
import { probesOf, useTakeBack } from '../api/queries';
import { Failed } from '../shell/States';
import { dayAndTime } from '../shell/time';
import { nobody, useWho } from '../shell/who';

/** What was read from the machine and when. A probe that was another machine's is taken back; the record keeps it. */
export function Probes({ tag }: { tag: string }) {
  const { data } = useQuery(probesOf(tag));
  const back = useTakeBack(tag);
  const [who] = useWho();
  if (!data?.[0]) return null;
  return (
    <details className="border-t-[1.5px] border-ink pt-1.5 lg:-ml-[532px]">
      <summary className="caption min-h-8 cursor-pointer">
        Probes taken in: {data.length}, the last {dayAndTime(data[0].receivedAt)}
      </summary>
      {back.error && <Failed error={back.error} />}
      <ul>
        {data.map((probe) => (
          <li key={probe.id} className="flex flex-wrap items-baseline gap-x-4 border-t border-rule py-1">
            <span className={probe.takenBackBy ? 'line-through' : ''}>
              <b className="font-value">{probe.files.join(', ')}</b> · {dayAndTime(probe.receivedAt)} ·{' '}
              {probe.facts} facts
            </span>
            {probe.takenBackBy ? (
              <span className="text-quiet">taken back by {probe.takenBackBy}</span>
            ) : (
              <button
                type="button"
                className="min-h-9 text-sm underline underline-offset-4"
                onClick={() => {
                  back.mutate({ id: probe.id, by: who || nobody });
                }}
              >
                Take it back
              </button>
            )}
            {probe.warnings.length > 0 && (
              <ul className="w-full list-disc pl-5 text-sm text-quiet">
                {probe.warnings.map((warning) => (
                  <li key={warning}>{warning}</li>
                ))}
              </ul>
            )}
          </li>
        ))}
      </ul>
    </details>
  );
}
