import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { api, take } from '../api/client';
import { offers } from '../api/queries';
import { Failed } from '../shell/States';
import type { JsonObject } from './schema';

/** How a procedure reads on a machine of one's choice, with everything filled in, while one types. */
export function OnMachine({ id, entry }: { id: string; entry: JsonObject }) {
  const [tag, setTag] = useState('');
  const asked = useDeferredValue(entry);
  const whole = /^[A-Za-z]{2,4}-?\d{3,}$/.test(tag.trim());
  const { data, error } = useQuery({
    queryKey: ['catalogue', 'on-machine', id, tag, asked],
    queryFn: () =>
      take(
        api.POST('/api/catalogue/procedures/{id}/preview', {
          params: { path: { id } },
          body: { tag: tag.trim().toUpperCase(), entry: asked as never },
        }),
      ),
    enabled: whole && id !== '',
    retry: false,
  });
  return (
    <section aria-label="On a machine" className="pt-3">
      <label className="block">
        <span className="caption">On a machine</span>
        <input
          data-scan="field"
          autoComplete="off"
          spellCheck={false}
          placeholder="its tag"
          value={tag}
          className="h-9 w-full border-b-2 border-ink bg-transparent font-value uppercase"
          onChange={(event) => {
            setTag(event.target.value);
          }}
        />
      </label>
      {error && <Failed error={error} />}
      {data && data.school === null && (
        <p className="pt-1 text-sm text-quiet">It belongs to no route of this machine.</p>
      )}
      {data?.words.map((w) => (
        <p key={`${w.step} ${w.says}`} className="pt-1 text-sm text-setting">
          Step “{w.step}”: {w.says}.
        </p>
      ))}
      {data && data.school !== null && (
        <>
          <p className="pt-1 text-sm text-quiet">
            {data.system ?? 'the machine'}, {data.school}
          </p>
          <ol className="max-h-64 overflow-y-auto text-sm">
            {data.steps.map((step) => (
              <li
                key={step.id}
                className={`border-b border-rule py-1 ${step.on ? 'border-l-2 border-l-quiet pl-2' : ''}`}
              >
                {step.on && <span className="block text-quiet">{step.on.when}:</span>}
                <b>{step.text}</b>
                {step.caution && <span className="block">Caution. {step.caution}</span>}
                {step.expect && <span className="block text-quiet">See: {step.expect}</span>}
              </li>
            ))}
          </ol>
          {data.missing.map((m) => (
            <p key={`${m.fragment} ${m.step}`} className="pt-1 text-sm text-wall">
              {m.fragment} {m.says}.
            </p>
          ))}
        </>
      )}
    </section>
  );
}

/** Steps of this procedure that somebody put in other words at a machine, and offers to all. */
export function Offers({
  id,
  entry,
  take: takeOver,
}: {
  id: string;
  entry: JsonObject;
  take: (entry: JsonObject, reason: string) => void;
}) {
  const all = useQuery(offers).data ?? [];
  const steps = Array.isArray(entry['steps']) ? (entry['steps'] as JsonObject[]) : [];
  const ours = all.flatMap((offer) => {
    const name = offer.edit.stepId.split('.').at(-1);
    const step = steps.find((s) => s['id'] === name);
    return offer.edit.stepId.startsWith(`${id}.`) && step && step['text'] !== offer.edit.words
      ? [{ offer, step }]
      : [];
  });
  if (ours.length === 0) return null;
  return (
    <section aria-label="Offers from the bench" className="pt-3">
      <h3 className="caption border-b-[1.5px] border-ink">Offers from the bench</h3>
      <ul>
        {ours.map(({ offer, step }) => (
          <li key={`${offer.tag} ${offer.edit.at}`} className="border-b border-rule py-1 text-sm">
            <b>{offer.edit.words}</b>
            <span className="block text-quiet">
              instead of “{offer.was}” · {offer.tag}, {offer.edit.by}: {offer.edit.reason}
            </span>
            <button
              type="button"
              className="min-h-9 font-semibold underline underline-offset-4"
              onClick={() => {
                takeOver(
                  {
                    ...entry,
                    steps: steps.map((s) => (s === step ? { ...s, text: offer.edit.words } : s)),
                  },
                  `${offer.edit.reason} (${offer.edit.by}, ${offer.tag})`,
                );
              }}
            >
              Take it over
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
