import { Refusal } from '../api/client';

/** What a page shows before its data is there. Short, so that it does not flash. */
export function Loading() {
  return <p className="py-10 text-quiet">Reading…</p>;
}

/** A failure in the words of the server, with what would be right. */
export function Failed({ error }: { error: unknown }) {
  const refusal = error instanceof Refusal ? error : null;
  return (
    <div role="alert" className="my-3 border-l-4 border-wall pl-4">
      <p className="font-semibold text-wall">
        {refusal?.message ?? 'The server does not answer. What you entered is still here; try again.'}
      </p>
      {refusal?.where && <p className="font-value text-sm break-words text-quiet">{refusal.where}</p>}
      {refusal?.wanted && <p className="break-words">{refusal.wanted}</p>}
    </div>
  );
}
