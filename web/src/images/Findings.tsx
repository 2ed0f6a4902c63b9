import { type Schema } from '../api/client';
import { YesNo } from './YesNo';
import { bytesText, startNames } from './words';

export function Starts({ seen }: { seen: Schema['Inspection'] }) {
  return (
    <section aria-label="How it starts">
      <h2 className="caption">How it starts</h2>
      <ul>
        {startNames.map(([key, name]) => (
          <li
            key={key}
            className="grid grid-cols-[92px_70px_minmax(0,1fr)] items-baseline border-b border-rule py-1"
          >
            <b>{name}</b>
            <YesNo can={seen.starts[key].can} />
            <span className="text-[13.5px] text-quiet">{seen.starts[key].why}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What lies where, along the whole image; what is thinner than a hair gets one. */
export function ToScale({ seen }: { seen: Schema['Inspection'] }) {
  const stretches = [
    ...seen.fileSystems
      .filter((f) => f.in === 'disc')
      .map((f) => ({ name: f.kind, at: 0, size: seen.sizeBytes, row: 0 })),
    ...seen.partitions
      .filter((p) => p.type !== 'ee')
      .map((p) => ({
        name: `${p.table === 'gpt' ? 'GPT' : 'MBR'} ${p.number}${p.name ? `, ${p.name}` : ''}`,
        at: p.offsetBytes,
        size: p.sizeBytes,
        row: p.table === 'gpt' ? 1 : 2,
      })),
    ...seen.elTorito.map((e) => ({
      name: `El Torito ${e.platform === 'bios' ? 'BIOS' : e.platform.toUpperCase()}`,
      at: e.offset,
      size: e.loadSectors * 512,
      row: 3,
    })),
  ];
  const rows = [0, 1, 2, 3].filter((row) => stretches.some((s) => s.row === row));
  return (
    <section aria-label="What lies where" className="pt-3">
      <h2 className="caption">What lies where, to scale</h2>
      {rows.map((row) => (
        <div key={row} className="relative mt-1 h-[18px] border border-rule">
          {stretches
            .filter((s) => s.row === row)
            .map((s, i) => (
              <span
                key={i}
                title={`${s.name}: ${bytesText(s.size)} from ${s.at}`}
                className="absolute inset-y-0 overflow-hidden border-x-[1.5px] border-ink bg-rule/60 px-1 text-[12px] leading-4 whitespace-nowrap"
                style={{
                  left: `${(s.at / seen.sizeBytes) * 100}%`,
                  width: `max(3px, ${(s.size / seen.sizeBytes) * 100}%)`,
                }}
              >
                {s.size / seen.sizeBytes > 0.12 ? s.name : ''}
              </span>
            ))}
        </div>
      ))}
      <p className="pt-1 text-sm text-quiet">
        0 to {bytesText(seen.sizeBytes)}
        {seen.largestFile &&
          `; largest file ${seen.largestFile.path}, ${bytesText(seen.largestFile.sizeBytes)}`}
      </p>
      <ul className="text-sm">
        {seen.loaders.map((l) => (
          <li key={l.in + l.path}>
            <span className="font-value text-[13px]">{l.path}</span> in {l.in}:{' '}
            {l.machine ?? 'no UEFI program'}
            {l.hasSignature ? ', signed' : ', not signed'}
          </li>
        ))}
      </ul>
    </section>
  );
}

export function FindingList({ seen }: { seen: Schema['Inspection'] }) {
  if (seen.findings.length === 0) return <p className="pt-3 text-clear">Nothing on it is damaged.</p>;
  return (
    <section aria-label="Findings" className="pt-3">
      <h2 className="caption">Findings</h2>
      <ul>
        {seen.findings.map((f, i) => (
          <li key={i} className={`border-l-4 pl-2 ${f.fault ? 'border-wall' : 'border-setting'}`}>
            {f.what} <span className="text-sm text-quiet">{f.where}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
