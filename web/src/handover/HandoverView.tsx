import { useQuery } from '@tanstack/react-query';
import { Refusal, fails } from '../api/client';
import { handover, useLeave } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { AcceptanceList } from '../runs/AcceptanceList';
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
        className="ml-4 min-h-12 border-[1.5px] border-ink px-6 text-lg font-semibold"
        onClick={() => {
          leave.mutate({ left: !left, by: who || nobody });
        }}
      >
        {left ? 'It came back' : 'It has left'}
      </button>
      {left && (
        <span role="status" className="block pt-2 font-semibold">
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
  if (error instanceof Refusal && error.status === 409)
    return (
      <section aria-label="Hand-over">
        <h2 className="font-name text-[40px] leading-none font-bold" data-loud>
          Not yet.
        </h2>
        <p className="pt-3 text-lg">{error.message}</p>
        <p className="pt-1 text-quiet">{error.wanted}</p>
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
      <p className="pt-3">
        <a
          className="inline-flex min-h-12 items-center bg-ink px-6 text-lg font-semibold text-ground"
          href={`/api/machines/${sheet.tag}/handover`}
        >
          Open the sheet for print
        </a>
        <a
          className="ml-4 inline-flex min-h-12 items-center underline underline-offset-4"
          href={`/api/machines/${sheet.tag}/handover.zip`}
        >
          The whole record, as ZIP
        </a>
        <HasLeft />
      </p>
      <h3 className="caption pt-4">What was changed, and why</h3>
      <ul className="list-disc pl-5">
        {data.changed.length === 0 && <li>Nothing but the system itself.</li>}
        {data.changed.map((change) => (
          <li key={change.what}>
            <b>{change.what}.</b> {change.why}
          </li>
        ))}
      </ul>
      <h3 className="caption pt-4">What to know</h3>
      <ul className="list-disc pl-5">
        {data.toKnow.length === 0 && <li>Nothing: everything that was asked for is there.</li>}
        {data.toKnow.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </ul>
      <AcceptanceList lines={data.acceptance} />
    </section>
  );
}
