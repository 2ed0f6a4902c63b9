import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { fails, type Schema } from '../api/client';
import { allMachines, assessments, cheapest, matrix, openingParts } from '../api/queries';
import { RungShape } from '../ladder/RungShape';
import { inkOf, outcomes } from '../ladder/outcomes';
import { speaker } from '../dossiers/LadderColumn';
import { moneyText } from '../dossiers/facts';
import { Pick } from '../shell/Picked';
import { Failed, Loading } from '../shell/States';
import { counted } from '../pieces/counted';

/** Every machine against every system in glyphs: what goes, what it takes, and which part would open most. */
export function Fleet() {
  const { data, error } = useQuery(matrix);
  // The aim follows the best route, which nobody waits for here: its mark comes with the machines themselves.
  const standing = new Map(useQuery(allMachines).data?.map((m) => [m.tag, m]));
  const [search, setSearch] = useSearchParams();
  const [words, setWords] = useState(search.get('q') ?? '');
  const group = search.get('group') === 'maker' ? 'maker' : search.get('group') === 'none' ? 'none' : 'order';
  const only = outcomes.find((o) => o === search.get('only'));
  const cell = search.get('cell')?.split('/');
  const grid = useRef<HTMLTableElement>(null);
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const set = (name: string, value: string | null) => {
    setSearch(
      (old) => {
        const next = new URLSearchParams(old);
        if (value === null || value === '') next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  };
  const fits = (m: Schema['MatrixRow']) =>
    words
      .toLowerCase()
      .split(/\s+/)
      .every((w) => `${m.tag} ${m.maker} ${m.model} ${m.order}`.toLowerCase().includes(w)) &&
    (!only || m.outcomes.includes(only));
  const shown = data.machines.filter(fits);
  const groupOf = (m: Schema['MatrixRow']) =>
    group === 'order' ? (m.order ?? 'no order') : group === 'maker' ? (m.maker ?? 'maker unknown') : '';
  const groups = [...new Set(shown.map(groupOf))].sort();
  const rows = groups.flatMap((g) => shown.filter((m) => groupOf(m) === g));
  const ready = data.machines.filter((m) => m.outcomes.some((o) => o === 'clear' || o === 'caveat')).length;

  // Arrow keys walk through the cells; one of them is in the order of Tab.
  const walk = (event: React.KeyboardEvent<HTMLTableElement>) => {
    const steps: Record<string, [number, number]> = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
    };
    const step = steps[event.key];
    const at = (event.target as HTMLElement).dataset['at']?.split(',').map(Number);
    if (!step || !at) return;
    event.preventDefault();
    const [row = 0, column = 0] = at;
    grid.current?.querySelector<HTMLElement>(`[data-at="${row + step[0]},${column + step[1]}"]`)?.focus();
  };
  const inTab = cell
    ? `${rows.findIndex((m) => m.tag === cell[0])},${data.systems.findIndex((s) => s.id === cell[1])}`
    : '0,0';

  return (
    <div className="flex-1 pt-3">
      <h1 className="font-name text-[40px] leading-none font-bold" data-loud>
        {counted(data.machines.length, 'machine')}, {counted(data.systems.length, 'system')}: {ready} go as
        they are.
      </h1>
      <div className="flex flex-wrap items-end gap-x-5 gap-y-1 pt-1.5 pb-2">
        <label>
          <span className="caption block">Only those with</span>
          <input
            className="h-9 w-48 border-b-[1.5px] border-ink bg-transparent"
            placeholder="stile, seed, MR-04"
            value={words}
            onChange={(event) => {
              setWords(event.target.value);
              set('q', event.target.value);
            }}
          />
        </label>
        <label>
          <span className="caption block">and somewhere</span>
          <select
            className="h-9 border-b-[1.5px] border-ink bg-ground"
            value={only ?? ''}
            onChange={(event) => {
              set('only', event.target.value);
            }}
          >
            <option value="">any outcome</option>
            {outcomes.map((o) => (
              <option key={o}>{o}</option>
            ))}
          </select>
        </label>
        <label>
          <span className="caption block">grouped by</span>
          <select
            className="h-9 border-b-[1.5px] border-ink bg-ground"
            value={group}
            onChange={(event) => {
              set('group', event.target.value);
            }}
          >
            <option value="order">order</option>
            <option value="maker">maker</option>
            <option value="none">nothing</option>
          </select>
        </label>
        <span className="ml-auto flex gap-4">
          <Download type="text/csv" name="fresh-boot-matrix.csv" says="As a table" />
          <Download type="application/json" name="fresh-boot-matrix.json" says="As JSON" />
        </span>
      </div>
      <div className="grid grid-cols-1 gap-x-6 xl:grid-cols-[minmax(0,auto)_minmax(280px,1fr)]">
        <div className="overflow-x-auto">
          <table ref={grid} onKeyDown={walk} className="border-collapse">
            <caption className="sr-only">How each system stands on each machine</caption>
            <thead>
              <tr>
                <th scope="col" className="caption pb-1 text-left align-bottom">
                  Machine
                </th>
                {data.systems.map((s) => (
                  <th key={s.id} scope="col" className="h-[132px] px-[3px] pb-1 align-bottom font-normal">
                    <span className="inline-block text-[13px] leading-none whitespace-nowrap [writing-mode:sideways-lr]">
                      {s.name}
                    </span>
                  </th>
                ))}
              </tr>
            </thead>
            {groups.map((g) => (
              <tbody key={g}>
                {group !== 'none' && (
                  <tr>
                    <th
                      scope="rowgroup"
                      colSpan={data.systems.length + 1}
                      className="caption border-b-[1.5px] border-ink pt-1.5 text-left text-[12px]"
                    >
                      {g}
                    </th>
                  </tr>
                )}
                {rows
                  .filter((m) => groupOf(m) === g)
                  .map((m) => (
                    <tr key={m.tag} className="border-b border-rule hover:bg-sheet">
                      <th scope="row" className="pr-3 text-left font-normal whitespace-nowrap">
                        <Pick tag={m.tag} small />{' '}
                        <Link
                          to={`/machines/${m.tag}/systems`}
                          className="inline-flex min-h-[25px] items-center gap-2 hover:underline"
                        >
                          <b>{m.tag}</b>
                          <span className="inline-block max-w-[150px] truncate text-[13px] text-quiet">
                            {m.model ?? 'model not known'}
                          </span>
                        </Link>
                      </th>
                      {m.outcomes.map((outcome, i) => {
                        const system = data.systems[i];
                        const at = `${rows.indexOf(m)},${i}`;
                        const stands = standing.get(m.tag);
                        const isAim = system !== undefined && stands?.aim === system.id;
                        const word = stands?.run && !stands.run.finishedAt ? 'being installed' : 'its aim';
                        return (
                          <td key={system?.id} className="p-0">
                            <button
                              type="button"
                              data-at={at}
                              tabIndex={at === inTab ? 0 : -1}
                              aria-label={`${m.tag}, ${system?.name}: ${outcome}${isAim ? `, ${word}` : ''}`}
                              aria-pressed={cell?.[0] === m.tag && cell[1] === system?.id}
                              title={isAim ? word : undefined}
                              className={`flex h-[25px] w-[34px] items-center justify-center ${isAim ? 'border-b-[3px] border-double border-ink' : ''} ${cell?.[0] === m.tag && cell[1] === system?.id ? 'outline-2 outline-ink' : ''}`}
                              onClick={() => {
                                set('cell', `${m.tag}/${system?.id}`);
                              }}
                            >
                              <RungShape outcome={outcome} width={28} bar={5} faint={outcome === 'wall'} />
                            </button>
                          </td>
                        );
                      })}
                    </tr>
                  ))}
              </tbody>
            ))}
          </table>
          {shown.length === 0 && <p className="loud py-4 text-quiet">No machine fits.</p>}
        </div>
        <div>
          {cell?.[0] && cell[1] ? <Explained tag={cell[0]} system={cell[1]} /> : <Legend />}
          <Opening />
        </div>
      </div>
    </div>
  );
}

function Legend() {
  return (
    <section aria-label="Shapes">
      <p className="pb-1 text-quiet">Choose a cell to see why. Arrow keys walk.</p>
      <ul className="grid grid-cols-2 gap-x-4">
        {outcomes.map((o) => (
          <li key={o} className="flex items-center gap-2">
            <RungShape outcome={o} width={28} bar={5} />
            <b className={inkOf[o]}>{o}</b>
          </li>
        ))}
        <li className="flex items-center gap-2">
          <span className="w-7 border-b-[3px] border-double border-ink" />
          its aim, or what is being installed
        </li>
      </ul>
    </section>
  );
}

/** A cell in words: what is broken rung by rung, and the cheapest way. */
function Explained({ tag, system }: { tag: string; system: string }) {
  const all = useQuery(assessments(tag));
  const way = useQuery(cheapest(tag, system)).data;
  const known = useQuery(matrix).data;
  const assessment = all.data?.find((a) => a.system === system);
  const row = known?.machines.find((m) => m.tag === tag);
  if (all.error) return <Failed error={all.error} />;
  if (!assessment) return <Loading />;
  return (
    <section aria-label="The cell explained" className="border-l-[1.5px] border-ink pl-4">
      <h2 className="font-name text-[26px] leading-tight font-bold">
        {known?.systems.find((s) => s.id === system)?.name}
      </h2>
      <p>
        on <b>{tag}</b> {[row?.maker, row?.model].filter(Boolean).join(' ')}:{' '}
        <b className={inkOf[assessment.outcome]}>{assessment.outcome}</b>
      </p>
      <ol className="flex flex-col-reverse pt-1">
        {assessment.rungs.map((rung) => (
          <li key={rung.rung} className="flex items-start gap-2 border-t border-rule py-[3px]">
            <span className="pt-[3px]">
              <RungShape outcome={rung.outcome} width={34} bar={6} />
            </span>
            <span className="text-[13px] leading-snug">
              <b>{rung.rung}</b>{' '}
              {rung.outcome === 'clear' ? <span className="text-quiet">clear</span> : speaker(rung)?.text}
            </span>
          </li>
        ))}
      </ol>
      {way && (
        <p className="pt-1.5">
          {way.route ? (
            <>
              <b>Cheapest way</b>: {way.route.cures.map((c) => c.brief ?? c.does).join(', ') || 'as it is'},{' '}
              {moneyText(way.route.money)}, {way.route.handsOnMinutes} min.
            </>
          ) : (
            <b>No way.</b>
          )}
        </p>
      )}
      <Link
        className="flex min-h-9 items-center font-semibold underline underline-offset-4"
        to={`/machines/${tag}/routes?aim=${system}&panel=missing`}
      >
        Its routes, and why others are missing
      </Link>
    </section>
  );
}

/** Which part, bought five times, opens most. */
function Opening() {
  const { data } = useQuery(openingParts);
  if (!data || data.length === 0) return null;
  return (
    <section aria-labelledby="opening" className="pt-4">
      <h2 id="opening" className="caption border-b-[1.5px] border-ink text-[13px]">
        One kind of part to buy: what five of it open
      </h2>
      <ol>
        {data.slice(0, 6).map((part) => (
          <li key={part.part} className="border-b border-rule py-1 text-[14px] leading-snug">
            <b>{part.does}</b> ({moneyText(part.money)}): {counted(part.tags.length, 'machine')} with{' '}
            {counted(part.opens, 'system')} more that would be clear
            <span className="block text-[13px] text-quiet">{part.tags.join(', ')}</span>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Download({ type, name, says }: { type: string; name: string; says: string }) {
  return (
    <button
      type="button"
      className="min-h-9 underline underline-offset-4"
      onClick={() => {
        void fetch('/api/matrix', { headers: { Accept: type } })
          .then((answer) => answer.blob())
          .then((blob) => {
            const link = document.createElement('a');
            link.href = URL.createObjectURL(blob);
            link.download = name;
            link.click();
            URL.revokeObjectURL(link.href);
          });
      }}
    >
      {says}
    </button>
  );
}
