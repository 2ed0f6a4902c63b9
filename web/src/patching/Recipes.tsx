import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { components, recipes, script } from '../api/imageQueries';
import { orders, systems, useWrite } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Costs } from './RecipesOfImage';
import { Choose, Write } from '../pieces/fields';
import { ShelfNav } from '../shell/ShelfNav';
import { bytesText } from '../images/words';

const places: Record<string, string> = {
  image: 'on the image',
  beforeUpgrade: 'in the running system, before an upgrade',
  afterwards: 'in the installed system, afterwards',
};

/** Every recipe with what it lifts and costs; and the two builders that end in one: answer file and trim plan. */
export function Recipes() {
  const { data, error } = useQuery(recipes());
  const known = useQuery(systems);
  const [chosen, setChosen] = useState<string | null>(null);
  const [search] = useSearchParams();
  const [tool, setTool] = useState<'answers' | 'trim'>(search.get('build') === 'trim' ? 'trim' : 'answers');
  if (error ?? known.error) return <Failed error={error ?? known.error} />;
  if (!data || !known.data) return <Loading />;
  return (
    <div className="flex flex-1 flex-col pb-8">
      <ShelfNav />
      <div className="grid flex-1 grid-cols-1 gap-x-8 pt-3 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <section aria-label="Recipes">
          <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
            {data.length} recipes.
          </h1>
          <p className="pt-1 text-quiet">
            A recipe holds no program, only changes. Read one before it is used.
          </p>
          <ul className="pt-2">
            {data.map((r) => (
              <li key={r.id} className="border-b border-rule py-2">
                <button
                  type="button"
                  aria-expanded={chosen === r.id}
                  className="min-h-6 text-left font-semibold underline decoration-rule decoration-2 underline-offset-4 hover:decoration-ink"
                  onClick={() => {
                    setChosen(chosen === r.id ? null : r.id);
                  }}
                >
                  {r.name}
                </button>
                <p className="text-sm text-quiet">
                  {systemName(known.data.find((s) => s.id === r.system)) || r.system}
                  {r.builds.length > 0 && `, build ${r.builds.join(' or ')}`} · acts {places[r.acts]} ·{' '}
                  {r.version === 0 ? 'ships with the application' : `version ${r.version} by ${r.by}`}
                </p>
                {chosen === r.id && (
                  <div className="pt-1">
                    <p>{r.about}</p>
                    <Costs recipe={r} />
                    {r.acts === 'image' ? (
                      <Text label={`Recipe ${r.name}`} text={r.text} />
                    ) : (
                      <Script id={r.id} />
                    )}
                  </div>
                )}
              </li>
            ))}
          </ul>
        </section>
        <section aria-label="Builders" className="border-l border-rule pl-6">
          <div className="flex gap-2" role="group" aria-label="Which builder">
            {(
              [
                ['answers', 'Answer file'],
                ['trim', 'Trim plan'],
              ] as const
            ).map(([id, name]) => (
              <button
                key={id}
                type="button"
                aria-pressed={tool === id}
                className={`min-h-9 border-[1.5px] px-3 ${tool === id ? 'border-ink bg-sheet font-bold' : 'border-quiet hover:border-ink'}`}
                onClick={() => {
                  setTool(id);
                }}
              >
                {name}
              </button>
            ))}
          </div>
          {tool === 'answers' ? (
            <AnswerBuilder systems={known.data} />
          ) : (
            <TrimBuilder systems={known.data.filter((s) => s.components.length > 0)} />
          )}
        </section>
      </div>
    </div>
  );
}

function Text({ label, text }: { label: string; text: string }) {
  return (
    <pre
      tabIndex={0}
      aria-label={label}
      className="mt-1 max-h-72 overflow-auto border-l-2 border-ink bg-sheet px-3 py-1 font-value text-[12.5px] whitespace-pre-wrap"
    >
      {text}
    </pre>
  );
}

function Script({ id }: { id: string }) {
  const { data, error } = useQuery(script(id));
  if (error) return <Failed error={error} />;
  if (!data) return <Loading />;
  return (
    <>
      <h3 className="caption pt-2">Its steps for the run sheet</h3>
      <ol className="list-decimal pl-5">
        {data.steps.map((s, i) => (
          <li key={i}>
            {s.text}
            {s.command && <code className="block font-value text-[13px]">{s.command}</code>}
            {s.expect && <span className="text-sm text-quiet"> It prints “{s.expect}”.</span>}
            {s.caution && <span className="block border-l-4 border-setting pl-2 text-sm">{s.caution}</span>}
          </li>
        ))}
      </ol>
      <h3 className="caption pt-2">The script</h3>
      <Text label="Script" text={data.script} />
      <h3 className="caption pt-2">Its undo</h3>
      <Text label="Undo script" text={data.undo} />
    </>
  );
}

