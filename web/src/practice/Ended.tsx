import { useEffect, useRef } from 'react';
import type { Schema } from '../api/client';

/** What is said at the end: how it came out, on what it turned, and what a better next check would have been. */
export function Ended({ told }: { told: Schema['Debriefing'] }) {
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    heading.current?.focus({ preventScroll: true });
  }, []);
  return (
    <section aria-label="Debriefing">
      <h1
        ref={heading}
        tabIndex={-1}
        data-loud
        className="pt-2 font-name text-[44px] leading-none font-bold outline-none"
      >
        {told.endedWell ? 'A good end.' : <span className="text-wall">A bad end.</span>} {told.score.total} of
        100
      </h1>
      <dl className="mt-3 grid grid-cols-3 gap-x-6 border-y border-rule py-2">
        <Mark name="safety" value={told.score.safety} half />
        <Mark name="time" value={told.score.time} />
        <Mark name="checks" value={told.score.checks} />
      </dl>
      <h2 className="caption pt-3">It turned on this</h2>
      <p className="border-l-4 border-ink pl-3 text-xl">{told.decisive}</p>
      {told.betterCheck && (
        <>
          <h2 className="caption pt-3">A better look</h2>
          <p className="text-lg">{told.betterCheck}</p>
        </>
      )}
      <h2 className="caption pt-3">What was wrong with it</h2>
      <p className="text-lg">
        {told.fault ? `${told.fault}.` : 'No hidden fault: what counted was decided by you.'}
      </p>
      <h2 className="caption pt-3">To keep</h2>
      <p className="text-lg">{told.teaches}</p>
      <p className="pt-3 text-quiet">
        Without a mistake it takes {told.bestMinutes} min. Safety counts half, time and checks a quarter each;
        a bad end counts 30 at most.
      </p>
    </section>
  );
}

function Mark({ name, value, half = false }: { name: string; value: number; half?: boolean }) {
  return (
    <div>
      <dt className="caption">
        {name}
        {half && ', counts twice'}
      </dt>
      <dd className="font-name text-[36px] leading-none font-bold tabular-nums">{value}</dd>
      <dd aria-hidden className="mt-1 h-2 border border-ink">
        <span className="block h-full bg-ink" style={{ width: `${value}%` }} />
      </dd>
    </div>
  );
}
