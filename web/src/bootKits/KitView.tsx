import { useQuery } from '@tanstack/react-query';
import { Link, useSearchParams } from 'react-router';
import { fails, type Schema } from '../api/client';
import { kitPlanOf, useBuildKit } from '../api/queries';
import { labelOf, systemName } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { RungShape } from '../ladder/RungShape';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Checked, PutKit, StartKit } from './Checked';
import { parts } from './words';

/** The boot kit of a machine: the smallest set of components in the order in which they load, each with its reason. */
export function KitView() {
  const { sheet, aim, systems, keys } = useMachine();
  const [who] = useWho();
  const [search] = useSearchParams();
  const system = systems.find((s) => s.id === aim.system);
  const { data, error } = useQuery({
    ...kitPlanOf(sheet.tag, aim.system, sheet.version),
    enabled: aim.system !== '',
  });
  const build = useBuildKit(sheet.tag);
  if (aim.system === '') return <p className="text-lg">Choose an aim first: a kit is built for a system.</p>;
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  return (
    <section aria-label="Boot kit" className="min-w-0">
      <p className="caption">
        Boot kit for {systemName(system)}
        {data.build !== null && `, build ${data.build}`}
      </p>
      <h2 className="font-name text-[40px] leading-[1.05] font-bold" data-loud>
        {data.components ? `${data.components.length} components, in this order.` : 'No kit.'}
      </h2>
      {data.whyNone && (
        <p className="flex items-start gap-3 pt-1 text-lg">
          <span className="pt-2">
            <RungShape outcome="wall" width={36} bar={8} />
          </span>
          {data.whyNone}
        </p>
      )}
      {data.components && <Components components={data.components} />}
      {data.components && <Known plan={data} />}
      {data.assumes.length > 0 && (
        <p className="mt-1 border-l-4 border-setting pl-3">
          <b>Nobody has measured:</b> {data.assumes.map((key) => labelOf(key, keys)).join(', ')}.
        </p>
      )}
      {data.components && (
        <p className="flex flex-wrap items-center gap-4 pt-2">
          <button
            type="button"
            disabled={build.isPending}
            className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
            onClick={() => {
              build.mutate({ system: aim.system, by: who || nobody });
            }}
          >
            {data.latest ? 'Build it again' : 'Build the kit'}
          </button>
          <span className="text-sm text-quiet">
            It carries the identity that the machine was given for this system:{' '}
            <Link className="underline underline-offset-4" to="../identity">
              Identity
            </Link>
            .
          </span>
        </p>
      )}
      {build.error && <Failed error={build.error} />}
      {data.latest && (
        <article
          aria-label={`Kit ${data.latest.id}`}
          className={`mt-2 border-l-4 pl-3 ${data.stale ? 'border-setting' : 'border-spoof'}`}
        >
          <p className="text-lg">
            <b>Kit {data.latest.id}</b>: {data.latest.components.length} components,{' '}
            <span className="font-value">{data.latest.sha256.slice(0, 12)}</span>.{' '}
            {data.stale && <b>It would be built otherwise now. </b>}
            {data.latest.findings.length === 0 && (
              <span className="text-clear">The check finds nothing.</span>
            )}
          </p>
          <Checked kit={data.latest} />
          <PutKit kit={data.latest} wanted={Number(search.get('image')) || null} />
          <StartKit kit={data.latest} />
        </article>
      )}
    </section>
  );
}

const Components = ({ components }: { components: Schema['KitComponentSheet'][] }) => (
  <ol aria-label="Components" className="mt-2 border-t-[1.5px] border-ink">
    {components.map((c, i) => (
      <li
        key={c.id}
        className="grid grid-cols-[1.75rem_minmax(0,15rem)_3.5rem_minmax(0,1fr)] items-baseline gap-x-3 border-b border-rule py-1"
      >
        <b className="font-name text-xl">{i + 1}</b>
        <span>
          <b>{c.name}</b> <span className="text-sm text-quiet">{parts[c.part]}</span>
        </span>
        <span className="font-value text-sm">{c.version}</span>
        <span className="text-sm">{c.why}</span>
      </li>
    ))}
  </ol>
);

/** What is known before anybody starts it: what works elsewhere, what is missing, what has to be tried. */
function Known({ plan }: { plan: Schema['KitPlanSheet'] }) {
  return (
    <dl className="grid grid-cols-[9rem_minmax(0,1fr)] gap-x-3 gap-y-1 pt-2">
      {plan.profile && (
        <>
          <dt className="caption pt-1">Running on</dt>
          <dd>
            board <b>{plan.profile.board}</b> with build {plan.profile.build}: {plan.profile.works.join(', ')}
            .{' '}
            <span className="text-sm text-quiet">
              {plan.profile.evidence.source}, {plan.profile.evidence.date}
            </span>
          </dd>
        </>
      )}
      {plan.steppingStone && (
        <>
          <dt className="caption pt-1">First</dt>
          <dd>{plan.steppingStone}</dd>
        </>
      )}
      {plan.worth && (
        <>
          <dt className="caption pt-1">Worth</dt>
          <dd>
            {plan.worth.text} <span className="text-sm text-quiet">{plan.worth.about}.</span>
          </dd>
        </>
      )}
      {plan.lacks.length > 0 && (
        <>
          <dt className="caption pt-1">Will be missing</dt>
          <dd>
            {plan.lacks.map((text) => (
              <span key={text} className="flex items-center gap-3">
                <RungShape outcome="caveat" width={28} bar={6} />
                {text}
              </span>
            ))}
          </dd>
        </>
      )}
      {plan.patches.map((patch) => (
        <Patch key={patch.id} patch={patch} />
      ))}
      {plan.quirks.map((quirk) => (
        <Quirk key={quirk.id} quirk={quirk} />
      ))}
      {plan.trials.map((trial) => (
        <Trial key={trial.key} trial={trial} />
      ))}
    </dl>
  );
}

const Quirk = ({ quirk }: { quirk: Schema['KitQuirk'] }) => (
  <>
    <dt className="caption pt-1">Firmware</dt>
    <dd>
      <span className="font-value">{quirk.key}</span> is set: {quirk.why}
    </dd>
  </>
);

const Trial = ({ trial }: { trial: Schema['KitTrial'] }) => (
  <>
    <dt className="caption pt-1">By trial</dt>
    <dd>
      <span className="font-value">{trial.key}</span>: {trial.values.join(', ')}, one change at a time, until{' '}
      {trial.hint}.
    </dd>
  </>
);

const Patch = ({ patch }: { patch: Schema['AfterPatch'] }) => (
  <>
    <dt className="caption pt-1">After updates</dt>
    <dd>
      {patch.does}, about {patch.minutes} min. <span className="text-sm text-quiet">{patch.sign}</span>
    </dd>
  </>
);