/** Keeps a recipe that a builder made. */
function Keep({ recipe }: { recipe: string }) {
  const [who] = useWho();
  const keep = useWrite(async () => {
    const { id } = JSON.parse(recipe) as { id: string };
    const known = (await take(api.GET('/api/recipes', {}))).find((r) => r.id === id);
    return take(
      api.PUT('/api/recipes/{id}', {
        params: { path: { id } },
        body: { text: recipe, version: known?.version ?? 0, by: who || nobody },
      }),
    );
  });
  return (
    <p className="flex items-center gap-4 pt-2">
      <button
        type="button"
        disabled={keep.isPending}
        className="min-h-11 bg-ink px-5 font-semibold text-ground"
        onClick={() => {
          keep.mutate(undefined);
        }}
      >
        Keep it as a recipe
      </button>
      {keep.data && (
        <span role="status">
          Kept as {keep.data.id}, version {keep.data.version}.
        </span>
      )}
      {keep.error && <Failed error={keep.error} />}
    </p>
  );
}

/** The system that a link asks for, where the builder can serve it. */
const wanted = (able: Schema['SystemEntry'][], id: string | null) =>
  (able.find((s) => s.id === id) ?? able[0])?.id ?? '';

function AnswerBuilder({ systems: known }: { systems: Schema['SystemEntry'][] }) {
  const able = known.filter((s) => s.installer?.answers);
  const [search] = useSearchParams();
  const [system, setSystem] = useState(wanted(able, search.get('system')));
  const rules = able.find((s) => s.id === system)?.installer?.answers;
  const [tag, setTag] = useState(search.get('tag') ?? '');
  const [answers, setAnswers] = useState<Schema['Answers']>({
    account: 'reader',
    password: '',
    region: 'Eddlestow',
    keyboard: 'en',
    privacy: {},
    encryption: false,
    computerName: 'MILL-{number}',
    skipAccountStep: true,
    skipNetworkStep: false,
  });
  const set = (to: Partial<Schema['Answers']>) => {
    setAnswers({ ...answers, ...to });
  };
  const build = useWrite(() =>
    take(api.POST('/api/answer-files', { body: { system, answers, tag: tag || null } })),
  );
  return (
    <form
      aria-label="Answer file"
      className="pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        build.mutate(undefined);
      }}
    >
      <div className="grid grid-cols-2 gap-x-5 gap-y-2">
        <Choose
          label="System"
          value={system}
          set={(id) => {
            setSystem(id);
            set({ privacy: {} });
          }}
        >
          {able.map((s) => (
            <option key={s.id} value={s.id}>
              {systemName(s)}
            </option>
          ))}
        </Choose>
        <Write label="For the machine (empty: for many)" value={tag} set={setTag} scan />
        <div>
          <Write
            label="Local account"
            value={answers.account}
            set={(account) => {
              set({ account });
            }}
          />
          <p className="text-xs text-quiet">{rules?.accountRule}</p>
        </div>
        <div>
          <Write
            label="First password"
            value={answers.password}
            set={(password) => {
              set({ password });
            }}
          />
          {answers.password === '' && (
            <p className="text-xs text-setting">Empty: whoever opens the lid is in.</p>
          )}
        </div>
        <Write
          label="Region"
          value={answers.region}
          set={(region) => {
            set({ region });
          }}
        />
        <Write
          label="Keyboard"
          value={answers.keyboard}
          set={(keyboard) => {
            set({ keyboard });
          }}
        />
        <Write
          label="Computer name ({tag}, {number})"
          value={answers.computerName}
          set={(computerName) => {
            set({ computerName });
          }}
        />
        <Tick
          label="Encrypt the drive"
          value={answers.encryption}
          set={(encryption) => {
            set({ encryption });
          }}
        />
        <Tick
          label="Pass over the account step"
          value={answers.skipAccountStep}
          set={(skipAccountStep) => {
            set({ skipAccountStep });
          }}
        />
        <Tick
          label="Pass over the network step"
          value={answers.skipNetworkStep}
          set={(skipNetworkStep) => {
            set({ skipNetworkStep });
          }}
        />
      </div>
      <fieldset className="pt-2">
        <legend className="caption">Privacy, one by one; what is not ticked is answered with no</legend>
        {Object.entries(rules?.privacy ?? {}).map(([id, words]) => (
          <Tick
            key={id}
            label={words}
            value={answers.privacy[id] ?? false}
            set={(yes) => {
              set({ privacy: { ...answers.privacy, [id]: yes } });
            }}
          />
        ))}
      </fieldset>
      <button
        disabled={build.isPending}
        className="mt-2 min-h-11 border-[1.5px] border-ink px-5 font-semibold"
      >
        Build the answer file
      </button>
      {build.error && <Failed error={build.error} />}
      {build.data && (
        <div className="pt-2">
          <ul aria-label="What to know">
            {build.data.warnings.map((w) => (
              <li key={w} className="border-l-4 border-setting pl-2">
                {w}
              </li>
            ))}
          </ul>
          <h3 className="caption pt-2">{build.data.path}</h3>
          <Text label="Answer file" text={build.data.text} />
          <Keep recipe={build.data.recipe} />
        </div>
      )}
    </form>
  );
}

