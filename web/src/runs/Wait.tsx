import type { Schema } from '../api/client';
import { clockTime } from '../shell/time';
import { countdown, useNow } from './clock';
import type { Run } from './run';

/** The wait in numerals that are read across the room, and a bar that fills towards the time to worry. */
export function Wait({ run, step }: { run: Run; step: Schema['Step'] }) {
  const now = useNow();
  const { waiting } = run.state;
  if (!waiting)
    return (
      <p className="pt-3 text-lg">
        About {step.usualMinutes} min; not sensible before {step.shortestMinutes}, worry after{' '}
        {step.worryMinutes}. Other machines can be worked on meanwhile.
      </p>
    );
  const begun = Date.parse(waiting.begunAt);
  const worry = Date.parse(waiting.worryAt);
  const share = (at: number) => `${Math.min(100, Math.max(0, ((at - begun) / (worry - begun)) * 100))}%`;
  const late = now > worry;
  return (
    <div className="pt-3">
      <p
        className="font-name text-[96px] leading-none font-bold"
        data-loud
        role="timer"
        aria-label="Left of the usual time"
      >
        {countdown(waiting.usualAt, now)}
      </p>
      <div className="relative mt-3 h-4 border-[1.5px] border-ink" aria-hidden="true">
        <div className="h-full bg-ink" style={{ width: share(now) }} />
        <div
          className="absolute inset-y-0 w-0.5 bg-quiet"
          style={{ left: share(Date.parse(waiting.usualAt)) }}
        />
      </div>
      <p className={late ? 'font-semibold text-wall' : 'text-quiet'}>
        {late
          ? 'Longer than it should take: look at the screen, then say “It stopped”.'
          : `usual ${step.usualMinutes} min · worry after ${step.worryMinutes} min, at ${clockTime(waiting.worryAt)}`}
      </p>
    </div>
  );
}
