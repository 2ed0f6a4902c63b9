import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useRef, useState } from 'react';
import type { Schema } from '../api/client';
import { layoutCheck, useEnterFact } from '../api/queries';
import { bytesText } from '../images/words';
import { RungShape } from '../ladder/RungShape';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Drive, width } from './Drive';
import { fixed, mebi, moveEnd, type Partition, range, usableEnd, without } from './borders';
import { nameOf } from './words';

/** The drive by hand: borders are dragged, moved by keys or typed, and the same rules are asked all the while. */
export function Editor({
  tag,
  layout,
  done,
}: {
  tag: string;
  layout: Schema['LayoutSheet'];
  done: () => void;
}) {
  const [past, setPast] = useState<readonly (readonly Partition[])[]>([]);
  const [parts, setParts] = useState<readonly Partition[]>(layout.partitions);
  const keep = useEnterFact(tag);
  const [who] = useWho();
  const usable = usableEnd(layout);
  const settled = useDeferredValue(parts);
  const { data } = useQuery(layoutCheck(layout, settled));
  const walls = data?.findings.filter((f) => f.outcome === 'wall') ?? [];
  /** One undo for each drag or key, not for each place that a drag came through. */
  const begin = () => {
    setPast((old) => [...old.slice(-99), parts]);
  };
  const move = (number: number, to: number) => {
    setParts((old) => moveEnd(old, number, to, layout.sectorBytes, usable));
  };
  const undo = () => {
    const last = past[past.length - 1];
    if (!last) return;
    setParts(last);
    setPast(past.slice(0, -1));
  };
  const flat = parts.filter((p) => p.use !== 'extended');
  return (
    <section
      aria-label="Draw it by hand"
      onKeyDown={(event) => {
        if ((event.ctrlKey || event.metaKey) && event.key === 'z') {
          event.preventDefault();
          undo();
        }
      }}
    >
      <Drive layout={{ ...layout, partitions: [...parts] }}>
        {flat
          .filter((p) => !fixed(p))
          .map((p) => (
            <Border
              key={p.number}
              part={p}
              layout={layout}
              bounds={range(parts, p, layout.sectorBytes, usable)}
              begin={begin}
              move={(to) => {
                move(p.number, to);
              }}
            />
          ))}
      </Drive>
      <p className="text-sm text-quiet">
        Drag a border, or go to it with Tab: arrows move it by 1 MiB, with Shift by 1 GiB, Page keys by 10
        GiB. Ctrl Z takes it back.
      </p>
      <ol aria-label="Sizes" className="border-t-[1.5px] border-ink">
        {flat.map((p) => (
          <li key={p.number} className="flex flex-wrap items-center gap-x-3 border-b border-rule py-0.5">
            <b className="w-7 font-name text-xl">{p.number}</b>
            <b className="w-28">{nameOf(p.use)}</b>
            <Size
              key={p.sizeLba}
              part={p}
              layout={layout}
              set={(to) => {
                begin();
                move(p.number, to);
              }}
            />
            {!fixed(p) && (
              <button
                type="button"
                className="ml-auto min-h-9 px-2 text-sm underline underline-offset-4"
                onClick={() => {
                  begin();
                  setParts(without(parts, p.number));
                }}
              >
                Take {p.number} out
              </button>
            )}
          </li>
        ))}
      </ol>
      <ul aria-label="What the rules say" aria-live="polite" className="pt-1">
        {data?.findings.map((f) => (
          <li key={f.text} className="flex items-center gap-3 py-0.5">
            <RungShape outcome={f.outcome} width={36} bar={7} />
            {f.text}
          </li>
        ))}
        {data?.findings.length === 0 && <li className="text-quiet">Nothing speaks against it.</li>}
      </ul>
      <p className="flex flex-wrap items-center gap-4 py-2">
        <button
          type="button"
          disabled={!data?.own || walls.length > 0 || keep.isPending || settled !== parts}
          className="min-h-11 bg-ink px-5 font-semibold text-ground disabled:opacity-50"
          onClick={() => {
            keep.mutate(
              { key: 'layout.own', value: data?.own, source: 'drawn on the page', by: who || nobody },
              { onSuccess: done },
            );
          }}
        >
          Keep this layout
        </button>
        <button
          type="button"
          disabled={past.length === 0}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold disabled:opacity-50"
          onClick={undo}
        >
          Undo
        </button>
        <button type="button" className="min-h-11 underline underline-offset-4" onClick={done}>
          Leave it as it was
        </button>
      </p>
      {keep.error && <Failed error={keep.error} />}
    </section>
  );
}

