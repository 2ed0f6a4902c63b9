import type { Schema } from '../api/client';
import { bytesText } from '../images/words';

const width = 900;

interface Row {
  at: number;
  length: number;
  name: string;
  more: string;
  sound: boolean;
}

/** The image to scale, from its first byte to its last: regions above, how full each 4 KiB are below, differences as marks. */
export function RomMap({
  rom,
  differences,
}: {
  rom: Schema['RomSheet'];
  differences: readonly Schema['RomDifference'][];
}) {
  const x = (byte: number) => (byte / rom.sizeBytes) * width;
  const rows: Row[] = [
    ...rom.volumes.map((v) => ({
      at: v.offset,
      length: v.length,
      name: v.fileSystem ?? 'volume',
      more: `${v.files.length} ${v.files.length === 1 ? 'file' : 'files'}${v.checksumOk ? '' : ', its checksum is wrong'}`,
      sound: v.checksumOk,
    })),
    ...(rom.flashMap?.areas ?? []).map((a) => ({
      at: a.offset,
      length: a.length,
      name: a.name,
      more: 'area of the flash map',
      sound: true,
    })),
    ...rom.optionRoms.map((o) => ({
      at: o.offset,
      length: o.length,
      name: `option ROM ${o.vendor.toString(16)}:${o.device.toString(16)}`,
      more: o.checksumOk === null ? 'for EFI' : o.checksumOk ? '' : 'its checksum is wrong',
      sound: o.checksumOk !== false,
    })),
  ];
  // As many marks as can be told apart: of each stretch the fullest block speaks.
  const step = Math.max(1, Math.ceil(rom.entropy.length / width));
  const bars = Array.from({ length: Math.ceil(rom.entropy.length / step) }, (_, i) =>
    Math.max(...rom.entropy.slice(i * step, (i + 1) * step)),
  );
  return (
    <figure className="py-2">
      <svg
        viewBox={`0 0 ${width} 108`}
        className="w-full"
        role="img"
        aria-label={`Map to scale: ${rows.map((r) => `${r.name} at 0x${r.at.toString(16)}, ${bytesText(r.length)}`).join('; ') || 'no region is known'}`}
      >
        <rect x={0.5} y={2} width={width - 1} height={36} className="fill-sheet stroke-ink" />
        {rom.volumes.map((v) => (
          <rect
            key={v.offset}
            x={x(v.offset)}
            y={3}
            width={Math.max(1.5, x(v.length) - 1)}
            height={34}
            className={v.checksumOk ? 'fill-reflash' : 'fill-wall'}
          />
        ))}
        {(rom.flashMap?.areas ?? []).map((a) => (
          <rect
            key={`${a.name} ${a.offset}`}
            x={x(a.offset)}
            y={22}
            width={Math.max(1.5, x(a.length) - 1)}
            height={15}
            className="fill-part"
          />
        ))}
        {bars.map((bits, i) => (
          <rect
            key={i}
            x={(i / bars.length) * width}
            y={92 - bits * 6}
            width={width / bars.length + 0.3}
            height={bits * 6}
            className="fill-quiet"
          />
        ))}
        <line x1={0} x2={width} y1={92} y2={92} className="stroke-ink" />
        {differences.map((d) => (
          <rect
            key={d.offset}
            x={x(d.offset)}
            y={0}
            width={Math.max(2.5, x(d.length))}
            height={94}
            className="fill-none stroke-wall"
            strokeWidth={2}
          />
        ))}
        <text x={0} y={106} className="fill-quiet text-[12px]">
          0, how full each 4 KiB are
        </text>
        <text x={width} y={106} textAnchor="end" className="fill-quiet text-[12px]">
          {bytesText(rom.sizeBytes)}
        </text>
      </svg>
      <ol aria-label="Regions" className="border-t border-ink">
        {rows.map((r) => (
          <li
            key={`${r.at} ${r.name}`}
            className="grid grid-cols-[7rem_6rem_minmax(0,1fr)] items-baseline gap-x-4 border-b border-rule py-0.5"
          >
            <span className="font-value text-sm">0x{r.at.toString(16)}</span>
            <span className="text-right font-value text-sm">{bytesText(r.length)}</span>
            <span>
              <b className={r.sound ? '' : 'text-wall'}>{r.name}</b>{' '}
              <span className="text-sm text-quiet">{r.more}</span>
            </span>
          </li>
        ))}
        {rows.length === 0 && (
          <li className="py-1 text-quiet">Neither volumes nor a flash map stand in it.</li>
        )}
      </ol>
    </figure>
  );
}
