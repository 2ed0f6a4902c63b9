import { useState } from 'react';
import type { Schema } from '../api/client';
import { chanceText } from '../rehearsal/words';

const risks: Record<Schema['CheckRisk'], string | null> = {
  none: null,
  restart: 'starts it again',
  opens: 'opens the casing',
  erases: 'erases something',
};

/** What to look at, and what may be seen. */
export function CheckToMake({
  check,
  busy,
  say,
  look,
  small = false,
}: {
  check: Schema['CheckSheet'];
  busy: boolean;
  /** Takes what was seen. */
  say?: (check: string, seen: string) => void;
  /** Makes the check, where the machine says itself what is seen. */
  look?: () => void;
  small?: boolean;
}) {
  const risk = risks[check.risk];
  return (
    <section
      aria-label={small ? check.text : 'Look at this next'}
      className={small ? 'border-t border-rule py-2' : ''}
    >
      {small ? (
        <p className="flex items-start gap-3 text-[16px] font-semibold">
          <span className="flex-1 pt-1.5">{check.text}</span>
          {look && (
            <button
              type="button"
              disabled={busy}
              aria-label={`Look: ${check.text}`}
              className="min-h-9 shrink-0 border-[1.5px] border-ink px-4 hover:bg-ink hover:text-ground"
              onClick={look}
            >
              Look
            </button>
          )}
        </p>
      ) : (
        <h2 className="font-name text-[32px] leading-[1.08] font-bold" data-loud>
          {check.text}
        </h2>
      )}
      {check.caution && <p className="border-l-4 border-wall pt-1 pl-3 font-semibold">{check.caution}</p>}
      <p className="text-quiet">
        About {check.minutes} min{risk && `, ${risk}`}.
      </p>
      <div className={say ? 'flex flex-wrap gap-2 pt-2' : 'hidden'}>
        {(say ? check.shows : []).map((s) => (
          <button
            key={s.id}
            type="button"
            disabled={busy}
            className={`border-[1.5px] border-ink px-4 text-left first-letter:uppercase hover:bg-ink hover:text-ground ${small ? 'min-h-9' : 'min-h-12 text-lg font-semibold'}`}
            onClick={() => {
              say?.(check.check, s.id);
            }}
          >
            {s.text}
          </button>
        ))}
      </div>
    </section>
  );
}

/** A cause: how likely, why, and what is done about it. */
export function Cause({
  cause,
  sure,
  act,
  blind = false,
  busy,
  mend,
}: {
  cause: Schema['CauseSheet'];
  sure: boolean;
  /** What the button says that takes it for the cause. */
  act: string;
  /** Whether its chance is kept to itself. */
  blind?: boolean;
  busy: boolean;
  mend: () => void;
}) {
  const [open, setOpen] = useState(false);
  const shown = sure || open;
  return (
    <li className="border-b border-rule py-1.5" data-cause={cause.cause}>
      <button
        type="button"
        aria-expanded={shown}
        className={`grid min-h-9 w-full items-center gap-x-3 text-left ${blind ? '' : 'grid-cols-[86px_84px_minmax(0,1fr)]'}`}
        onClick={() => {
          setOpen(!open);
        }}
      >
        {!blind && (
          <>
            <b className="text-right font-value text-[17px] tabular-nums">{chanceText(cause.chance)}</b>
            <span className="block h-3 border-[1.5px] border-ink" aria-hidden>
              <span className="block h-full bg-ink" style={{ width: `${cause.chance * 100}%` }} />
            </span>
          </>
        )}
        <span className={sure ? 'text-lg font-bold' : ''}>{cause.about}</span>
      </button>
      {shown && (
        <div className={blind ? '' : 'pl-[182px]'}>
          {cause.why.length > 0 && (
            <ul className="text-[14.5px] text-quiet">
              {cause.why.map((w) => (
                <li key={w}>{w}</li>
              ))}
            </ul>
          )}
          <p className="pt-1">
            <b>{cause.mend.ends ? 'The work ends here: ' : 'What mends it: '}</b>
            {cause.mend.text} <span className="text-quiet">About {cause.mend.minutes} min.</span>
          </p>
          {cause.mend.caution && (
            <p className="border-l-4 border-wall pl-3 font-semibold">{cause.mend.caution}</p>
          )}
          <button
            type="button"
            disabled={busy}
            className="mt-1 mb-1 min-h-11 border-[1.5px] border-ink px-4 font-semibold hover:bg-ink hover:text-ground"
            onClick={mend}
          >
            {act}
          </button>
        </div>
      )}
    </li>
  );
}
