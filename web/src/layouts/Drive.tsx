import type { Schema } from '../api/client';
import { bytesText } from '../images/words';
import { nameOf } from './words';

const height = 60;

/** Width of the drawing, in its own units. */
export const width = 720;

/** Each use has a pattern of its own besides its number: nothing here hangs on colour. */
const fill: Partial<Record<Schema['PartitionUse'], string>> = {
  efi: 'fill-reflash',
  biosBoot: 'fill-reflash',
  boot: 'fill-reflash',
  system: 'fill-clear',
  home: 'fill-part',
  data: 'fill-part',
  swap: 'fill-setting',
  recovery: 'fill-caveat',
  kept: 'fill-unknown',
};

/**
 * The drive to scale, with the firmware's reach as a line across it. What is too narrow to be seen at its scale is drawn as
 * a hair; its number stands in the list below.
 */
export function Drive({
  layout,
  children,
}: {
  layout: Schema['LayoutSheet'];
  /** What is drawn over it; its borders, where they can be moved. */
  children?: React.ReactNode;
}) {
  const all = layout.sectors * layout.sectorBytes;
  const at = (bytes: number) => (bytes / all) * width;
  const reach = layout.reach.bytes;
  const ends = reach < all ? at(reach) : null;
  const flat = layout.partitions.filter((p) => p.use !== 'extended');
  return (
    <figure className="pt-3 pb-2">
      <svg
        viewBox={`0 0 ${width} ${height + 36}`}
        className="w-full"
        role={children ? 'group' : 'img'}
        aria-label={`The drive to scale: ${flat.map((p) => `${p.number} ${nameOf(p.use)} ${bytesText(p.sizeLba * layout.sectorBytes)}`).join(', ')}${ends === null ? '' : `; the firmware reads ${bytesText(reach)}`}`}
      >
        <rect
          x={0.75}
          y={20}
          width={width - 1.5}
          height={height}
          className="fill-sheet stroke-ink"
          strokeWidth={1.5}
        />
        {flat.map((p) => {
          const x = at(p.startLba * layout.sectorBytes);
          const w = Math.max(1.5, at(p.sizeLba * layout.sectorBytes) - 1.5);
          return (
            <g key={p.number}>
              <rect x={x} y={21.5} width={w} height={height - 3} className={fill[p.use]} />
              {w > 26 && (
                <text x={x + 7} y={46} className="fill-ground font-name text-[20px] font-bold">
                  {p.number}
                </text>
              )}
              {w > 70 && (
                <text x={x + 7} y={70} className="fill-ground text-[14px]">
                  {nameOf(p.use)}
                </text>
              )}
            </g>
          );
        })}
        {ends !== null && (
          <g>
            <line
              x1={ends}
              x2={ends}
              y1={8}
              y2={height + 28}
              className="stroke-wall"
              strokeWidth={2.5}
              strokeDasharray="7 4"
            />
            <text
              x={ends < width / 2 ? ends + 6 : ends - 6}
              y={14}
              textAnchor={ends < width / 2 ? 'start' : 'end'}
              className="fill-wall text-[14px] font-semibold"
            >
              the firmware reads to here: {bytesText(reach)}
            </text>
          </g>
        )}
        {children}
        <text x={0} y={height + 34} className="fill-quiet text-[13px]">
          0
        </text>
        <text x={width} y={height + 34} textAnchor="end" className="fill-quiet text-[13px]">
          {bytesText(all)}
        </text>
      </svg>
      <figcaption className="text-sm text-quiet">
        <b className="text-ink">How far the firmware reads:</b> {layout.reach.from}
        {layout.reach.sure === 'unknown' && <b className="text-unknown"> (unknown)</b>}
        {layout.reach.sure === 'likely' && ' (likely)'}.
      </figcaption>
    </figure>
  );
}
