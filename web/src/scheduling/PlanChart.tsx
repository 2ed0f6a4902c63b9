import { useState } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../api/client';
import { clockTime, dayInWords, dayOf } from '../shell/time';
import { along, type Stretch, stretches } from './axis';

type Plan = Schema['PlanSheet'];

/** Something that lies in a row: hands on a machine, a machine that waits, a thing that a machine has. */
interface Piece {
  key: string;
  tag: string;
  start: string;
  end: string;
  says: string;
  kind: 'hands' | 'wait' | 'thing';
  inHand?: boolean;
  moved?: boolean;
}

interface Row {
  name: string;
  pieces: Piece[];
}

const thing: Record<Schema['BenchResource'], string> = {
  bay: 'Bay',
  stick: 'Stick',
  drop: 'Drop',
  programmer: 'Programmer',
};

const kinds = Object.keys(thing) as Schema['BenchResource'][];

const ways = {
  person: 'By person',
  thing: 'By bay, stick and drop',
  machine: 'By machine',
} as const;

/** Who does what when, along the hours in which the shop is open. */
export function PlanChart({ plan }: { plan: Plan }) {
  const [way, setWay] = useState<keyof typeof ways>('person');
  const [at, setAt] = useState<Piece | null>(null);
  const open = stretches(plan.tasks.filter((t) => t.hands));
  const rows = { person: byPerson, thing: byThing, machine: byMachine }[way](plan);
  return (
    <section aria-label="Who does what when" className="pt-5">
      <div className="flex flex-wrap items-baseline gap-x-6 border-b-[1.5px] border-ink">
        <h2 className="caption">Who does what when</h2>
        <div role="group" aria-label="Rows" className="ml-auto flex gap-5">
          {(Object.keys(ways) as (keyof typeof ways)[]).map((w) => (
            <button
              key={w}
              type="button"
              aria-pressed={w === way}
              className={`min-h-9 ${w === way ? 'font-bold' : 'text-quiet hover:text-ink'}`}
              onClick={() => {
                setWay(w);
              }}
            >
              {ways[w]}
            </button>
          ))}
        </div>
      </div>
      <p className="min-h-11 py-1" aria-live="polite">
        {at ? (
          <>
            <b className="font-value">{at.tag}</b> {spanText(at)}{' '}
            <span className="text-quiet">{at.says}</span>
          </>
        ) : (
          <span className="text-quiet">
            Filled: hands. Dotted: it waits by itself. Point at a piece, or step to it, to read it.
          </span>
        )}
      </p>
      <div className="grid grid-cols-[112px_minmax(0,1fr)]">
        <span />
        <Days open={open} />
        {rows.map((row) => (
          <Lane key={row.name} row={row} open={open} slim={way === 'machine'} point={setAt} />
        ))}
      </div>
    </section>
  );
}

/** The days, and the hours within them. */
function Days({ open }: { open: Stretch[] }) {
  return (
    <div className="relative h-9" aria-hidden="true">
      {open.map((s) => {
        const left = along(s.from, open);
        const hours = Math.round((s.to - s.from) / 3_600_000);
        return (
          <div
            key={s.from}
            className="absolute inset-y-0 border-l-[1.5px] border-ink pl-1"
            style={{ left: `${left * 100}%`, width: `${(along(s.to, open) - left) * 100}%` }}
          >
            <span className="block truncate text-sm font-semibold">{dayName(s.from)}</span>
            {Array.from({ length: hours }, (_, h) => h)
              .filter((h) => h > 0 && (hours <= 9 ? true : h % 2 === 0))
              .map((h) => (
                <span
                  key={h}
                  className="absolute bottom-0 hidden -translate-x-1/2 text-[11px] text-quiet min-[1100px]:inline"
                  style={{ left: `${(h / hours) * 100}%` }}
                >
                  {open.length <= 4
                    ? Number(clockTime(new Date(s.from + h * 3_600_000).toISOString()).slice(0, 2))
                    : ''}
                </span>
              ))}
          </div>
        );
      })}
    </div>
  );
}