function Tick({ label, value, set }: { label: string; value: boolean; set: (value: boolean) => void }) {
  return (
    <label className="flex min-h-8 items-center gap-2">
      <input
        type="checkbox"
        className="size-5 accent-ink"
        checked={value}
        onChange={(event) => {
          set(event.target.checked);
        }}
      />
      {label}
    </label>
  );
}

function TrimBuilder({ systems: able }: { systems: Schema['SystemEntry'][] }) {
  const [search] = useSearchParams();
  const [system, setSystem] = useState(wanted(able, search.get('system')));
  const [order, setOrder] = useState('');
  const [leave, setLeave] = useState<string[]>([]);
  const all = useQuery(orders);
  const parts = useQuery({ ...components(system, order), enabled: system !== '' });
  const plan = useWrite((chosen: string[]) =>
    take(
      api.POST('/api/systems/{system}/trim', {
        params: { path: { system } },
        body: { leave: chosen, build: null },
      }),
    ),
  );
  const choose = (chosen: string[]) => {
    setLeave(chosen);
    if (chosen.length > 0) plan.mutate(chosen);
    else plan.reset();
  };
  const gone = new Set(plan.data?.left.map((l) => l.id));
  return (
    <div className="pt-3">
      <div className="grid grid-cols-2 gap-x-5">
        <Choose
          label="System"
          value={system}
          set={(id) => {
            setSystem(id);
            choose([]);
          }}
        >
          {able.map((s) => (
            <option key={s.id} value={s.id}>
              {systemName(s)}
            </option>
          ))}
        </Choose>
        <Choose label="For the order" value={order} set={setOrder}>
          <option value="">none</option>
          {all.data?.map((o) => (
            <option key={o.order.id} value={o.order.name}>
              {o.order.name}
            </option>
          ))}
        </Choose>
      </div>
      {order && parts.data && (
        <p className="pt-1">
          It wants {parts.data.because.length > 0 ? parts.data.because.join(', ') : 'nothing of these'}.{' '}
          <button
            type="button"
            className="font-semibold underline underline-offset-4"
            onClick={() => {
              choose(parts.data.suggested);
            }}
          >
            Leave out what it does not need
          </button>
        </p>
      )}
      <ul className="pt-2" aria-label="Components">
        {parts.data?.components.map((c) => (
          <li key={c.id} className="border-b border-rule py-1">
            <label className="flex items-baseline gap-2">
              <input
                type="checkbox"
                className="size-5 translate-y-1 accent-ink"
                disabled={c.fixed}
                checked={gone.has(c.id) || leave.includes(c.id)}
                onChange={(event) => {
                  choose(event.target.checked ? [...leave, c.id] : leave.filter((l) => l !== c.id));
                }}
              />
              <span className={gone.has(c.id) ? 'line-through' : ''}>
                <b>{c.name}</b>{' '}
                <span className="text-sm text-quiet">
                  {bytesText(c.sizeBytes)}, {c.memoryMiB} MiB of memory
                  {c.needs.length > 0 && `; needs ${c.needs.join(', ')}`}
                  {c.fixed && '; the system does not run without it'}
                </span>
              </span>
            </label>
          </li>
        ))}
      </ul>
      {plan.error && <Failed error={plan.error} />}
      {plan.data && leave.length > 0 && (
        <div className="pt-2">
          <p className="loud" data-loud>
            Saves {bytesText(plan.data.savedBytes)} and {plan.data.savedMemoryMiB} MiB.
          </p>
          <ul aria-label="What breaks">
            {plan.data.left.map((l) => (
              <li key={l.id} className="border-l-4 border-caveat pl-2">
                <b>{l.name}</b>
                {l.because && <span className="text-quiet"> goes with {l.because}</span>}: {l.breaks}
              </li>
            ))}
          </ul>
          <h3 className="caption pt-2">Script for the running system</h3>
          <Text label="Trim script" text={plan.data.script} />
          <Keep recipe={plan.data.recipe} />
        </div>
      )}
    </div>
  );
}
