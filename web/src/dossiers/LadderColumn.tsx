import { useEffect, useRef, useState } from 'react';
import type { Schema } from '../api/client';
import { Rails } from '../ladder/Ladder';
import { RungShape } from '../ladder/RungShape';
import { inkOf } from '../ladder/outcomes';
import { pitch, rungs, type RungName } from '../ladder/rungs';

interface Props {
  aim: Schema['Assessment'];
  open: RungName | null;
  setOpen: (rung: RungName | null) => void;
  /** Rungs that a route mends, or that a run has climbed: they keep their shape and get a tick. */
  ticked: ReadonlySet<RungName>;
}

/** The finding that speaks for a rung: the worst, and of several the first. */
export const speaker = (rung: Schema['RungStanding']) =>
  rung.findings.find((f) => f.outcome === rung.outcome);

/**
 * The ladder of the aim: ten rungs that are climbed with the arrow keys and opened with Enter. They stand in the document
 * in climbing order, release first, and on the screen bottom up.
 */
export function LadderColumn({ aim, open, setOpen, ticked }: Props) {
  const buttons = useRef<(HTMLButtonElement | null)[]>([]);
  const lowest = aim.rungs.findIndex((r) => r.outcome !== 'clear' && r.outcome !== 'caveat');
  const [at, setAt] = useState(lowest < 0 ? 0 : lowest);
  const wasOpen = useRef(open);

  // Closing a rung puts the hand back on it.
  useEffect(() => {
    if (wasOpen.current && !open) {
      const index = rungs.findIndex((r) => r.name === wasOpen.current);
      buttons.current[index]?.focus();
    }
    wasOpen.current = open;
  }, [open]);

  const climb = (to: number) => {
    const next = Math.max(0, Math.min(9, to));
    setAt(next);
    buttons.current[next]?.focus();
  };

  const keys: Record<string, (i: number) => number> = {
    ArrowUp: (i) => i + 1,
    ArrowDown: (i) => i - 1,
    Home: () => 0,
    End: () => 9,
  };

  return (
    <div className="relative" style={{ height: pitch * 10 }} role="group" aria-label="Ladder, bottom first">
      {aim.rungs.map((rung, i) => {
        const finding = speaker(rung);
        return (
          <button
            key={rung.rung}
            ref={(element) => {
              buttons.current[i] = element;
            }}
            type="button"
            tabIndex={i === at ? 0 : -1}
            aria-expanded={open === rung.rung}
            aria-label={`${rung.rung}: ${rung.outcome}${ticked.has(rung.rung) ? ', mended' : ''}. ${finding?.text ?? nothingSays(rung.outcome)}`}
            data-rung={rung.rung}
            className={`absolute inset-x-0 flex items-center text-left ${open === rung.rung ? 'border-y border-ink bg-sheet' : 'hover:bg-sheet'}`}
            style={{ bottom: i * pitch, height: pitch }}
            onFocus={() => {
              setAt(i);
            }}
            onKeyDown={(event) => {
              const move = keys[event.key];
              if (!move) return;
              event.preventDefault();
              climb(move(i));
            }}
            onClick={() => {
              setOpen(open === rung.rung ? null : rung.rung);
            }}
          >
            <span
              className={`w-[96px] shrink-0 pr-0 text-right text-base ${open === rung.rung ? 'font-bold' : ''}`}
            >
              {rung.rung}
            </span>
            <span className="ml-[16px] shrink-0">
              <RungShape outcome={rung.outcome} width={128} bar={12} />
            </span>
            <span className="ml-5 min-w-0 flex-1 text-[13.5px] leading-[1.25]">
              <span className="line-clamp-2">
                {ticked.has(rung.rung) && <b className="text-clear">✓ </b>}
                <b className={inkOf[rung.outcome]}>{rung.outcome}</b>{' '}
                {finding?.text ?? nothingSays(rung.outcome)}
              </span>
            </span>
          </button>
        );
      })}
      {/* Above the rungs, so that an opened one does not cut them. */}
      <div className="absolute inset-y-0 left-[108px] w-[136px] pointer-events-none">
        <Rails />
      </div>
    </div>
  );
}

/** A rung without a finding: nothing is asked, or too little is known to ask. */
const nothingSays = (outcome: string) =>
  outcome === 'unknown' ? 'Open until more is measured.' : 'Nothing is asked here.';
