import { queryOptions, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { api, fails, type Schema, take } from '../api/client';
import { useEnterFact } from '../api/queries';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

const canaries = queryOptions({
  queryKey: ['canaries'],
  queryFn: () => take(api.GET('/api/canaries')),
});

const verdicts: [Schema['UpdateVerdict'], string][] = [
  ['safe', 'Safe'],
  ['wait', 'Wait'],
  ['again', 'Patch again'],
];

/** What an update may take away, the machine on which it is tried first, and what the owners hear of it. */
export function CanaryList() {
  const { data, error } = useQuery(canaries);
  if (fails(error, data)) return <Failed error={error} />;
  if (!data || data.length === 0) return null;
  return (
    <section aria-label="Updates are tried here first" className="pt-6">
      <h2 className="caption border-b-[1.5px] border-ink">Updates are tried here first</h2>
      <ul>
        {data.map((watched) => (
          <li key={`${watched.system} ${watched.cure}`} className="border-b border-rule py-2">
            <p>
              <b>{watched.what}</b>{' '}
              <span className="text-quiet">
                {watched.owners.length} {watched.owners.length === 1 ? 'machine' : 'machines'}:{' '}
                {watched.owners.map((o) => o.tag).join(', ')}
              </span>
            </p>
            {watched.canary ? <Kept canary={watched.canary} /> : <KeepOne what={watched.what} />}
            {watched.owners.some((o) => o.letter) && (
              <details>
                <summary className="min-h-9 cursor-pointer py-1 underline underline-offset-4">
                  {watched.owners.length === 1 ? 'The letter to its owner' : 'The letters to their owners'}
                </summary>
                {watched.owners.map((o) => (
                  <p key={o.tag} className="my-2 border-l-4 border-rule pl-4 whitespace-pre-line">
                    {o.letter}
                  </p>
                ))}
              </details>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A canary, and what the next update did to it. */
function Kept({ canary }: { canary: Schema['CanaryMachine'] }) {
  const client = useQueryClient();
  const [who] = useWho();
  const enter = useEnterFact(canary.tag);
  const [says, setSays] = useState('');
  return (
    <>
      <p>
        Kept:{' '}
        <Link className="font-semibold underline underline-offset-4" to={`/machines/${canary.tag}/facts`}>
          {canary.tag}
        </Link>{' '}
        {canary.name}.{' '}
        {canary.last ? (
          <>
            <b>{verdicts.find(([v]) => v === canary.last?.verdict)?.[1]}:</b> {canary.last.says}{' '}
            <span className="text-quiet">{canary.last.by}</span>
          </>
        ) : (
          <span className="text-quiet">Nothing was tried on it yet.</span>
        )}
      </p>
      <div className="flex flex-wrap items-end gap-3 pt-1">
        <label className="min-w-72 flex-1">
          <span className="caption block">Which update it was, in words for the owner</span>
          <input
            maxLength={200}
            value={says}
            className="h-10 w-full border-b-2 border-ink bg-transparent"
            onChange={(event) => {
              setSays(event.target.value);
            }}
          />
        </label>
        {verdicts.map(([verdict, name]) => (
          <button
            key={verdict}
            type="button"
            disabled={enter.isPending || !says.trim()}
            className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
            onClick={() => {
              enter.mutate(
                { key: 'upkeep.verdict', value: verdict, source: says.trim(), by: who || nobody },
                {
                  onSuccess: () => {
                    setSays('');
                    void client.invalidateQueries({ queryKey: canaries.queryKey });
                  },
                },
              );
            }}
          >
            {name}
          </button>
        ))}
      </div>
      {enter.error && <Failed error={enter.error} />}
    </>
  );
}

/** No machine is kept for it: owners hear nothing until one is. */
function KeepOne({ what }: { what: string }) {
  const client = useQueryClient();
  const [who] = useWho();
  const [tag, setTag] = useState('');
  const enter = useEnterFact(tag.trim().toUpperCase());
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        enter.mutate(
          {
            key: 'upkeep.canary',
            value: 'yes',
            source: `kept for: ${what}`.slice(0, 200),
            by: who || nobody,
          },
          {
            onSuccess: () => {
              void client.invalidateQueries({ queryKey: canaries.queryKey });
            },
          },
        );
      }}
    >
      <p className="min-w-72 flex-1 text-quiet">
        No machine is kept for it, so that nobody hears whether an update is safe. Keep one whose finished run
        has the same change.
      </p>
      <label>
        <span className="caption block">Tag</span>
        <input
          data-scan="field"
          value={tag}
          className="h-10 w-32 border-b-2 border-ink bg-transparent font-value uppercase"
          onChange={(event) => {
            setTag(event.target.value);
          }}
        />
      </label>
      <button
        disabled={enter.isPending || !tag.trim()}
        className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
      >
        Keep it
      </button>
      {enter.error && <Failed error={enter.error} />}
      {enter.isSuccess && (
        <p role="status">It is marked. It counts as soon as its finished run has this change.</p>
      )}
    </form>
  );
}
