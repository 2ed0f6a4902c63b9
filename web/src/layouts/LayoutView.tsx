import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { api, Refusal, type Schema, fails, take } from '../api/client';
import { layoutOf, useEnterFact, useUnsay, useWrite } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { bytesText } from '../images/words';
import { JobLine } from '../jobs/JobLine';
import { RungShape } from '../ladder/RungShape';
import { systemName } from '../dossiers/facts';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Drive } from './Drive';
import { Drives } from './Drives';
import { Editor } from './Editor';
import { nameOf } from './words';

const wishes = [
  ['layout.home', 'files apart from the system'],
  ['layout.data', 'a partition for data'],
  ['layout.recovery', 'room to set it up again'],
  ['layout.sleep', 'it sleeps to disk'],
] as const;

/** How the machine's drive is divided for its aim: drawn to scale, each number with its reason, changed by what people wish. */
export function LayoutView() {
  const { sheet, aim, systems } = useMachine();
  const system = systems.find((s) => s.id === aim.system);
  const [editing, setEditing] = useState(false);
  const { data, error } = useQuery(layoutOf(sheet.tag, aim.system, sheet.version));
  const collides = error instanceof Refusal && error.status === 422 ? error : null;
  if (!collides && fails(error, data)) return <Failed error={error} />;
  if (!collides && !data) return <Loading />;
  return (
    <section aria-label="Disk layout" className="min-w-0">
      <p className="caption">
        Disk layout for {systemName(system) || 'the aim'}
        {data && `: ${data.drive}`}
      </p>
      <h2 className="font-name text-[40px] leading-[1.05] font-bold" data-loud>
        {collides || !data
          ? collides?.where === 'layout.own'
            ? 'The drawn layout does not hold.'
            : 'These wishes collide.'
          : `${data.scheme === 'gpt' ? 'GPT' : 'MBR'}, ${data.partitions.filter((p) => p.use !== 'extended').length} partitions.`}
      </h2>
      {collides ? (
        <p role="alert" className="border-l-4 border-wall pt-1 pl-3 text-lg">
          {collides.message} <span className="text-quiet">{collides.wanted}</span>
        </p>
      ) : (
        <p className="pt-1 text-quiet first-letter:uppercase">{data?.schemeWhy}.</p>
      )}
      {data?.drawn !== true && !editing && <Wishes />}
      {editing && data && !collides ? (
        <Editor
          tag={sheet.tag}
          layout={data}
          done={() => {
            setEditing(false);
          }}
        />
      ) : (
        <>
          {data && !collides && (
            <p className="flex flex-wrap items-center gap-x-5">
              <button
                type="button"
                className="min-h-9 font-semibold underline underline-offset-4"
                onClick={() => {
                  setEditing(true);
                }}
              >
                Draw it by hand
              </button>
              {data.drawn && <TakeBack />}
            </p>
          )}
          {collides?.where === 'layout.own' && <TakeBack />}
          {data && !collides && <Planned layout={data} />}
        </>
      )}
    </section>
  );
}

/** A drawn layout goes, and the rules plan it again. */
function TakeBack() {
  const { sheet } = useMachine();
  const unsay = useUnsay(sheet.tag);
  const [who] = useWho();
  return (
    <button
      type="button"
      disabled={unsay.isPending}
      className="min-h-9 underline underline-offset-4"
      onClick={() => {
        unsay.mutate({ key: 'layout.own', by: who || nobody });
      }}
    >
      Back to what the rules plan
    </button>
  );
}

/** What people wish of it; each is a fact of the dossier, with who said it. */
function Wishes() {
  const { sheet } = useMachine();
  const enter = useEnterFact(sheet.tag);
  const unsay = useUnsay(sheet.tag);
  const [who] = useWho();
  const value = (key: string) => sheet.facts.find((f) => f.key === key)?.value;
  const say = (key: string, said: unknown) => {
    enter.mutate({ key, value: said, source: 'said in the shop', by: who || nobody });
  };
  const kept = value('layout.keepBytes');
  return (
    <fieldset className="mt-2 border-y border-rule py-1">
      <legend className="sr-only">Wishes</legend>
      <div className="flex flex-wrap items-center gap-x-5">
        {wishes.map(([key, says]) => (
          <label key={key} className="flex min-h-9 items-center gap-2">
            <input
              type="checkbox"
              className="size-4 accent-ink"
              checked={value(key) === 'yes'}
              onChange={(event) => {
                say(key, event.target.checked ? 'yes' : 'no');
              }}
            />
            {says}
          </label>
        ))}
        <Keep
          key={String(kept)}
          bytes={typeof kept === 'number' ? kept : null}
          keep={(bytes) => {
            if (bytes === null) unsay.mutate({ key: 'layout.keepBytes', by: who || nobody });
            else say('layout.keepBytes', bytes);
          }}
        />
      </div>
      <p className="text-sm text-quiet">
        Table, encryption and by whom it is divided are chosen under{' '}
        <Link className="underline underline-offset-4" to="../routes?panel=choices">
          Choices
        </Link>
        .
      </p>
      {(enter.error ?? unsay.error) && <Failed error={enter.error ?? unsay.error} />}
    </fieldset>
  );
}

