import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, fails, type Schema, take } from '../api/client';
import { formOf, kitOf, kits, useConfigureKit, useWrite } from '../api/queries';
import { BringFile } from '../pieces/BringFile';
import { ShelfNav } from '../shell/ShelfNav';
import { Failed, Loading } from '../shell/States';
import { dayAndTime } from '../shell/time';
import { nobody, useWho } from '../shell/who';
import { Checked, StartKit } from './Checked';

/** Boot kits: built here or brought in, each held against itself and the catalogue, mended and edited. */
export function Kits() {
  const { data, error } = useQuery(kits);
  const [search, setSearch] = useSearchParams();
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const id = Number(search.get('kit') ?? data[0]?.id ?? 0);
  const open = (made: number) => {
    setSearch({ kit: String(made) }, { replace: true });
  };
  return (
    <div className="flex flex-1 flex-col">
      <ShelfNav />
      <div className="grid flex-1 grid-cols-1 gap-x-8 pt-3 lg:grid-cols-[280px_minmax(0,1fr)]">
        <div>
          <h1 className="font-name text-[40px] leading-none font-bold" data-loud>
            {data.length === 0 ? 'No kit yet.' : data.length === 1 ? '1 kit.' : `${data.length} kits.`}
          </h1>
          <Bring done={open} />
          <ul aria-label="Boot kits" className="border-t-[1.5px] border-ink">
            {data.map((k) => (
              <li key={k.id} className="border-b border-rule">
                <button
                  type="button"
                  aria-pressed={k.id === id}
                  className={`block w-full px-2 py-1.5 text-left ${k.id === id ? 'bg-sheet outline-[1.5px] outline-ink' : 'hover:bg-sheet'}`}
                  onClick={() => {
                    open(k.id);
                  }}
                >
                  <b className="block truncate">{k.name}</b>
                  <span className="text-sm text-quiet">
                    {k.parent === null ? `kit ${k.id}` : `kit ${k.id}, from ${k.parent}`} · {dayAndTime(k.at)}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </div>
        {id > 0 ? (
          <Kit key={id} id={id} made={open} />
        ) : (
          <p className="loud pt-10 text-quiet">Build a kit on a machine’s page, or bring one as a ZIP.</p>
        )}
      </div>
    </div>
  );
}

function Bring({ done }: { done: (id: number) => void }) {
  const [who] = useWho();
  const bring = useWrite((file: File) => {
    return take(api.POST('/api/kits', formOf({ name: file.name, by: who || nobody }, [], { file })));
  });
  return (
    <BringFile
      label="Bring a kit as a ZIP"
      accept=".zip,application/zip"
      reading="Checking it…"
      bring={bring}
      done={done}
    />
  );
}

function Kit({ id, made }: { id: number; made: (id: number) => void }) {
  const { data, error } = useQuery(kitOf(id));
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const faults = data.findings.length;
  return (
    <section aria-label={`Kit ${data.name}`} className="min-w-0">
      <p className="caption">
        {data.name}, kit {data.id}
      </p>
      <h2 className="loud" data-loud>
        {faults === 0 ? 'The check finds nothing.' : faults === 1 ? 'One fault.' : `${faults} faults.`}
      </h2>
      <p className="text-quiet">
        {data.components.length} files are loaded. SHA-256 of the archive{' '}
        <span className="font-value text-sm break-all">{data.sha256}</span>
      </p>
      <Checked kit={data} made={made} />
      <StartKit kit={data} />
      <Config kit={data} made={made} />
    </section>
  );
}

/** The configuration as text: keys that nobody knows, their order and comments stay as they are. */
function Config({ kit, made }: { kit: Schema['KitSheet']; made: (id: number) => void }) {
  const [who] = useWho();
  const [text, setText] = useState(kit.config);
  const save = useConfigureKit();
  return (
    <form
      className="pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(
          { id: kit.id, text, by: who || nobody },
          {
            onSuccess: (after) => {
              made(after.id);
            },
          },
        );
      }}
    >
      <label>
        <span className="caption block">kit/config.plist</span>
        <textarea
          className="h-72 w-full border-[1.5px] border-ink bg-sheet p-2 font-value text-[13px]"
          spellCheck={false}
          value={text}
          onChange={(event) => {
            setText(event.target.value);
          }}
        />
      </label>
      <p className="flex items-center gap-4">
        <button
          disabled={save.isPending || text === kit.config}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold disabled:opacity-50"
        >
          Keep it as a new kit
        </button>
        {text !== kit.config && (
          <span className="text-sm text-quiet">The kit that it came from stays as it is.</span>
        )}
      </p>
      {save.error && <Failed error={save.error} />}
    </form>
  );
}
