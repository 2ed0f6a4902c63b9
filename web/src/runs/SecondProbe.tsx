import { useImport } from '../api/queries';
import { AnswerFor } from '../handover/AcceptanceList';
import { WhoseProbe } from '../intake/WhoseProbe';
import type { Run } from './run';

/** The second probe: the step gives a code, and only a new bundle that carries it proves anything. */
export function SecondProbe({
  run,
  begin,
  answer,
  busy,
}: {
  run: Run;
  begin: () => void;
  answer: (data: Record<string, string>) => void;
  busy: boolean;
}) {
  const bring = useImport();
  const code = run.state.code;
  if (!code)
    return (
      <div className="mt-3">
        <p>The bundle has to carry a code that this step gives, so that an older one is not taken for it.</p>
        <button
          type="button"
          disabled={busy}
          className="mt-2 min-h-12 border-[1.5px] border-ink px-6 text-lg font-semibold"
          onClick={begin}
        >
          Give the code
        </button>
      </div>
    );
  return (
    <div className="mt-3 border-2 border-dashed border-quiet p-4">
      <p className="font-value text-[40px] leading-none font-bold" data-loud aria-label="Code of this step">
        {code}
      </p>
      <p className="pt-2">
        In a live system: <b className="font-value">sh fresh-boot-probe.sh --code {code}</b>. The probe stick
        asks for it at its start; a command from Take in carries it by itself.
      </p>
      <label className="block pt-2 font-semibold">
        Bundle of the second probe
        <input
          type="file"
          className="mt-2 block font-value text-sm file:mr-4 file:min-h-11 file:border-[1.5px] file:border-ink file:bg-transparent file:px-4 file:text-ink"
          onChange={(event) => {
            const files = [...(event.target.files ?? [])];
            if (files.length > 0) bring.mutate({ tag: run.tag, files, known: true });
          }}
        />
      </label>
      <p role="status">
        {run.proved
          ? 'A new bundle with this code is in.'
          : bring.data
            ? `${bring.data.facts.length} facts stand now, but the bundle does not carry this code, or was here before.`
            : 'No new bundle with this code is in yet.'}
      </p>
      <WhoseProbe bring={bring} />
      <Otherwise run={run} answer={answer} busy={busy} />
    </div>
  );
}

/** What the new probe shows to be otherwise than planned: it holds the step until it is mended, or somebody answers for it. */
function Otherwise({
  run,
  answer,
  busy,
}: {
  run: Run;
  answer: (data: Record<string, string>) => void;
  busy: boolean;
}) {
  const wrong = run.acceptance.filter((line) => line.proof === 'failed');
  if (!run.proved || wrong.length === 0) return null;
  return (
    <section aria-label="The new probe shows it otherwise" className="mt-2 border-l-4 border-wall pl-3">
      <p>
        Say that it stopped and find the fault; mended, bring a further bundle with the same code.
        {wrong.every((line) => line.mayAccept) && ' Or somebody answers for it as it is.'}
      </p>
      <ul>
        {wrong.map((line) => (
          <li key={line.id} className="pt-1">
            <b>{line.line}:</b> {line.says}
            {line.before && <span className="text-quiet"> · before the work: {line.before}</span>}
            {line.mayAccept && <AnswerFor line={line} busy={busy} say={answer} />}
          </li>
        ))}
      </ul>
    </section>
  );
}
