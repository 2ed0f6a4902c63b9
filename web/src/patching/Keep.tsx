import { api, take } from '../api/client';
import { useWrite } from '../api/queries';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** Keeps a recipe that a builder made. */
export function Keep({ recipe }: { recipe: string }) {
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
