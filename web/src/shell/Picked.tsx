import { usePicked } from './picked';

/** Picks a machine, beside its tag wherever it stands in a list. */
export function Pick({ tag, small = false }: { tag: string; small?: boolean }) {
  const { picked, pick, drop } = usePicked();
  return (
    <label
      className={`inline-flex shrink-0 items-center justify-center ${small ? 'h-6 w-6 align-middle' : 'size-9'}`}
    >
      <input
        type="checkbox"
        aria-label={`Pick ${tag}`}
        className="size-4 accent-ink"
        checked={picked.includes(tag)}
        onChange={(event) => {
          if (event.target.checked) pick([tag]);
          else drop(tag);
        }}
      />
    </label>
  );
}

/** What can be done with the machines that were picked; at the foot of every page while there are some. */
export function PickedBar() {
  const { picked, drop, clear } = usePicked();
  if (picked.length === 0) return null;
  return (
    <section
      aria-label="Picked machines"
      className="sticky bottom-0 z-10 -mx-6 flex flex-wrap items-center gap-x-4 border-t-2 border-ink bg-ground px-6 py-1.5 print:hidden"
    >
      <b className="whitespace-nowrap">{picked.length} picked</b>
      <ul className="flex max-h-24 min-w-0 flex-1 flex-wrap gap-x-2 overflow-y-auto">
        {picked.map((tag) => (
          <li key={tag}>
            <button
              type="button"
              aria-label={`Put ${tag} back`}
              className="min-h-9 font-value text-sm hover:line-through"
              onClick={() => {
                drop(tag);
              }}
            >
              {tag}
            </button>
          </li>
        ))}
      </ul>
      <a
        className="flex min-h-11 items-center bg-ink px-4 font-semibold text-ground"
        href={`/api/labels?${picked.map((tag) => `tag=${encodeURIComponent(tag)}`).join('&')}`}
        target="_blank"
        rel="noreferrer"
      >
        {picked.length === 1 ? 'Its label' : 'Their labels'}
      </a>
      <button type="button" className="min-h-11 underline underline-offset-4" onClick={clear}>
        Put all back
      </button>
    </section>
  );
}
