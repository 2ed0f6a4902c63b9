import { RungShape } from '../ladder/RungShape';

/** Yes or no as a rung: whole, or broken; the word stands beside it. */
export function YesNo({ can }: { can: boolean | null }) {
  return (
    <span className="inline-flex items-center gap-1.5 text-sm">
      <RungShape outcome={can === null ? 'unknown' : can ? 'clear' : 'wall'} width={28} bar={7} />
      <span className={can ? '' : 'text-quiet'}>{can === null ? 'open' : can ? 'yes' : 'no'}</span>
    </span>
  );
}