function Keep({ bytes, keep }: { bytes: number | null; keep: (bytes: number | null) => void }) {
  const [typed, setTyped] = useState(bytes === null ? '' : String(bytes / 1e9));
  const done = () => {
    const next = Number(typed.replace(',', '.'));
    if (typed.trim() === '') {
      if (bytes !== null) keep(null);
    } else if (next > 0 && Math.round(next * 1e9) !== bytes) keep(Math.round(next * 1e9));
  };
  return (
    <label className="flex min-h-9 items-center gap-2">
      another system keeps the first
      <input
        inputMode="decimal"
        className="h-8 w-16 border-b-[1.5px] border-ink bg-transparent text-right font-value"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
        }}
        onBlur={done}
        onKeyDown={(event) => {
          if (event.key === 'Enter') done();
        }}
      />
      GB
    </label>
  );
}

function Planned({ layout }: { layout: Schema['LayoutSheet'] }) {
  const { sheet } = useMachine();
  const size = (p: Schema['LayoutPartition']) => bytesText(p.sizeLba * layout.sectorBytes);
  return (
    <>
      <Drive layout={layout} />
      <ol aria-label="Partitions" className="border-t-[1.5px] border-ink">
        {layout.partitions.map((p) => (
          <li
            key={p.number}
            className="grid grid-cols-[1.75rem_8.5rem_6rem_minmax(0,1fr)] items-baseline gap-x-3 border-b border-rule py-1"
          >
            <b className="font-name text-xl">{p.number}</b>
            <b>{nameOf(p.use)}</b>
            <span className="text-right font-value">{size(p)}</span>
            <span className="text-sm text-quiet">
              {p.why}{' '}
              <span className="font-value text-xs whitespace-nowrap">
                from sector {p.startLba.toLocaleString('en-GB')}
              </span>
            </span>
          </li>
        ))}
      </ol>
      {(layout.notes.length > 0 || layout.findings.length > 0) && (
        <ul aria-label="What to know of it" className="pt-2">
          {[...layout.findings, ...layout.notes].map((note) => (
            <li key={note.text} className="flex items-center gap-3 py-0.5">
              <RungShape outcome={note.outcome} width={36} bar={7} />
              <span>{note.text}</span>
            </li>
          ))}
        </ul>
      )}
      {layout.untouched.length > 0 && (
        <p className="pt-2">
          <b>Stays as it is:</b> {layout.untouched.join('; ')}. Unplug it while this one is divided.
        </p>
      )}
      <div className="flex flex-wrap gap-x-6 pt-2">
        <Take name={`${sheet.tag}.sfdisk`} text={layout.sfdisk} says="The table, as sfdisk takes it" />
        <Take
          name={`${sheet.tag}-drive.sh`}
          text={layout.script}
          says="The script: table, file systems, mounts"
        />
      </div>
      <Drives />
      <Start />
      <details>
        <summary className="min-h-9 cursor-pointer content-center">Read the script before it is run</summary>
        <pre
          tabIndex={0}
          aria-label="The script"
          className="max-h-80 overflow-auto border-l-2 border-ink bg-sheet px-3 py-2 font-value text-[12.5px] whitespace-pre-wrap"
        >
          {layout.script}
        </pre>
      </details>
    </>
  );
}

/** A simulated drive is divided as it is planned, and started in the twin: does the firmware find the boot files? */
function Start() {
  const { sheet } = useMachine();
  const [who] = useWho();
  const [job, setJob] = useState<number | null>(null);
  const start = useWrite(async () => {
    const begun = await take(
      api.POST('/api/machines/{tag}/layout/drive', {
        params: { path: { tag: sheet.tag } },
        body: { by: who || nobody, firmware: null },
      }),
    );
    setJob(begun.id);
  });
  return (
    <div className="mt-2 border-t border-rule pt-2">
      <p className="flex flex-wrap items-center gap-4">
        <button
          type="button"
          disabled={start.isPending}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
          onClick={() => {
            start.mutate(undefined);
          }}
        >
          Start it in the twin
        </button>
        <span className="text-sm text-quiet">
          A simulated drive is divided like this, and a small loader is read from where the boot files go. It
          installs nothing.
        </span>
      </p>
      {start.error && <Failed error={start.error} />}
      {job !== null && (
        <JobLine
          id={job}
          done={(seen) => (
            <>
              {seen.result?.screens?.at(-1) && (
                <img
                  src={seen.result.screens.at(-1)}
                  alt={`The twin’s screen: ${seen.says}`}
                  className="mt-1 w-full max-w-md border-[1.5px] border-ink"
                />
              )}
              {seen.state === 'done' && (
                <a
                  className="flex min-h-10 items-center underline underline-offset-4"
                  href={`/api/machines/${sheet.tag}/layout/drive`}
                  download
                >
                  Download the drive, packed
                </a>
              )}
            </>
          )}
        />
      )}
    </div>
  );
}

const Take = ({ name, text, says }: { name: string; text: string; says: string }) => (
  <a
    className="flex min-h-9 items-center font-semibold underline underline-offset-4"
    href={`data:text/plain;charset=utf-8,${encodeURIComponent(text)}`}
    download={name}
  >
    {says}
  </a>
);
