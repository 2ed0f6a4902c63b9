import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { NavLink, useNavigate, useParams, useSearchParams } from 'react-router';
import { api, type Schema, take, fails } from '../api/client';
import { catalogueList, catalogueSchema, catalogueSheet, useWrite } from '../api/queries';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Effects } from './Effects';
import { Editor } from './Editor';
import { blank, type JsonObject, type Shape, shapeOf } from './schema';

const kinds = [
  'systems',
  'programs',
  'cures',
  'procedures',
  'causes',
  'checks',
  'scenarios',
  'devices',
  'processors',
  'models',
  'makers',
  'donors',
  'boards',
  'payloads',
  'adapters',
  'components',
  'quirks',
  'profiles',
  'afterPatches',
  'smallBoards',
  'memory',
  'prices',
  'weights',
  'computers',
  'schools',
];

/** The catalogue: every entry as a form and as JSON, and what an edit does to the fleet before it is saved. */
export function Catalogue() {
  const { kind = 'systems', id } = useParams();
  const list = useQuery(catalogueList(kind));
  const schema = useQuery(catalogueSchema);
  const [words, setWords] = useState('');
  const failed = list.error ?? schema.error;
  if (failed) return <Failed error={failed} />;
  if (!list.data || !schema.data) return <Loading />;
  const shown = list.data.filter((e) => `${e.id} ${e.name}`.toLowerCase().includes(words.toLowerCase()));
  return (
    <div className="flex flex-1 flex-col pt-3">
      <div className="flex items-end gap-6">
        <h1 className="font-name text-[40px] leading-none font-bold" data-loud>
          Catalogue
        </h1>
        <a className="ml-auto min-h-9 underline underline-offset-4" href="/api/catalogue/export" download>
          All of it as a pack
        </a>
        <NavLink className="min-h-9 underline underline-offset-4" to="/catalogue/packs">
          Take a pack in
        </NavLink>
      </div>
      <nav aria-label="Kinds" className="flex flex-wrap gap-x-4 border-b-[1.5px] border-ink">
        {kinds.map((k) => (
          <NavLink
            key={k}
            to={`/catalogue/${k}`}
            className={`flex min-h-9 items-center border-b-4 ${k === kind ? 'border-ink font-bold' : 'border-transparent text-quiet hover:text-ink'}`}
          >
            {k.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`)}
          </NavLink>
        ))}
      </nav>
      <div className="grid flex-1 grid-cols-1 gap-x-5 pt-2 lg:grid-cols-[210px_minmax(0,1fr)]">
        <div>
          <input
            aria-label={`Find among ${kind}`}
            className="h-9 w-full border-b-[1.5px] border-ink bg-transparent"
            placeholder="find"
            value={words}
            onChange={(event) => {
              setWords(event.target.value);
            }}
          />
          <NavLink
            to={`/catalogue/${kind}/new`}
            className="flex min-h-9 items-center font-semibold underline underline-offset-4"
          >
            A new one
          </NavLink>
          <ul aria-label={kind} className="max-h-[620px] overflow-y-auto">
            {shown.map((entry) => (
              <li key={entry.id} className="border-b border-rule">
                <NavLink
                  to={`/catalogue/${kind}/${entry.id}`}
                  className={`block py-1 leading-tight ${entry.id === id ? 'bg-sheet px-1.5 outline-[1.5px] outline-ink' : 'hover:bg-sheet'}`}
                >
                  <span className="block truncate text-[15px]">{entry.name}</span>
                  <span className="block truncate font-value text-xs text-quiet">
                    {entry.id}
                    {entry.file === 'shop.json' && ' · ours'}
                  </span>
                </NavLink>
              </li>
            ))}
          </ul>
        </div>
        {id === undefined ? (
          <p className="loud pt-10 text-quiet">Choose an entry, or make a new one.</p>
        ) : id === 'new' ? (
          <Fresh key={kind} kind={kind} root={schema.data} others={list.data} />
        ) : (
          <Existing key={`${kind}/${id}`} kind={kind} id={id} root={schema.data} />
        )}
      </div>
    </div>
  );
}

/** A new entry: empty, or with what another one says. Its id is its own. */
function Fresh({
  kind,
  root,
  others,
}: {
  kind: string;
  root: Shape;
  others: readonly Schema['CatalogueItem'][];
}) {
  const [search, setSearch] = useSearchParams();
  const from = others.find((o) => o.id === search.get('from'));
  const empty = blank(shapeOf(kind, root), root) as JsonObject;
  return (
    <div className="min-w-0">
      <label className="flex items-baseline gap-2 pb-1">
        <span className="text-quiet">Copy from</span>
        <select
          className="min-h-9 border-b-[1.5px] border-quiet bg-ground"
          value={from?.id ?? ''}
          onChange={(event) => {
            setSearch(event.target.value === '' ? {} : { from: event.target.value }, { replace: true });
          }}
        >
          <option value="">nothing: an empty entry</option>
          {others.map((o) => (
            <option key={o.id} value={o.id}>
              {o.name}
            </option>
          ))}
        </select>
        {from && (
          <span className="text-sm text-quiet">Give it an id of its own, and change what differs.</span>
        )}
      </label>
      <Editor
        key={from?.id ?? ''}
        kind={kind}
        root={root}
        start={from ? { ...(from.entry as JsonObject), id: '' } : empty}
        sheet={null}
      />
    </div>
  );
}

function Existing({ kind, id, root }: { kind: string; id: string; root: Shape }) {
  const { data, error } = useQuery(catalogueSheet(kind, id));
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  return (
    <Editor
      key={data.version}
      kind={kind}
      root={root}
      start={data.entry ?? data.shipped ?? { id }}
      sheet={data}
    />
  );
}

/** A pack of someone else's: first as a difference and as its effect on the fleet, then for good. */
export function Packs() {
  const [text, setText] = useState('');
  const [who] = useWho();
  const go = useNavigate();
  const [effect, setEffect] = useState<Schema['CatalogueEffect'] | null>(null);
  const send = useWrite((dryRun: boolean) =>
    take(
      api.POST('/api/catalogue/import', {
        params: { query: { dryRun, by: who || nobody } },
        body: text,
        bodySerializer: (body: unknown) => body as string,
      }),
    ),
  );
  return (
    <div className="flex-1 pt-4">
      <h1 className="font-name text-[40px] leading-none font-bold" data-loud>
        Take a pack in
      </h1>
      <p className="pt-1 text-quiet">Nothing is taken before you have seen what it changes.</p>
      <input
        type="file"
        accept=".json,application/json"
        aria-label="Pack"
        className="mt-3 block min-h-11"
        onChange={(event) => {
          void event.target.files?.[0]?.text().then((read) => {
            setText(read);
            setEffect(null);
          });
        }}
      />
      <div className="flex gap-4 pt-2">
        <button
          type="button"
          disabled={text === '' || send.isPending}
          className="min-h-11 border-[1.5px] border-ink px-5 font-semibold"
          onClick={() => {
            send.mutate(true, { onSuccess: setEffect });
          }}
        >
          Look at it
        </button>
        {effect && effect.faults.length === 0 && effect.differences.length > 0 && (
          <button
            type="button"
            className="min-h-11 bg-ink px-5 font-semibold text-ground"
            onClick={() => {
              send.mutate(false, { onSuccess: () => void go('/catalogue/systems') });
            }}
          >
            Take {effect.differences.length} {effect.differences.length === 1 ? 'entry' : 'entries'}
          </button>
        )}
      </div>
      {send.error && <Failed error={send.error} />}
      {effect && <Effects effect={effect} differences />}
    </div>
  );
}
