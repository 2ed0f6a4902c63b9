import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Refusal, fails } from '../api/client';
import { acceptance, handover, languages, useEnterFact, useLeave } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { AcceptanceList } from './AcceptanceList';
import { Measures } from './Measures';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** Closes the loop: the machine is out of the house, its bay is free. It may come back. */
function HasLeft() {
  const { sheet } = useMachine();
  const leave = useLeave(sheet.tag);
  const [who] = useWho();
  const left = sheet.facts.find((f) => f.key === 'handover.left')?.value === 'yes';
  return (
    <>
      <button
        type="button"
        disabled={leave.isPending}
        className="min-h-12 border-[1.5px] border-ink px-6 text-lg font-semibold"
        onClick={() => {
          leave.mutate({ left: !left, by: who || nobody });
        }}
      >
        {left ? 'It came back' : 'It has left'}
      </button>
      {left && (
        <span role="status" className="font-semibold">
          It has left the shop.
        </span>
      )}
      {leave.error && <Failed error={leave.error} />}
    </>
  );
}

/** Whether the machine may leave, and the sheet that leaves with it. */
export function HandoverView() {
  const { sheet } = useMachine();
  const { data, error } = useQuery({ ...handover(sheet.tag), retry: false });
  const list = useQuery(acceptance(sheet.tag));
  const proof = list.data && list.data.length > 0 && <AcceptanceList lines={list.data} tag={sheet.tag} />;
  if (error instanceof Refusal && error.status === 409)
    return (
      <section aria-label="Hand-over">
        <h2 className="font-name text-[40px] leading-none font-bold" data-loud>
          Not yet.
        </h2>
        {proof ? null : <p className="pt-3 text-lg">{error.message}</p>}
        <p className="pt-3 text-quiet">{error.wanted}</p>
        {proof}
      </section>
    );
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  return (
    <section aria-label="Hand-over">
      <h2 className="font-name text-[40px] leading-none font-bold" data-loud>
        {data.system ? `It may leave with ${data.system}.` : 'This machine has ended.'}
      </h2>
      <p className="pt-2">
        {data.supportEnds ? `Updates until ${data.supportEnds}.` : 'No end of updates is set.'} Done by{' '}
        {data.by}.
      </p>
      <ForOwner tag={sheet.tag} language={data.language} />
      {proof}
      <Measures />
      <h3 className="caption pt-4">What was changed, and why</h3>
      <ul className="list-disc pl-5">
        {data.changed.length === 0 && <li>Nothing but the system itself.</li>}
        {data.changed.map((change) => (
          <li key={change.what}>
            <b>{change.what}.</b> {change.why}
          </li>
        ))}
      </ul>
      {(data.used.length > 0 || data.despite.length > 0) && (
        <>
          <h3 className="caption pt-4">What it was installed from, and where the plan was left</h3>
          <ul className="list-disc pl-5">
            {[...data.used, ...data.despite].map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </>
      )}
      <h3 className="caption pt-4">What to know</h3>
      <ul className="list-disc pl-5">
        {data.toKnow.length === 0 && <li>Nothing: everything that was asked for is there.</li>}
        {data.toKnow.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </ul>
    </section>
  );
}

/** What the owner takes along, in the language that they read. */
function ForOwner({ tag, language }: { tag: string; language: string }) {
  const { data } = useQuery(languages);
  const client = useQueryClient();
  const enter = useEnterFact(tag);
  const [who] = useWho();
  const paper = `/api/machines/${tag}/handover`;
  return (
    <>
      <div role="radiogroup" aria-labelledby="reads" className="flex flex-wrap items-center gap-x-5 pt-1">
        <span id="reads" className="caption">
          The owner reads
        </span>
        {(data ?? []).map(({ code, name }) => (
          <label key={code} className="flex min-h-11 items-center gap-2" lang={code}>
            <input
              type="radio"
              name="language"
              className="size-5 accent-(--ink)"
              checked={code === language}
              disabled={enter.isPending}
              onChange={() => {
                enter.mutate(
                  {
                    key: 'handover.language',
                    value: code,
                    source: 'asked at the hand-over',
                    by: who || nobody,
                  },
                  {
                    onSuccess: () => {
                      void client.invalidateQueries({ queryKey: handover(tag).queryKey });
                    },
                  },
                );
              }}
            />
            {name}
          </label>
        ))}
      </div>
      {enter.error && <Failed error={enter.error} />}
      <p className="flex flex-wrap items-center gap-x-5 gap-y-2 pt-2">
        <a
          className="inline-flex min-h-12 items-center bg-ink px-6 text-lg font-semibold text-ground"
          href={`${paper}?lang=${language}`}
        >
          Open the sheet for print
        </a>
        <a
          className="inline-flex min-h-12 items-center underline underline-offset-4"
          href={`${paper}.pdf?lang=${language}`}
        >
          The same as PDF
        </a>
        <a className="inline-flex min-h-12 items-center underline underline-offset-4" href={`${paper}.zip`}>
          The whole record, as ZIP
        </a>
        <a
          className="inline-flex min-h-12 items-center underline underline-offset-4"
          href={`/api/machines/${tag}/data-treatment?lang=${language}`}
        >
          What was done with its data
        </a>
        <HasLeft />
      </p>
    </>
  );
}
