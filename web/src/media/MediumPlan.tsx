import { type Schema } from '../api/client';
import { bytesText, timeText } from '../images/words';

const methods: Record<string, string> = {
  blocks: 'Block by block',
  files: 'File by file',
  filesInParts: 'File by file, large ones in parts',
  twoPartitions: 'In two partitions',
  none: 'Not on this one',
};

export function Plan({ plan, medium }: { plan: Schema['WritePlan']; medium: Schema['MediumSheet'] }) {
  const room = Math.max(medium.kind === 'file' ? plan.neededBytes : medium.sizeBytes, 1);
  return (
    <div className="pt-3">
      <p className="loud" data-loud>
        {plan.method !== 'none' && !plan.fits
          ? 'It does not fit.'
          : `${methods[plan.method] ?? plan.method}.`}
      </p>
      <p>{plan.why}</p>
      <Drawing plan={plan} medium={medium} room={room} />
      <dl className="grid grid-cols-4 gap-x-5 pt-2">
        <Reading name="Scheme" value={plan.scheme} />
        <Reading name="File system" value={plan.fileSystem} />
        <Reading name="Takes" value={`${bytesText(plan.neededBytes)} of ${bytesText(room)}`} />
        <Reading
          name="Time"
          value={timeText(plan.downloadSeconds + plan.writeSeconds + plan.verifySeconds)}
          note={`${plan.downloadSeconds > 0 ? `download ${timeText(plan.downloadSeconds)}, ` : ''}write ${timeText(plan.writeSeconds)}, read back ${timeText(plan.verifySeconds)}; the ${plan.slowest} is the slowest`}
        />
      </dl>
      <ul className="pt-1 text-sm">
        {plan.notes.map((n) => (
          <li key={n} className="text-quiet">
            {n}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** The medium with what comes to lie on it, to scale; what is thinner than a hair is drawn as one, and named below. */
function Drawing({
  plan,
  medium,
  room,
}: {
  plan: Schema['WritePlan'];
  medium: Schema['MediumSheet'];
  room: number;
}) {
  const width = 700;
  const lies = medium.trueBytes !== null && medium.trueBytes < medium.sizeBytes ? medium.trueBytes : null;
  const used = plan.stretches.filter((s) => s.name !== 'not used');
  const at = (bytes: number) => (bytes / room) * width;
  // What takes a small part of a large medium is drawn once more, as under a loupe.
  const end = Math.max(1, ...used.map((s) => s.offsetBytes + s.sizeBytes));
  const times = Math.floor(room / end);
  const loupe = plan.method !== 'none' && times > 4;
  return (
    <figure className="pt-2">
      <svg
        viewBox={`-1 -1 ${width + 74} ${loupe ? 168 : 76}`}
        className="w-full text-ink"
        role="img"
        aria-label={`${medium.label} to scale: ${used.map((s) => `${s.name} ${bytesText(s.sizeBytes)}`).join(', ')} of ${bytesText(room)}`}
      >
        <rect x="0" y="6" width={width} height="48" fill="none" stroke="currentColor" strokeWidth="2" />
        {medium.kind === 'stick' && (
          <>
            <path d={`M${width} 15 h58 v30 h-58`} fill="none" stroke="currentColor" strokeWidth="2" />
            <path d={`M${width + 12} 23 h14 M${width + 12} 37 h14`} stroke="currentColor" strokeWidth="3" />
          </>
        )}
        {used.map((s, i) => (
          <rect
            key={`${s.name}-${s.offsetBytes}`}
            x={at(s.offsetBytes)}
            y={i === 0 || plan.method !== 'blocks' ? 6 : 30}
            width={Math.max(2.5, at(s.sizeBytes))}
            height={i === 0 || plan.method !== 'blocks' ? 48 : 24}
            fill="currentColor"
            fillOpacity={i === 0 ? 0.25 : 0.55}
            stroke="currentColor"
            strokeWidth="1"
          />
        ))}
        {lies !== null && (
          <g className="text-wall">
            <path d={`M${at(lies)} 0 v62`} stroke="currentColor" strokeWidth="2.5" strokeDasharray="5 3" />
            <text x={at(lies) + 6} y="34" fill="currentColor" fontSize="13">
              it ends here
            </text>
          </g>
        )}
        <text x="0" y="71" fill="currentColor" fontSize="12">
          0
        </text>
        <text x={width} y="71" fill="currentColor" fontSize="12" textAnchor="end">
          {bytesText(room)}
        </text>
        {loupe && (
          <g>
            <path
              d={`M0 54 L0 88 M${Math.max(2.5, at(end))} 54 L${width} 88`}
              stroke="currentColor"
              strokeWidth="1"
              strokeDasharray="3 3"
              className="text-quiet"
            />
            {used.map((s, i) => (
              <g key={`${s.name}-${s.offsetBytes}`}>
                <rect
                  x={(s.offsetBytes / end) * width}
                  y={i === 0 || plan.method !== 'blocks' ? 90 : 114}
                  width={Math.max(2, (s.sizeBytes / end) * width)}
                  height={i === 0 || plan.method !== 'blocks' ? 48 : 24}
                  fill="currentColor"
                  fillOpacity={i === 0 ? 0.12 : 0.2}
                  stroke="currentColor"
                  strokeWidth="1.5"
                />
                <text
                  x={(s.offsetBytes / end) * width + 8}
                  y={i === 0 || plan.method !== 'blocks' ? 107 : 131}
                  fill="currentColor"
                  fontSize="13"
                >
                  {s.name}
                </text>
              </g>
            ))}
            <text x="0" y="155" fill="currentColor" fontSize="12">
              the same, {times.toLocaleString('en-GB')} times as large
            </text>
            <text x={width} y="155" fill="currentColor" fontSize="12" textAnchor="end">
              {bytesText(end)}
            </text>
          </g>
        )}
      </svg>
      <figcaption className="text-sm text-quiet">
        To scale.{' '}
        {used.map((s) => `${s.name}: ${bytesText(s.sizeBytes)} from ${bytesText(s.offsetBytes)}`).join(' · ')}
      </figcaption>
    </figure>
  );
}

function Reading({ name, value, note }: { name: string; value: string; note?: string }) {
  return (
    <div>
      <dt className="caption">{name}</dt>
      <dd className="font-semibold">{value}</dd>
      {note && <dd className="text-xs text-quiet">{note}</dd>}
    </div>
  );
}
