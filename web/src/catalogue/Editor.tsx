import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { factKeys, useWrite } from '../api/queries';
import { Failed } from '../shell/States';
import { dayOf } from '../shell/time';
import { nobody, useWho } from '../shell/who';
import { Touched } from '../upkeep/Touched';
import { Effects, Lines } from './Effects';
import { EntryForm, Faults } from './EntryForm';
import { Offers, OnMachine } from './OnMachine';
import { type JsonObject, type Shape, shapeOf } from './schema';

const written = (entry: JsonObject) => JSON.stringify(entry, null, 2);

/** One entry: form and JSON side by side, checked while one types, with its effect on the fleet before it is saved. */
export function Editor({
  kind,
  root,
  start,
  sheet,
}: {
  kind: string;
  root: Shape;
  start: JsonObject;
  sheet: Schema['CatalogueSheet'] | null;
}) {
  const [entry, setEntry] = useState(start);
  const [text, setText] = useState(written(start));
  const [broken, setBroken] = useState<string | null>(null);
  const [reason, setReason] = useState('');
  const [who] = useWho();
  const facts = useQuery(factKeys).data ?? [];
  const go = useNavigate();
  const id = idOf(entry);
  const changed = sheet === null || written(entry) !== written(start);

  // The preview follows what is typed a little behind, so that typing stays quick.
  const asked = useDeferredValue(entry);
  const preview = useQuery({
    queryKey: ['catalogue', 'preview', kind, asked],
    queryFn: () =>
      take(
        api.POST('/api/catalogue/preview', {
          body: { kind, id: idOf(asked), entry: asked as never, pack: null },
        }),
      ),
    enabled: changed && id !== '',
    placeholderData: keepPreviousData,
  });
  const save = useWrite((to: JsonObject | null) =>
    take(
      api.PUT('/api/catalogue/{kind}/{id}', {
        params: { path: { kind, id } },
        body: { entry: to as never, version: sheet?.version ?? 0, by: who || nobody, reason: reason.trim() },
      }),
    ),
  );
  const change = (next: JsonObject) => {
    setEntry(next);
    setText(written(next));
    setBroken(null);
  };
  const faults = changed && (preview.data?.faults.length ?? 0) > 0;
  const maySave = changed && !faults && broken === null && reason.trim() !== '' && id !== '';
  return (
    <form
      aria-label={`Entry ${id}`}
      className="grid min-w-0 grid-cols-1 gap-x-5 xl:grid-cols-[minmax(0,1fr)_minmax(0,1fr)_300px]"
      onSubmit={(event) => {
        event.preventDefault();
        if (maySave)
          save.mutate(entry, { onSuccess: () => void go(`/catalogue/${kind}/${id}`, { replace: true }) });
      }}
    >
      <div className="max-h-[690px] min-w-0 overflow-y-auto pr-1">
        <Faults value={changed ? (preview.data?.faults ?? []) : []}>
          <EntryForm shape={shapeOf(kind, root)} root={root} value={entry} set={change} keys={facts} />
        </Faults>
      </div>
      <label className="flex min-w-0 flex-col">
        <span className="caption">The same as JSON</span>
        <textarea
          className="min-h-[640px] flex-1 border-[1.5px] border-rule bg-sheet p-2 font-value text-[12px] leading-snug"
          spellCheck={false}
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            try {
              setEntry(JSON.parse(event.target.value) as JsonObject);
              setBroken(null);
            } catch (error) {
              setBroken(error instanceof Error ? error.message : 'no JSON');
            }
          }}
        />
        {broken !== null && <span className="text-sm text-wall">No JSON yet: {broken}</span>}
      </label>
      <div className="min-w-0">
        <label className="block">
          <span className="caption">Why it changes</span>
          <input
            className="h-9 w-full border-b-2 border-ink bg-transparent"
            value={reason}
            maxLength={200}
            onChange={(event) => {
              setReason(event.target.value);
            }}
          />
        </label>
        <button
          disabled={!maySave || save.isPending}
          className="mt-2 min-h-11 w-full bg-ink font-semibold text-ground"
        >
          {sheet === null ? 'Add it to the catalogue' : 'Save'}
        </button>
        {sheet !== null && (
          <Link
            to={`/catalogue/${kind}/new?from=${encodeURIComponent(sheet.id)}`}
            className="inline-flex min-h-9 items-center text-sm underline underline-offset-4"
          >
            Make another like it
          </Link>
        )}
        {save.error && <Failed error={save.error} />}
        {changed && preview.error && <Failed error={preview.error} />}
        {changed && preview.data && <Effects effect={preview.data} />}
        {changed && preview.data?.faults.length === 0 && (
          <Touched kind={kind} id={idOf(asked)} entry={asked} />
        )}
        {!changed && (
          <p className="pt-2 text-sm text-quiet">
            As it is saved. A change shows here what it does to the fleet.
          </p>
        )}
        {kind === 'procedures' && (
          <>
            <Offers
              id={id}
              entry={entry}
              take={(next, why) => {
                change(next);
                setReason(why.slice(0, 200));
              }}
            />
            <OnMachine id={id} entry={entry} />
          </>
        )}
        {sheet && (
          <Versions
            sheet={sheet}
            restore={change}
            remove={() => {
              save.mutate(null, { onSuccess: () => void go(`/catalogue/${kind}`) });
            }}
            mayRemove={reason.trim() !== ''}
          />
        )}
      </div>
    </form>
  );
}

const idOf = (entry: JsonObject) => (typeof entry['id'] === 'string' ? entry['id'] : '');

function Versions({
  sheet,
  restore,
  remove,
  mayRemove,
}: {
  sheet: Schema['CatalogueSheet'];
  restore: (entry: JsonObject) => void;
  remove: () => void;
  mayRemove: boolean;
}) {
  const before = (i: number) => (i === 0 ? sheet.shipped : sheet.versions[i - 1]?.entry);
  return (
    <section aria-label="Versions" className="pt-3">
      <h3 className="caption border-b-[1.5px] border-ink">Versions</h3>
      <ul>
        {[...sheet.versions].reverse().map((v) => (
          <li key={v.version} className="border-b border-rule py-1 text-sm">
            <details>
              <summary className="min-h-8 cursor-pointer">
                <b>{v.version}</b> · {v.by} · {dayOf(v.at)}
                <span className="block text-quiet">{v.reason}</span>
              </summary>
              <Lines before={before(v.version - 1)} after={v.entry} />
            </details>
            {v.entry !== null && v.version !== sheet.version && (
              <button
                type="button"
                className="min-h-8 underline"
                onClick={() => {
                  restore(v.entry as JsonObject);
                }}
              >
                Go back to it
              </button>
            )}
          </li>
        ))}
        <li className="py-1 text-sm">
          {sheet.shipped === null ? (
            'Added by the shop.'
          ) : (
            <>
              <b>0</b> · as it ships{' '}
              {sheet.version > 0 && (
                <button
                  type="button"
                  className="min-h-8 underline"
                  onClick={() => {
                    restore(sheet.shipped as JsonObject);
                  }}
                >
                  Go back to it
                </button>
              )}
            </>
          )}
        </li>
      </ul>
      <button
        type="button"
        disabled={!mayRemove}
        title={mayRemove ? undefined : 'Say why first'}
        className="min-h-8 text-sm underline disabled:text-quiet disabled:no-underline"
        onClick={remove}
      >
        Take the entry out of the catalogue
      </button>
    </section>
  );
}
