import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { fails, Refusal, type Schema } from '../api/client';
import { switchesOf } from '../api/queries';
import { labelOf } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { Failed, Loading } from '../shell/States';

/** The switches of the firmware: how they stand, what is wanted of them, and the order in which a hand may turn them. */
export function SwitchesView() {
  const { sheet, keys } = useMachine();
  const [search, setSearch] = useSearchParams();
  const route = search.get('route');
  // What somebody asks beside the route stays in the address: "what if the TPM were on?"
  const asked = Object.fromEntries(
    (search.get('wanted') ?? '')
      .split(',')
      .filter(Boolean)
      .map((pair) => pair.split(':') as [string, string]),
  );
  const own = search.has('wanted');
  const { data, error } = useQuery(switchesOf(sheet.tag, route, own ? asked : null, sheet.version));
  if (error instanceof Refusal && error.status === 422)
    return (
      <section aria-label="Firmware switches">
        <h2 className="loud" data-loud>
          There is nothing to turn.
        </h2>
        <p className="pt-1 text-lg">
          {error.message} <span className="text-quiet">{error.wanted}</span>
        </p>
      </section>
    );
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const want = (key: string, value: string) => {
    const next = data.switches
      .map((s) => [s.key, s.key === key ? value : (s.wanted ?? '')] as const)
      .filter(([, to]) => to !== '');
    setSearch(
      (old) => {
        const to = new URLSearchParams(old);
        to.set('wanted', next.map((pair) => pair.join(':')).join(','));
        return to;
      },
      { replace: true },
    );
  };
  const count = data.steps?.length ?? 0;
  return (
    <section aria-label="Firmware switches" className="min-w-0">
      <p className="caption">Firmware switches{own ? ', as asked here' : ' for this way'}</p>
      <h2 className="font-name text-[40px] leading-[1.05] font-bold" data-loud>
        {!data.steps
          ? 'No order leads there.'
          : count === 0
            ? 'They stand as they should.'
            : `${count} ${count === 1 ? 'step' : 'steps, in this order'}.`}
      </h2>
      {data.whyNone && (
        <p role="alert" className="border-l-4 border-wall pl-3 text-lg">
          {data.whyNone}
        </p>
      )}
      {count > 0 && (
        <p className="pt-1">
          <b>{data.setup ?? 'Open the settings: the first screen names the key'}.</b>{' '}
          {data.setupFromSystem &&
            `Or: ${data.setupFromSystem.charAt(0).toLowerCase()}${data.setupFromSystem.slice(1)}. `}
          Photograph every page first. In doubt leave without saving; never load defaults, never clear a TPM.
        </p>
      )}
      {data.steps && <Steps name="Steps" steps={data.steps} />}
      {data.back && data.back.length > 0 && (
        <details>
          <summary className="min-h-9 cursor-pointer content-center font-semibold">
            The way back, {data.back.length} {data.back.length === 1 ? 'step' : 'steps'}
          </summary>
          <Steps name="The way back" steps={data.back} />
        </details>
      )}
      {data.notes.map((note) => (
        <p key={note} className="pt-1">
          {note}
        </p>
      ))}
      {data.unmeasured.length > 0 && (
        <p className="mt-1 border-l-4 border-setting pl-3">
          <b>Nobody has measured:</b> {data.unmeasured.map((key) => labelOf(key, keys)).join(', ')}. It is
          taken as is usual: look before you turn.
        </p>
      )}
      <table className="mt-2 w-full border-t-[1.5px] border-ink">
        <caption className="sr-only">Switches</caption>
        <thead>
          <tr className="text-left">
            <th className="caption py-1">switch</th>
            <th className="caption">stands</th>
            <th className="caption">shall be</th>
          </tr>
        </thead>
        <tbody>
          {data.switches.map((s) => (
            <tr key={s.key} className="border-t border-rule">
              <td className="py-0.5 pr-3">{s.called}</td>
              <td className="pr-3">{s.presentSays}</td>
              <td>
                <select
                  aria-label={`${s.called} shall be`}
                  className={`min-h-8 w-full border-b border-rule bg-ground ${s.wanted ? 'font-semibold' : 'text-quiet'}`}
                  value={s.wanted ?? ''}
                  onChange={(event) => {
                    want(s.key, event.target.value);
                  }}
                >
                  <option value="">as it comes</option>
                  {s.may.map((v) => (
                    <option key={v.value} value={v.value}>
                      {v.says}
                    </option>
                  ))}
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="flex flex-wrap gap-x-6">
        <a
          className="flex min-h-11 items-center font-semibold underline underline-offset-4"
          href={`/api/machines/${sheet.tag}/firmware-plan${route ? `?route=${route}` : ''}`}
          target="_blank"
          rel="noreferrer"
        >
          The paper for its old values
        </a>
        {own && (
          <button
            type="button"
            className="min-h-11 underline underline-offset-4"
            onClick={() => {
              setSearch(
                (old) => {
                  const to = new URLSearchParams(old);
                  to.delete('wanted');
                  return to;
                },
                { replace: true },
              );
            }}
          >
            Back to what the way wants
          </button>
        )}
      </p>
    </section>
  );
}

function Steps({ name, steps }: { name: string; steps: readonly Schema['SwitchStepSheet'][] }) {
  return (
    <ol aria-label={name} className="pt-1">
      {steps.map((step, i) => (
        <li
          key={`${step.switch}-${step.to}-${i}`}
          className="grid grid-cols-[2rem_minmax(0,1fr)_4rem] items-baseline gap-x-2 border-t border-rule py-1"
        >
          <b className="font-name text-2xl leading-none">{i + 1}</b>
          <div>
            <b>{step.does}.</b> {step.where && `${step.where}: from ${step.from} to ${step.to}. `}
            <span className="text-quiet">{step.why}</span>
            {step.caution && (
              <p className="border-l-4 border-setting pl-2 text-sm">
                <b>Caution.</b> {step.caution}
              </p>
            )}
          </div>
          <span className="text-right text-sm text-quiet">{step.minutes} min</span>
        </li>
      ))}
    </ol>
  );
}
