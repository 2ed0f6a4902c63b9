import { fails } from '../api/client';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { recipes, script } from '../api/imageQueries';
import { systems } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { Failed, Loading } from '../shell/States';
import { Costs } from './RecipesOfImage';
import { ShelfNav } from '../shell/ShelfNav';
import { AnswerBuilder } from './AnswerBuilder';
import { Listing } from './Listing';
import { TrimBuilder } from './TrimBuilder';

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
                      <Listing label={`Recipe ${r.name}`} text={r.text} />
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

function Script({ id }: { id: string }) {
  const { data, error } = useQuery(script(id));
  if (fails(error, data)) return <Failed error={error} />;
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
      <Listing label="Script" text={data.script} />
      <h3 className="caption pt-2">Its undo</h3>
      <Listing label="Undo script" text={data.undo} />
    </>
  );
}
