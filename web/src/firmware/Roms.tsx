import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, type Schema, take, fails } from '../api/client';
import { rom, romDifference, roms, formOf, useWrite } from '../api/queries';
import { bytesText } from '../images/words';
import { RungShape } from '../ladder/RungShape';
import { BringFile } from '../pieces/BringFile';
import { ShelfNav } from '../shell/ShelfNav';
import { Failed, Loading } from '../shell/States';
import { dayAndTime } from '../shell/time';
import { nobody, useWho } from '../shell/who';
import { RomMap } from './RomMap';

/** Images of firmware chips: what stands in each, as a map to scale, and where it differs from another. */
export function Roms() {
  const { data, error } = useQuery(roms);
  const [search, setSearch] = useSearchParams();
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const id = Number(search.get('rom') ?? data[0]?.id ?? 0);
  return (
    <div className="flex flex-1 flex-col">
      <ShelfNav />
      <div className="grid flex-1 grid-cols-1 gap-x-8 pt-3 lg:grid-cols-[280px_minmax(0,1fr)]">
        <div>
          <h1 className="font-name text-[40px] leading-none font-bold" data-loud>
            {data.length === 0
              ? 'No firmware yet.'
              : data.length === 1
                ? '1 image.'
                : `${data.length} images.`}
          </h1>
          <Bring
            done={(made) => {
              setSearch({ rom: String(made) }, { replace: true });
            }}
          />
          <ul aria-label="Firmware images" className="border-t-[1.5px] border-ink">
            {data.map((r) => (
              <li key={r.id} className="border-b border-rule">
                <button
                  type="button"
                  aria-pressed={r.id === id}
                  className={`block w-full px-2 py-1.5 text-left ${r.id === id ? 'bg-sheet outline-[1.5px] outline-ink' : 'hover:bg-sheet'}`}
                  onClick={() => {
                    setSearch({ rom: String(r.id) }, { replace: true });
                  }}
                >
                  <b className="block truncate">{r.name}</b>
                  <span className="text-sm text-quiet">
                    {bytesText(r.sizeBytes)} · {dayAndTime(r.at)}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </div>
        {id > 0 ? (
          <Read key={id} id={id} others={data.filter((r) => r.id !== id)} />
        ) : (
          <p className="loud pt-10 text-quiet">
            Bring what was read from a chip, or what shall be written to one.
          </p>
        )}
      </div>
    </div>
  );
}

function Bring({ done }: { done: (id: number) => void }) {
  const [who] = useWho();
  const [board, setBoard] = useState('');
  const bring = useWrite((file: File) =>
    take(
      api.POST(
        '/api/roms',
        formOf(
          { name: file.name, by: who || nobody, ...(board.trim() === '' ? {} : { board: board.trim() }) },
          [],
          { file },
        ),
      ),
    ),
  );
  return (
    <>
      <label className="block pt-3">
        <span className="caption block">Board it is for, where the image does not say</span>
        <input
          className="h-10 w-full border-b-[1.5px] border-ink bg-transparent font-value"
          value={board}
          onChange={(e) => {
            setBoard(e.target.value);
          }}
        />
      </label>
      <BringFile label="Bring an image of a chip" reading="Reading it…" bring={bring} done={done} />
    </>
  );
}

function Read({ id, others }: { id: number; others: readonly Schema['RomItem'][] }) {
  const { data, error } = useQuery(rom(id));
  const [against, setAgainst] = useState<number | null>(null);
  const difference = useQuery({ ...romDifference(id, against ?? 0), enabled: against !== null });
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const differences = against === null ? [] : (difference.data?.differences ?? []);
  return (
    <section aria-label={`Firmware ${data.name}`} className="min-w-0">
      <h2 className="loud" data-loud>
        {data.name}
      </h2>
      <p className="text-quiet">
        {bytesText(data.sizeBytes)} ·{' '}
        <span className="font-value text-xs break-all">SHA-256 {data.sha256}</span> ·{' '}
        <a className="text-ink underline underline-offset-4" href={`/api/roms/${id}/content`} download>
          Download it
        </a>
      </p>
      <p>
        <span className="caption mr-3">Board</span>
        {data.boardSays}
      </p>
      {data.findings.length > 0 && (
        <ul aria-label="What is odd" className="pt-1">
          {data.findings.map((finding) => (
            <li key={finding} className="flex items-center gap-3">
              <RungShape outcome="caveat" width={36} bar={7} />
              {finding}
            </li>
          ))}
        </ul>
      )}
      <RomMap rom={data} differences={differences} />
      {others.length > 0 && (
        <label className="flex items-center gap-2">
          <span className="text-quiet">Compare with</span>
          <select
            className="min-h-9 border-b-[1.5px] border-ink bg-ground"
            value={against ?? ''}
            onChange={(event) => {
              setAgainst(event.target.value === '' ? null : Number(event.target.value));
            }}
          >
            <option value="">nothing</option>
            {others.map((o) => (
              <option key={o.id} value={o.id}>
                {o.name}
              </option>
            ))}
          </select>
          {against !== null && difference.data && (
            <b role="status">
              {differences.length === 0
                ? 'Equal, byte for byte.'
                : `${differences.length} ${differences.length === 1 ? 'stretch differs' : 'stretches differ'}: ${differences
                    .slice(0, 4)
                    .map(
                      (d) =>
                        `${bytesText(d.length)} at 0x${d.offset.toString(16)}${d.region ? `, ${d.region}` : ''}`,
                    )
                    .join('; ')}`}
            </b>
          )}
        </label>
      )}
      <dl className="grid grid-cols-1 gap-x-8 pt-2 md:grid-cols-2">
        <div>
          <dt className="caption">How the processor begins</dt>
          <dd>{data.resetVector ?? 'nothing stands there'}</dd>
        </div>
        <div>
          <dt className="caption">Versions and dates in it</dt>
          <dd className="line-clamp-3 font-value text-xs">{data.strings.join(' · ') || 'none'}</dd>
        </div>
      </dl>
    </section>
  );
}
