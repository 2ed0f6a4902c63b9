import { RungShape } from './RungShape';
import type { Outcome } from './outcomes';

interface Props {
  /** Bottom first. */
  outcomes: readonly Outcome[];
  width: number;
  /** Height of a rung's place, px. */
  step: number;
  bar?: number;
  /** A place where nothing stands yet: rails only, dashed. */
  empty?: boolean;
  /** Thinner rails for ladders that stand in a row. */
  light?: boolean;
}

/** A ladder to look at: rails and ten rungs. The words beside it are the page's. */
export function Ladder({ outcomes, width, step, bar = 8, empty = false, light = false }: Props) {
  return (
    <div className="relative" style={{ width, height: step * 10 }} aria-hidden="true">
      <Rails dashed={empty} light={light} />
      {outcomes.map((outcome, i) => (
        <div
          key={i}
          className="absolute flex items-center"
          style={{ bottom: i * step, height: step, left: light ? 2 : 4 }}
        >
          <RungShape outcome={outcome} width={width - (light ? 4 : 8)} bar={bar} />
        </div>
      ))}
    </div>
  );
}

export function Rails({ dashed = false, light = false }: { dashed?: boolean; light?: boolean }) {
  const rail = dashed
    ? 'border-l-2 border-dashed border-rule'
    : light
      ? 'border-l-2 border-rule'
      : 'border-l-3 border-ink';
  return (
    <>
      <div className={`absolute inset-y-0 left-0 ${rail}`} />
      <div className={`absolute inset-y-0 right-0 ${rail}`} />
    </>
  );
}
