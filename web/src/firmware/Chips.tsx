import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, fails, Refusal, type Schema, take } from '../api/client';
import { chips, machine, roms, useWrite } from '../api/queries';
import { bytesText } from '../images/words';
import { JobLine } from '../jobs/JobLine';
import { ShelfNav } from '../shell/ShelfNav';
import { Failed, Loading } from '../shell/States';
import { dayAndTime } from '../shell/time';
import { nobody, useWho } from '../shell/who';

type Chip = Schema['ChipSheet'];

/** Chips are sold by powers of two. */
const chipText = (bytes: number) => (bytes % 2 ** 20 === 0 ? `${bytes / 2 ** 20} MiB` : bytesText(bytes));

/** Firmware chips on the bench: what has to hold before one is written, in its order, and the way back. */
export function Chips() {
  const { data, error } = useQuery(chips);
  const [search, setSearch] = useSearchParams();
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const tag = search.get('tag') ?? data[0]?.tag;
  const chip = data.find((c) => c.tag === tag);
  return (
    <div className="flex flex-1 flex-col">
      <ShelfNav />
      <div className="grid flex-1 grid-cols-1 gap-x-8 pt-3 lg:grid-cols-[250px_minmax(0,1fr)]">
        <div>
          <h1 className="font-name text-[40px] leading-none font-bold" data-loud>
            {data.length === 1 ? '1 chip.' : `${data.length} chips.`}
          </h1>
          <p className="py-2 text-sm text-quiet">
            Simulated chips: the order, the records and the bytes are real.
          </p>
          <ul aria-label="Chips" className="border-t-[1.5px] border-ink">
            {data.map((c) => (
              <li key={c.id} className="border-b border-rule">
                <button
                  type="button"
                  aria-pressed={c.tag === tag}
                  className={`block min-h-11 w-full px-2 py-1.5 text-left ${c.tag === tag ? 'bg-sheet outline-[1.5px] outline-ink' : 'hover:bg-sheet'}`}
                  onClick={() => {
                    setSearch(
                      (old) => {
                        const next = new URLSearchParams(old);
                        next.set('tag', c.tag);
                        return next;
                      },
                      { replace: true },
                    );
                  }}
                >
                  <b className={c.starts || c.state.content === 'unknown' ? '' : 'text-wall'}>{c.tag}</b>{' '}
                  <span className="text-sm text-quiet">
                    {chipText(c.sizeBytes)}
                    {c.starts ? '' : c.state.content === 'unknown' ? ' · unknown' : ' · does not start'}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </div>
        {chip ? (
          <Work key={chip.id} chip={chip} />
        ) : tag ? (
          <Bring key={tag} tag={tag} />
        ) : (
          <p className="loud pt-10 text-quiet">No chip is on the bench.</p>
        )}
      </div>
    </div>
  );
}

function Bring({ tag }: { tag: string }) {
  const [who] = useWho();
  const bring = useWrite(() =>
    take(api.POST('/api/chips', { body: { tag, by: who || nobody, faults: null } })),
  );
  return (
    <div className="pt-4">
      <p className="loud" data-loud>
        The chip of {tag} is not on the bench.
      </p>
      <button
        type="button"
        disabled={bring.isPending}
        className="mt-3 min-h-12 bg-ink px-6 text-lg font-semibold text-ground"
        onClick={() => {
          bring.mutate(undefined);
        }}
      >
        Put it on the bench
      </button>
      {bring.error && <Failed error={bring.error} />}
    </div>
  );
}

const look = 'min-h-10 border-[1.5px] border-ink px-4 font-semibold disabled:opacity-50';
const field = 'h-10 border-b-[1.5px] border-ink bg-transparent';

function Work({ chip }: { chip: Chip }) {
  const [who] = useWho();
  const by = who || nobody;
  const facts = useQuery(machine(chip.tag)).data?.facts ?? [];
  const word = (key: string) => facts.find((f) => f.key === key)?.value;
  const known = [word('identity.maker'), word('identity.model')].filter(Boolean).join(' ');
  const [job, setJob] = useState<number | null>(null);
  const [medium, setMedium] = useState('');
  const [tag, setTag] = useState('');
  const begin = useWrite(
    async ({
      verb,
      more = {},
    }: {
      verb: 'read' | 'backup' | 'write' | 'verify' | 'look' | 'restore';
      more?: object;
    }) => {
      const begun = await take(
        api.POST(`/api/chips/{id}/${verb}`, {
          params: { path: { id: chip.id } },
          body: { by, ...more } as Schema['ChipJob'],
        }),
      );
      setJob(begun.id);
      setTag('');
    },
  );
  const say = useWrite(
    (word: Omit<Schema['ChipWord'], 'by' | 'board' | 'revision' | 'reason'> & Partial<Schema['ChipWord']>) =>
      take(
        api.POST('/api/chips/{id}/confirm', {
          params: { path: { id: chip.id } },
          body: { ...word, by } as Schema['ChipWord'],
        }),
      ),
  );
  const { state } = chip;
  const broken = state.content === 'broken';
  const unknown = state.content === 'unknown';
  const wholeWay = chip.beforeWrite.every((c) => c.holds);
  const wayBack = chip.beforeRestore.every((c) => c.holds);
  const acts: Record<string, React.ReactNode> = {
    reads: (
      <button
        type="button"
        disabled={begin.isPending}
        className={look}
        onClick={() => {
          begin.mutate({ verb: 'read' });
        }}
      >
        {state.equalReads === 0 ? 'Read the chip' : 'Read it once more'}
      </button>
    ),
    backup: (
      <span className="flex flex-wrap items-end gap-3">
        <label>
          <span className="caption block">Medium that it goes onto</span>
          <input
            className={field}
            value={medium}
            onChange={(e) => {
              setMedium(e.target.value);
            }}
          />
        </label>
        <button
          type="button"
          disabled={begin.isPending || medium.trim() === '' || state.equalReads < 2}
          className={look}
          onClick={() => {
            begin.mutate({ verb: 'backup', more: { medium } });
          }}
        >
          Back it up
        </button>
      </span>
    ),
    board: <BoardWord say={say.mutate} busy={say.isPending} />,
    image: <Image chip={chip} by={by} />,
    power: (
      <span className="flex flex-wrap gap-3">
        {!state.dead && (
          <button
            type="button"
            disabled={say.isPending}
            className={look}
            onClick={() => {
              say.mutate({ what: 'mains' });
            }}
          >
            Mains is on
          </button>
        )}
        {broken && (
          <button
            type="button"
            disabled={say.isPending}
            className={look}
            onClick={() => {
              say.mutate({ what: 'programmer' });
            }}
          >
            Programmer is on, mains and battery off
          </button>
        )}
      </span>
    ),
  };
  // What is written already may be brought back: then the same is asked as of a chip that broke.
  const back = state.content !== 'maker';
  const checks = unknown && state.backupRom === null ? [] : back ? chip.beforeRestore : chip.beforeWrite;
  const first = checks.find((c) => !c.holds)?.id;
  return (
    <section aria-label={`Chip of ${chip.tag}`} className="min-w-0">
      <p className="caption">
        {chip.tag}
        {known !== '' && `, ${known}`} · {chipText(chip.sizeBytes)}
      </p>
      <h2 className={`font-name text-[32px] leading-[1.08] font-bold ${broken ? 'text-wall' : ''}`} data-loud>
        {chip.says}
      </h2>
      {chip.whyUnsupported && (
        <p role="alert" className="border-l-4 border-wall pl-3 text-lg">
          {chip.whyUnsupported}
        </p>
      )}
      {job !== null && <JobLine id={job} failed="" />}
      {(begin.error ?? say.error) && <Failed error={begin.error ?? say.error} />}
      {unknown && (
        <div className="mt-2 border-l-4 border-unknown pl-3">
          <p>
            It is read and compared with its backup and with every image on the shelf. Until then{' '}
            {state.backupRom === null ? 'nothing' : 'nothing but its backup'} is written to it.
          </p>
          <p className="flex flex-wrap items-end gap-3 py-2">
            <button
              type="button"
              disabled={begin.isPending}
              className={look}
              onClick={() => {
                begin.mutate({ verb: 'look' });
              }}
            >
              Look at the chip
            </button>
            {state.looked !== null && state.backupSha256 === null && (
              <NotWritten
                busy={say.isPending}
                say={(reason) => {
                  say.mutate({ what: 'maker', reason });
                }}
              />
            )}
          </p>
        </div>
      )}
      <ol aria-label={back ? 'Before the backup is written back' : 'Before it is written'} className="mt-2">
        {checks.map((c, i) => (
          <li
            key={c.id}
            data-check={c.id}
            data-holds={c.holds}
            className="grid grid-cols-[2rem_minmax(0,1fr)] gap-x-2 border-t border-rule py-1.5"
          >
            <b className={`font-name text-2xl leading-tight ${c.holds ? 'text-clear' : ''}`}>
              {c.holds ? '✓' : i + 1}
            </b>
            <div>
              <p className={c.holds ? 'text-quiet' : 'font-semibold'}>{c.says}</p>
              {!c.holds && <p className="text-sm text-quiet">{c.todo}</p>}
              {/* Only what is next is asked for; the rest says what it waits for. */}
              {c.id === first && <div className="pt-1.5">{acts[c.id]}</div>}
            </div>
          </li>
        ))}
      </ol>
      {!broken && !unknown && chip.protection && (
        <div className="border-t border-rule py-1.5">
          <p>
            <b>Write protection:</b> {chip.protection}
          </p>
          <p className="flex flex-wrap items-center gap-3 text-sm text-quiet">
            Adapter out and yourself discharged. Only the chip says whether it was the right one.
            <button
              type="button"
              disabled={say.isPending}
              className={`${look} text-ink`}
              onClick={() => {
                say.mutate({ what: 'protection' });
              }}
            >
              It is taken off
            </button>
          </p>
        </div>
      )}
      {(back ? wayBack : wholeWay) && (
        <form
          aria-label="Danger"
          className="border-y-2 border-wall py-2"
          onSubmit={(event) => {
            event.preventDefault();
          }}
        >
          <p className="border-l-4 border-wall pl-3">
            <b>Caution.</b> A chip that loses power while it is written is dead: leave adapter, lid and this
            page alone until it says that it was read back.
          </p>
          <label className="block pt-2">
            <span className="caption block">Scan or type the tag of the machine to go on</span>
            <input
              data-scan="field"
              autoComplete="off"
              spellCheck={false}
              className="h-12 w-64 border-b-[3px] border-ink bg-transparent font-value text-2xl uppercase"
              value={tag}
              onChange={(e) => {
                setTag(e.target.value);
              }}
            />
          </label>
          <p className="flex flex-wrap gap-3 pt-2">
            {!broken && state.content === 'maker' && (
              <button
                type="submit"
                disabled={begin.isPending || tag.trim() === ''}
                className="min-h-12 bg-ink px-6 text-lg font-semibold text-ground disabled:opacity-50"
                onClick={() => {
                  begin.mutate({ verb: 'write', more: { tag } });
                }}
              >
                Write the chip
              </button>
            )}
            {wayBack && (broken || unknown || state.content === 'replaced') && (
              <button
                type="submit"
                disabled={begin.isPending || tag.trim() === ''}
                className={`min-h-12 px-6 text-lg font-semibold disabled:opacity-50 ${broken ? 'bg-ink text-ground' : 'border-[1.5px] border-ink'}`}
                onClick={() => {
                  begin.mutate({ verb: 'restore', more: { tag } });
                }}
              >
                Write the backup back
              </button>
            )}
          </p>
        </form>
      )}
      <p className="flex flex-wrap gap-x-6 pt-1">
        {state.backupRom !== null && (
          <>
            <a
              className="flex min-h-10 items-center underline underline-offset-4"
              href={`/api/roms/${state.backupRom}/content`}
              download
            >
              Download the backup
            </a>
            <button
              type="button"
              disabled={begin.isPending}
              className="min-h-10 underline underline-offset-4"
              onClick={() => {
                begin.mutate({ verb: 'verify' });
              }}
            >
              Verify it once more
            </button>
          </>
        )}
      </p>
      {chip.log.length > 0 && (
        <ol aria-label="What happened to it" className="border-t-[1.5px] border-ink pt-1 text-sm">
          {chip.log.map((e, i) => (
            <li key={chip.log.length - i} className="flex flex-wrap gap-x-3">
              <span className="text-quiet">{dayAndTime(e.at)}</span>
              <span>{e.says}</span>
              {e.sha256 && <span className="font-value text-xs text-quiet">{e.sha256.slice(0, 12)}</span>}
              <span className="text-quiet">{e.by}</span>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

/** Nothing known explains what is on it: then only a person can say that nobody has written it. */
function NotWritten({ busy, say }: { busy: boolean; say: (reason: string) => void }) {
  const [reason, setReason] = useState('');
  return (
    <>
      <label>
        <span className="caption block">How you know that nobody has written it</span>
        <input
          className={`${field} w-80`}
          value={reason}
          onChange={(e) => {
            setReason(e.target.value);
          }}
        />
      </label>
      <button
        type="button"
        disabled={busy || reason.trim() === ''}
        className={look}
        onClick={() => {
          say(reason.trim());
        }}
      >
        It holds what its maker left on it
      </button>
    </>
  );
}

function BoardWord({
  say,
  busy,
}: {
  say: (word: { what: 'board'; board: string; revision: string }) => void;
  busy: boolean;
}) {
  const [board, setBoard] = useState('');
  const [revision, setRevision] = useState('');
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        say({ what: 'board', board, revision });
      }}
    >
      <label>
        <span className="caption block">Name on the board</span>
        <input
          className={`${field} font-value`}
          value={board}
          onChange={(e) => {
            setBoard(e.target.value);
          }}
        />
      </label>
      <label>
        <span className="caption block">Revision</span>
        <input
          className={`${field} w-20 font-value`}
          value={revision}
          onChange={(e) => {
            setRevision(e.target.value);
          }}
        />
      </label>
      <button disabled={busy || board.trim() === ''} className={look}>
        It says so
      </button>
    </form>
  );
}

function Image({ chip, by }: { chip: Chip; by: string }) {
  const [who] = useWho();
  const all = useQuery(roms).data ?? [];
  const [id, setId] = useState('');
  const [reason, setReason] = useState('');
  const choose = useWrite(() =>
    take(
      api.POST('/api/chips/{id}/image', {
        params: { path: { id: chip.id } },
        body: { romId: Number(id), by, reason: reason.trim() || null },
      }),
    ),
  );
  return (
    <>
      <span className="flex flex-wrap items-end gap-3">
        <label>
          <span className="caption block">Image to write</span>
          <select
            className="h-10 border-b-[1.5px] border-ink bg-ground"
            value={id}
            onChange={(e) => {
              setId(e.target.value);
              setReason('');
              choose.reset();
            }}
          >
            <option value="">choose</option>
            {all
              .filter((r) => r.id !== chip.state.backupRom)
              .map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name} ({chipText(r.sizeBytes)})
                </option>
              ))}
          </select>
        </label>
        <button
          type="button"
          disabled={choose.isPending || id === ''}
          className={look}
          onClick={() => {
            choose.mutate(undefined);
          }}
        >
          Check it
        </button>
      </span>
      {choose.error && <Failed error={choose.error} />}
      {/* Asked only where the server cannot tell for which board the image is. */}
      {choose.error instanceof Refusal && ['reason', 'by'].includes(choose.error.where) && (
        <label className="block pt-2">
          <span className="caption block">
            Why {who === '' ? 'a named person takes' : `${who} takes`} it without knowing its board
          </span>
          <input
            className={`${field} w-full max-w-xl`}
            value={reason}
            onChange={(e) => {
              setReason(e.target.value);
            }}
          />
        </label>
      )}
    </>
  );
}