function Lane({
  row,
  open,
  slim,
  point,
}: {
  row: Row;
  open: Stretch[];
  slim: boolean;
  point: (piece: Piece) => void;
}) {
  return (
    <>
      <span
        className={`flex items-center border-t border-rule pr-2 ${slim ? 'font-value text-sm' : 'font-semibold'}`}
      >
        {row.name}
      </span>
      <ul aria-label={row.name} className={`relative border-t border-rule ${slim ? 'h-7' : 'h-11'}`}>
        {open.slice(1).map((s) => (
          <li
            key={s.from}
            aria-hidden="true"
            className="absolute inset-y-0 w-px bg-quiet"
            style={{ left: `${along(s.from, open) * 100}%` }}
          />
        ))}
        {row.pieces.map((piece) => {
          const left = along(Date.parse(piece.start), open);
          const width = along(Date.parse(piece.end), open) - left;
          if (width <= 0) return null;
          return (
            <li
              key={piece.key}
              className="absolute inset-y-[3px]"
              style={{ left: `${left * 100}%`, width: `${width * 100}%` }}
            >
              <Link
                to={`/machines/${piece.tag}/run`}
                aria-label={`${piece.tag}, ${spanText(piece)}: ${piece.says}`}
                data-piece={piece.kind}
                className={`flex h-full min-w-[3px] items-center overflow-hidden rounded-plate px-0.5 font-value text-[11px] leading-none ${looks(piece)}`}
                onMouseEnter={() => {
                  point(piece);
                }}
                onFocus={() => {
                  point(piece);
                }}
              >
                {width * 1050 > 25 && piece.kind !== 'wait' && !slim && (
                  <span className="mx-auto tracking-tight">{piece.tag.split('-').at(-1)}</span>
                )}
                {piece.moved && <span className="ml-auto font-bold">‹›</span>}
              </Link>
            </li>
          );
        })}
      </ul>
    </>
  );
}

const looks = (piece: Piece) =>
  piece.kind === 'wait'
    ? 'border-y-2 border-dotted border-quiet'
    : piece.kind === 'thing'
      ? 'border-[1.5px] border-ink bg-sheet'
      : piece.inHand
        ? 'border-[1.5px] border-ink bg-ink text-ground'
        : 'border-[1.5px] border-ink bg-rule';

const spanText = (piece: { start: string; end: string }) =>
  `${dayName(Date.parse(piece.start))} ${clockTime(piece.start)}–${dayOf(piece.start) === dayOf(piece.end) ? '' : `${dayName(Date.parse(piece.end))} `}${clockTime(piece.end)}`;

/** "Thu 3 Dec", of the workshop's own clock. */
export const dayName = (at: number) =>
  dayInWords(dayOf(new Date(at).toISOString()), { weekday: 'short', day: 'numeric', month: 'short' });

const pieceOf = (task: Schema['PlanTask']): Piece => ({
  key: task.id,
  tag: task.tag,
  start: task.start,
  end: task.end,
  says: `${task.says}${task.resources.length > 0 ? ` (${task.resources.join(', ')})` : ''}`,
  kind: task.hands ? 'hands' : 'wait',
  inHand: task.inHand,
  moved: task.moved,
});

const byPerson = (plan: Plan): Row[] =>
  plan.people.map((p) => ({
    name: p.name,
    pieces: plan.tasks.filter((t) => t.person === p.name).map(pieceOf),
  }));

const byMachine = (plan: Plan): Row[] =>
  [...new Set(plan.tasks.map((t) => t.tag))].map((tag) => ({
    name: tag,
    pieces: plan.tasks.filter((t) => t.tag === tag).map(pieceOf),
  }));

const byThing = (plan: Plan): Row[] =>
  [
    ...new Set(
      plan.units
        .toSorted((a, b) => kinds.indexOf(a.what) - kinds.indexOf(b.what) || a.number - b.number)
        .map((u) => `${u.what} ${u.number}`),
    ),
  ]
    .map((name) => plan.units.filter((u) => `${u.what} ${u.number}` === name))
    .map((units) => ({
      name: units[0] ? `${thing[units[0].what]} ${units[0].number}` : '',
      pieces: units.map((u, i) => ({
        key: `${u.tag}-${i}`,
        tag: u.tag,
        start: u.start,
        end: u.end,
        says: `has ${thing[u.what].toLowerCase()} ${u.number}`,
        kind: 'thing' as const,
      })),
    }));
