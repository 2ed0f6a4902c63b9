import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { preview, recipes } from '../api/imageQueries';
import { useWrite } from '../api/queries';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Difference } from '../patching/Difference';
import { JobLine } from '../jobs/JobLine';

export function Manifest({
  sheet,
  manifest,
}: {
  sheet: Schema['ImageSheet'];
  manifest: Schema['PatchManifest'];
}) {
  const go = useNavigate();
  const undo = useWrite(() =>
    take(api.POST('/api/images/{id}/undo', { params: { path: { id: sheet.image.id } } })),
  );
  return (
    <section aria-label="Manifest" className="border-l-4 border-patch pl-3">
      <p>
        Patched here by {manifest.by} with{' '}
        <b>
          {manifest.recipeId.startsWith('boot-kit-')
            ? `boot kit ${manifest.recipeVersion}`
            : `${manifest.recipeId}${manifest.recipeVersion > 0 ? `, version ${manifest.recipeVersion}` : ''}`}
        </b>
        : {manifest.files.map((f) => `${f.path} ${f.change}`).join(', ')}.
      </p>
      <p className="font-value text-xs break-all text-quiet">made from SHA-256 {manifest.oldSha256}</p>
      <button
        type="button"
        className="mt-1 min-h-9 border-[1.5px] border-quiet px-3 text-sm hover:border-ink"
        onClick={() => {
          undo.mutate(undefined, {
            onSuccess: (original) => {
              void go(`/images/${original.image.id}`);
            },
          });
        }}
      >
        Undo: give the original back
      </button>
      {undo.error && <Failed error={undo.error} />}
    </section>
  );
}

/** The recipes for the image's system: what each changes, line by line, before it is applied. */
export function RecipesOfImage({ about }: { about: Schema['StoredImage'] }) {
  const all = useQuery({ ...recipes(about.system ?? undefined), enabled: about.system !== null });
  const [search] = useSearchParams();
  const [chosen, setChosen] = useState<string | null>(search.get('recipe'));
  const list = all.data?.filter((r) => r.acts === 'image') ?? [];
  const recipe = list.find((r) => r.id === chosen);
  return (
    <section aria-label="Recipes">
      <h2 className="caption">Recipes for it</h2>
      {about.system === null && <p>Say which system it installs, and the recipes for that are listed.</p>}
      {about.system !== null && list.length === 0 && (
        <p className="text-quiet">There is none for this system.</p>
      )}
      <ul className="flex flex-wrap gap-2 pt-1">
        {list.map((r) => (
          <li key={r.id}>
            <button
              type="button"
              aria-pressed={chosen === r.id}
              className={`min-h-9 border-[1.5px] px-3 text-left ${chosen === r.id ? 'border-ink bg-sheet font-bold' : 'border-quiet hover:border-ink'}`}
              onClick={() => {
                setChosen(chosen === r.id ? null : r.id);
              }}
            >
              {r.name}
            </button>
          </li>
        ))}
        <li>
          <Link
            to={`/images/${about.id}/recipe/${chosen ?? 'new'}`}
            className="flex min-h-9 items-center px-1 font-semibold underline underline-offset-4"
          >
            {recipe ? 'Change this recipe' : 'Write a recipe'}
          </Link>
        </li>
      </ul>
      {recipe && <Applying key={recipe.id} about={about} recipe={recipe} />}
    </section>
  );
}

function Applying({ about, recipe }: { about: Schema['StoredImage']; recipe: Schema['RecipeSheet'] }) {
  const [who] = useWho();
  const would = useQuery(preview(about.id, { recipe: recipe.id }));
  const [job, setJob] = useState<number | null>(null);
  const [taken, setTaken] = useState(false);
  const losses = would.data?.alreadyApplied ? [] : (would.data?.losses ?? []);
  const startLost = losses.some((l) => l.isStart);
  const apply = useWrite(async () => {
    const answer = await take(
      api.POST('/api/images/{id}/patch', {
        params: { path: { id: about.id } },
        body: {
          recipe: recipe.id,
          draft: null,
          by: who || nobody,
          dryRun: false,
          accept: startLost ? taken : null,
        },
      }),
    );
    if (answer.job) setJob(answer.job.id);
    return answer;
  });
  return (
    <div className="pt-2">
      <p>{recipe.about}</p>
      <Costs recipe={recipe} />
      {would.error && <Failed error={would.error} />}
      {would.data?.alreadyApplied && <p className="pt-2 font-bold">Already applied: nothing would change.</p>}
      {would.data?.because && <p className="border-l-4 border-setting pl-3">{would.data.because}</p>}
      {losses.length > 0 && (
        <div className="mt-2 border-l-4 border-wall pl-3">
          <p className="font-semibold">The new image will not have what this one has:</p>
          <ul aria-label="What is lost">
            {losses.map((l) => (
              <li key={l.what} className={l.isStart ? 'font-semibold text-wall' : ''}>
                {l.what}
              </li>
            ))}
          </ul>
          {startLost && (
            <label className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                checked={taken}
                disabled={who === ''}
                onChange={(e) => {
                  setTaken(e.target.checked);
                }}
              />
              {who === ''
                ? 'Only a named person takes a way of starting away: pick a name first.'
                : `${who} takes that loss: nobody needs to start it in that way.`}
            </label>
          )}
        </div>
      )}
      <div className="pt-2">
        {would.data?.files.map((f) => (
          <Difference key={f.path} file={f} />
        ))}
      </div>
      {would.data && !would.data.alreadyApplied && job === null && (
        <button
          type="button"
          disabled={apply.isPending || (startLost && !taken)}
          className="min-h-11 bg-ink px-5 text-lg font-semibold text-ground"
          onClick={() => {
            apply.mutate(undefined);
          }}
        >
          Make the patched image
        </button>
      )}
      {apply.error && <Failed error={apply.error} />}
      {job !== null && (
        <JobLine
          id={job}
          done={(done) =>
            done.result?.imageId ? (
              <Link
                to={`/images/${done.result.imageId}`}
                className="inline-flex min-h-11 items-center font-semibold underline underline-offset-4"
              >
                Look at the patched image
              </Link>
            ) : null
          }
        />
      )}
    </div>
  );
}

export function Costs({ recipe }: { recipe: Schema['RecipeSheet'] }) {
  return (
    <>
      {recipe.lifts.length > 0 && (
        <p className="text-sm">
          <span className="text-quiet">Lifts </span>
          <b className="text-patch">{recipe.lifts.map((l) => l.split('/')[1]).join(', ')}</b>
        </p>
      )}
      {recipe.costs.length > 0 && (
        <ul className="text-sm" aria-label="What it costs">
          {recipe.costs.map((c) => (
            <li key={c} className="border-l-4 border-caveat pl-2">
              {c}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
