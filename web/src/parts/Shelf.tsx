import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Schema, take, fails } from '../api/client';
import { parts, useWrite } from '../api/queries';
import { ShelfNav } from '../shell/ShelfNav';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { counted } from '../pieces/counted';

const kinds = ['memory', 'drive', 'wireless', 'graphics', 'battery', 'adapter', 'optical', 'tpm', 'other'];
const empty: Schema['PartEntry'] = {
  kind: 'memory',
  about: '',
  type: null,
  sizeMiB: null,
  sizeBytes: null,
  from: '',
  test: 'untested',
  reservedFor: null,
  fittedIn: null,
};

/** Salvaged parts: what it is, where from, tested or not, kept for whom. Upgrades take from here before anything is bought. */
export function Shelf() {
  const { data, error } = useQuery(parts);
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const groups = kinds
    .map((kind) => ({ kind, parts: data.filter((p) => p.part.kind === kind) }))
    .filter((g) => g.parts.length > 0);
  return (
    <div className="flex flex-1 flex-col">
      <ShelfNav />
      <div className="grid flex-1 grid-cols-1 gap-x-10 pt-4 lg:grid-cols-[minmax(0,1fr)_340px]">
        <div>
          <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
            {data.length === 0 ? 'The shelf is empty.' : `${counted(data.length, 'part')} on the shelf.`}
          </h1>
          <p className="pt-1 text-quiet">
            Second-hand parts are untested until a test says otherwise. Never fit two untested parts at once.
          </p>
          {groups.map((group) => (
            <section key={group.kind} aria-label={group.kind} className="pt-3">
              <h2 className="caption border-b-[1.5px] border-ink text-[13px]">{group.kind}</h2>
              <ul>
                {group.parts.map((part) => (
                  <Part key={part.id} stored={part} />
                ))}
              </ul>
            </section>
          ))}
        </div>
        <NewPart />
      </div>
    </div>
  );
}

function Part({ stored }: { stored: Schema['StoredPart'] }) {
  const { part } = stored;
  const [who] = useWho();
  const [tag, setTag] = useState(part.reservedFor ?? '');
  const change = useWrite((to: Partial<Schema['PartEntry']>) =>
    take(
      api.PUT('/api/parts/{id}', {
        params: { path: { id: stored.id } },
        body: { part: { ...part, ...to }, version: stored.version, by: who || nobody },
      }),
    ),
  );
  const inkOfTest =
    part.test === 'passed' ? 'text-clear' : part.test === 'failed' ? 'text-wall' : 'text-setting';
  return (
    <li className="border-b border-rule py-1">
      <div className="grid grid-cols-[minmax(0,1fr)_74px_142px_176px_150px] items-center gap-x-3">
        <span className="min-w-0">
          <b>{part.about}</b>
          <span className="block truncate text-sm text-quiet">from {part.from}</span>
        </span>
        <b className={inkOfTest}>{part.test}</b>
        <span className="flex gap-1">
          {part.test === 'untested' && (
            <>
              <Small
                says="Passed"
                act={() => {
                  change.mutate({ test: 'passed' });
                }}
              />
              <Small
                says="Failed"
                act={() => {
                  change.mutate({ test: 'failed' });
                }}
              />
            </>
          )}
        </span>
        <form
          className="flex items-center gap-1"
          onSubmit={(event) => {
            event.preventDefault();
            change.mutate({ reservedFor: tag.trim() === '' ? null : tag.toUpperCase() });
          }}
        >
          <input
            aria-label={`Kept for, ${part.about}`}
            data-scan="field"
            className="h-9 w-28 border-b-[1.5px] border-quiet bg-transparent font-value uppercase placeholder:text-unknown placeholder:normal-case"
            placeholder="kept for…"
            value={tag}
            onChange={(event) => {
              setTag(event.target.value);
            }}
          />
          <button className="min-h-9 px-2 text-sm underline underline-offset-4">Keep</button>
        </form>
        <span>
          {part.reservedFor && (
            <Small
              says={`Fitted in ${part.reservedFor}`}
              act={() => {
                change.mutate({ fittedIn: part.reservedFor });
              }}
            />
          )}
        </span>
      </div>
      {change.error && <Failed error={change.error} />}
    </li>
  );
}

function Small({ says, act }: { says: string; act: () => void }) {
  return (
    <button
      type="button"
      className="min-h-9 border-[1.5px] border-quiet px-2.5 text-sm hover:border-ink"
      onClick={act}
    >
      {says}
    </button>
  );
}

const memoryTypes = ['DDR2 DIMM', 'DDR2 SO-DIMM', 'DDR3 DIMM', 'DDR3 SO-DIMM', 'DDR4 DIMM', 'DDR4 SO-DIMM'];

function NewPart() {
  const [who] = useWho();
  const [part, setPart] = useState(empty);
  const [gib, setGib] = useState('4');
  const set = (to: Partial<Schema['PartEntry']>) => {
    setPart({ ...part, ...to });
  };
  const memory = part.kind === 'memory';
  const add = useWrite(() =>
    take(
      api.POST('/api/parts', {
        body: {
          part: memory
            ? {
                ...part,
                type: part.type ?? 'DDR4 SO-DIMM',
                sizeMiB: Math.round(Number(gib) * 1024),
                about: `${gib} GiB ${part.type ?? 'DDR4 SO-DIMM'}`,
              }
            : part,
          by: who || nobody,
        },
      }),
    ),
  );
  return (
    <form
      aria-label="Put a part on the shelf"
      className="flex flex-col gap-2.5 self-start border-l border-rule pl-6"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate(undefined, {
          onSuccess: () => {
            setPart({ ...empty, kind: part.kind, type: part.type, from: part.from });
          },
        });
      }}
    >
      <h2 className="loud" data-loud>
        Put a part on it
      </h2>
      <label>
        <span className="caption block">Kind</span>
        <select
          className="h-11 w-full border-b-2 border-ink bg-ground"
          value={part.kind}
          onChange={(event) => {
            set({ kind: event.target.value });
          }}
        >
          {kinds.map((kind) => (
            <option key={kind}>{kind}</option>
          ))}
        </select>
      </label>
      {memory ? (
        <div className="flex gap-3">
          <label className="w-full">
            <span className="caption block">Type</span>
            <select
              className="h-11 w-full border-b-2 border-ink bg-ground"
              value={part.type ?? 'DDR4 SO-DIMM'}
              onChange={(event) => {
                set({ type: event.target.value });
              }}
            >
              {memoryTypes.map((type) => (
                <option key={type}>{type}</option>
              ))}
            </select>
          </label>
          <Field label="GiB" value={gib} set={setGib} />
        </div>
      ) : (
        <Field
          label="What it is"
          value={part.about}
          set={(about) => {
            set({ about });
          }}
        />
      )}
      <Field
        label="From (tag or words)"
        value={part.from}
        set={(from) => {
          set({ from });
        }}
      />
      {add.error && <Failed error={add.error} />}
      <button disabled={add.isPending} className="mt-1 min-h-12 bg-ink text-lg font-semibold text-ground">
        On the shelf
      </button>
    </form>
  );
}

function Field({ label, value, set }: { label: string; value: string; set: (value: string) => void }) {
  return (
    <label className="block w-full min-w-16">
      <span className="caption block">{label}</span>
      <input
        className="h-11 w-full border-b-2 border-ink bg-transparent"
        value={value}
        onChange={(event) => {
          set(event.target.value);
        }}
      />
    </label>
  );
}
