import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { api, Refusal, type Schema, take } from '../api/client';
import { arrivals, useWrite } from '../api/queries';
import { useNow } from '../runs/clock';
import { Failed } from '../shell/States';
import { dayOf } from '../shell/time';
import { nobody, useWho } from '../shell/who';

/** Machines that were read on the bench and wait for a tag; the list grows by itself as they arrive. */
export function Arrivals() {
  const { data } = useQuery(arrivals);
  if (!data || data.length === 0) return null;
  return (
    <section aria-label="Arrivals" className="mt-6 border-t-[1.5px] border-ink pt-1.5">
      <h2 className="caption text-[13px]">
        Arrivals · {data.length} {data.length === 1 ? 'waits' : 'wait'} for a tag
      </h2>
      <ul>
        {data.map((arrival) => (
          <Waiting key={arrival.id} arrival={arrival} />
        ))}
      </ul>
    </section>
  );
}

function Waiting({ arrival }: { arrival: Schema['ArrivalShown'] }) {
  const [tag, setTag] = useState(arrival.knownTag ?? '');
  const now = useNow();
  const [who] = useWho();
  const by = who || nobody;
  const bringIn = useWrite(({ taken, same }: { taken: string; same: boolean }) =>
    take(
      api.POST('/api/arrivals/{id}/take', {
        params: { path: { id: arrival.id } },
        body: { tag: taken, by, same },
      }),
    ),
  );
  const mayBe = bringIn.error instanceof Refusal ? bringIn.error.mayBe : '';
  const away = useWrite(async () => {
    await api.DELETE('/api/arrivals/{id}', { params: { path: { id: arrival.id } } });
  });
  return (
    <li className="border-b border-rule py-1.5">
      <form
        className="flex flex-wrap items-center gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          bringIn.mutate({ taken: tag, same: false });
        }}
      >
        <span className="min-w-0 flex-1">
          <b className="text-lg">{arrival.model || 'a machine without a name'}</b>{' '}
          <span className="font-value text-quiet">{arrival.serial || 'no serial number'}</span>{' '}
          <span className="text-quiet">{ago(arrival.receivedAt, now)}</span>
          {arrival.knownTag && (
            <span>
              {' '}
              · this serial number belongs to{' '}
              <Link to={`/machines/${arrival.knownTag}/facts`} className="font-semibold underline">
                {arrival.knownTag}
              </Link>
            </span>
          )}
        </span>
        <input
          aria-label={`Tag for ${arrival.model} ${arrival.serial}`}
          data-scan="field"
          value={tag}
          placeholder="MR-0000"
          autoComplete="off"
          spellCheck={false}
          className="h-11 w-40 border-b-2 border-ink bg-transparent font-value text-xl uppercase placeholder:text-rule"
          onChange={(event) => {
            setTag(event.target.value);
          }}
        />
        <button
          disabled={bringIn.isPending || !tag.trim()}
          className="min-h-11 bg-ink px-4 font-semibold text-ground"
        >
          Give it this tag
        </button>
        <button
          type="button"
          className="min-h-11 text-sm underline underline-offset-4"
          onClick={() => {
            away.mutate(undefined);
          }}
        >
          Send away
        </button>
      </form>
      {bringIn.error && <Failed error={bringIn.error} />}
      {mayBe && (
        <button
          type="button"
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
          onClick={() => {
            bringIn.mutate({ taken: tag, same: true });
          }}
        >
          It is {tag.toUpperCase()}, with {mayBe}
        </button>
      )}
    </li>
  );
}

const ago = (time: string, now: number) => {
  const minutes = Math.max(0, Math.round((now - Date.parse(time)) / 60_000));
  return minutes < 1 ? 'came just now' : minutes < 120 ? `came ${minutes} min ago` : `came ${dayOf(time)}`;
};