/** The end of a partition: a slider for hand and keyboard. */
function Border({
  part,
  layout,
  bounds,
  begin,
  move,
}: {
  part: Partition;
  layout: Schema['LayoutSheet'];
  bounds: { least: number; most: number };
  begin: () => void;
  move: (to: number) => void;
}) {
  const held = useRef(false);
  const step = mebi(layout.sectorBytes);
  const end = part.startLba + part.sizeLba;
  const x = (end / layout.sectors) * width;
  const to = (event: React.PointerEvent<SVGElement>) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (box) move(((event.clientX - box.left) / box.width) * layout.sectors);
  };
  const keys: Record<string, number> = {
    ArrowRight: 1,
    ArrowUp: 1,
    ArrowLeft: -1,
    ArrowDown: -1,
    PageUp: 10_240,
    PageDown: -10_240,
  };
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={`End of ${part.number} ${nameOf(part.use)}`}
      aria-valuemin={Math.round(bounds.least / step)}
      aria-valuemax={Math.round(bounds.most / step)}
      aria-valuenow={Math.round(end / step)}
      aria-valuetext={bytesText(part.sizeLba * layout.sectorBytes)}
      className="cursor-ew-resize touch-none outline-none [&:focus-visible>rect]:fill-wall"
      onKeyDown={(event) => {
        const by =
          event.key === 'Home'
            ? bounds.least - end
            : event.key === 'End'
              ? bounds.most - end
              : (keys[event.key] ?? 0) * step * (event.shiftKey ? 1024 : 1);
        if (by === 0) return;
        event.preventDefault();
        begin();
        move(end + by);
      }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        held.current = true;
        begin();
      }}
      onPointerMove={(event) => {
        if (held.current) to(event);
      }}
      onPointerUp={() => {
        held.current = false;
      }}
    >
      <rect x={x - 12} y={12} width={24} height={76} className="fill-transparent" fillOpacity={0.15} />
      <line x1={x} x2={x} y1={12} y2={88} className="stroke-ink" strokeWidth={3} />
      <path d={`M${x - 7} 50 l-6 -6 v12 z M${x + 7} 50 l6 -6 v12 z`} className="fill-ink" />
    </g>
  );
}

/** A size as it is typed, in GiB. */
function Size({
  part,
  layout,
  set,
}: {
  part: Partition;
  layout: Schema['LayoutSheet'];
  set: (end: number) => void;
}) {
  const gib = (part.sizeLba * layout.sectorBytes) / 2 ** 30;
  const [typed, setTyped] = useState(String(Math.round(gib * 1000) / 1000));
  const take = () => {
    const next = Number(typed.replace(',', '.'));
    if (next > 0 && Math.abs(next - gib) > 0.0005)
      set(part.startLba + Math.round((next * 2 ** 30) / layout.sectorBytes));
    else setTyped(String(Math.round(gib * 1000) / 1000));
  };
  return (
    <label className="flex items-center gap-1">
      <input
        aria-label={`Size of ${part.number} ${nameOf(part.use)} in GiB`}
        inputMode="decimal"
        disabled={fixed(part)}
        className="h-9 w-24 border-b-[1.5px] border-ink bg-transparent text-right font-value disabled:border-rule"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
        }}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') take();
        }}
      />
      GiB
    </label>
  );
}
