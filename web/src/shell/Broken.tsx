import { isRouteErrorResponse, useRouteError } from 'react-router';

/** A page that could not be drawn. What was saved is saved; the bench is a click away. */
export function Broken() {
  const error = useRouteError();
  const says = isRouteErrorResponse(error)
    ? `${error.status} ${error.statusText}`
    : error instanceof Error
      ? error.message
      : String(error);
  return (
    <main className="mx-auto max-w-3xl px-6 pt-16">
      <h1 className="font-name text-[40px] leading-none font-bold" data-loud>
        This page cannot be drawn.
      </h1>
      <p className="pt-4 text-lg">Whatever was saved is saved. Load it again, or go to the bench.</p>
      <p className="pt-2 font-value text-sm text-quiet">{says}</p>
      <p className="flex gap-4 pt-4">
        <button
          type="button"
          className="min-h-12 bg-ink px-6 font-semibold text-ground"
          onClick={() => {
            location.reload();
          }}
        >
          Load it again
        </button>
        <a href="/" className="flex min-h-12 items-center border-[1.5px] border-ink px-6 font-semibold">
          To the bench
        </a>
      </p>
    </main>
  );
}
