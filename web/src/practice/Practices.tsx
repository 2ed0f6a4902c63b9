import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { fails } from '../api/client';
import { Failed, Loading } from '../shell/States';
import { practices } from './moves';

/** Machines to practise on, that are none of the shop's. */
export function Practices() {
  const { data, error } = useQuery(practices);
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  return (
    <div className="max-w-[1000px] pt-4">
      <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
        {data.length === 0 ? 'There is nothing to practise.' : 'A machine that cannot be spoiled.'}
      </h1>
      <p className="max-w-[68ch] pt-2">
        The same sheets, checks and cautions as at the bench, and a simulated machine that answers. A wait
        passes at once. Nothing that is done here touches a record of the shop, a time that it has learned or
        a chance that it counts.
      </p>
      <ol aria-label="What can be practised" className="mt-4 border-t-[1.5px] border-ink">
        {data.map((p) => (
          <li key={p.id} className="grid grid-cols-[minmax(0,1fr)_150px] gap-x-6 border-b border-rule py-2">
            <div>
              {p.unfit === null ? (
                <Link
                  className="inline-flex min-h-9 items-center font-name text-[26px] leading-tight font-bold hover:underline"
                  to={`/practice/${p.id}`}
                >
                  {p.title}
                </Link>
              ) : (
                <b className="font-name text-[26px] leading-tight text-quiet">{p.title}</b>
              )}
              <p className="max-w-[72ch]">{p.unfit ?? p.about}</p>
            </div>
            {p.unfit === null && (
              <p className="pt-2 text-right text-quiet tabular-nums">
                {p.steps} steps
                <br />
                {p.minutes} min at a bench
              </p>
            )}
          </li>
        ))}
      </ol>
    </div>
  );
}
