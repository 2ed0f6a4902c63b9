import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, take } from '../api/client';
import type { JsonObject } from '../catalogue/schema';

/** The machines that have left and that a changed entry touches, with a letter to each owner. */
export function Touched({ kind, id, entry }: { kind: string; id: string; entry: JsonObject }) {
  const { data } = useQuery({
    queryKey: ['recall', kind, id, entry],
    queryFn: () => take(api.POST('/api/catalogue/recall', { body: { kind, id, entry: entry as never } })),
    retry: false,
  });
  if (!data || data.left === 0) return null;
  return (
    <section aria-label="Machines that have left">
      <h3 className="caption pt-3">
        Of {data.left} that {data.left === 1 ? 'has' : 'have'} left
      </h3>
      {data.touched.length === 0 && <p className="text-sm text-quiet">It touches none.</p>}
      <ul>
        {data.touched.map((m) => (
          <li key={m.tag} className="border-b border-rule py-1 text-[13px]">
            <Link className="font-value hover:underline" to={`/machines/${m.tag}/handover`}>
              {m.tag}
            </Link>{' '}
            {m.name}
            <span className="block text-quiet">{m.why.join('; ')}</span>
            <details>
              <summary className="min-h-9 cursor-pointer pt-1 underline underline-offset-4">
                Letter to its owner
              </summary>
              <pre className="border-l-2 border-ink pl-2 font-text text-[13px] whitespace-pre-wrap">
                {m.letter}
              </pre>
            </details>
          </li>
        ))}
      </ul>
    </section>
  );
}
