import type { Schema } from '../api/client';

/** What may be seen instead of what should be: each with what follows from it. */
export function Otherwise({
  branches,
  busy,
  take,
}: {
  branches: Schema['StepBranch'][];
  busy: boolean;
  take: (outcome: string) => void;
}) {
  return (
    <section aria-label="Otherwise" className="border-t border-rule pt-1 pb-3">
      <h3 className="caption">Otherwise</h3>
      <ul>
        {branches.map((branch, i) => (
          <li key={branch.when} className="flex items-center gap-4 border-b border-rule">
            <button
              type="button"
              disabled={busy}
              {...(i === 0 ? { 'data-otherwise': '' } : {})}
              className="min-h-11 flex-1 text-left font-semibold hover:underline"
              onClick={() => {
                take(branch.when);
              }}
            >
              {branch.when}
            </button>
            <span className="text-sm text-quiet">
              {branch.stop !== null
                ? 'the run stops'
                : branch.then.length === 1
                  ? 'one more step'
                  : `${branch.then.length} more steps`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Something that is done at a step. */
export function Act({
  main = false,
  busy,
  onClick,
  children,
}: {
  main?: boolean;
  busy: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      disabled={busy}
      onClick={onClick}
      {...(main ? { 'data-main': '' } : {})}
      className={`min-h-12 px-6 text-lg font-semibold ${main ? 'bg-ink text-ground' : 'border-[1.5px] border-ink'}`}
    >
      {children}
    </button>
  );
}
