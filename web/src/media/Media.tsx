import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { images, media, mediumPlan } from '../api/imageQueries';
import { useWrite } from '../api/queries';
import { Choose, Write } from '../pieces/fields';
import { JobLine } from '../jobs/JobLine';
import { ShelfNav } from '../shell/ShelfNav';
import { bytesText, timeText } from '../images/words';
import { RungShape } from '../ladder/RungShape';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';

const kinds: Record<string, string> = {
  stick: 'stick',
  card: 'card',
  cd: 'CD',
  dvd: 'DVD',
  dvdDouble: 'DVD, two layers',
  file: 'image file',
};

const shapes = { ready: 'clear', blank: 'unknown', writing: 'caveat', unusable: 'wall' } as const;

/** The sticks, cards and discs: what is on each, whether it may be used, and how an image gets onto one. */
export function Media() {
  const { data, error } = useQuery(media);
  const [search, setSearch] = useSearchParams();
  if (error) return <Failed error={error} />;
  if (!data) return <Loading />;
  const chosen = data.find((m) => String(m.id) === search.get('medium')) ?? data[0];
  const ready = data.filter((m) => m.state === 'ready').length;
  return (
    <div className="flex flex-1 flex-col pb-8">
      <ShelfNav />
      <div className="grid flex-1 grid-cols-1 gap-x-8 pt-3 lg:grid-cols-[400px_minmax(0,1fr)]">
        <section aria-label="Media">
          <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
            {ready === 0 ? 'None is ready.' : `${ready} ready to start from.`}
          </h1>
          <ul className="pt-2">
            {data.map((m) => (
              <li key={m.id}>
                <button
                  type="button"
                  aria-pressed={m.id === chosen?.id}
                  className={`w-full border-b border-rule py-2 text-left ${m.id === chosen?.id ? 'border-l-4 border-l-ink bg-sheet pl-3' : 'hover:bg-sheet'}`}
                  onClick={() => {
                    setSearch({ ...Object.fromEntries(search), medium: String(m.id) }, { replace: true });
                  }}
                >
                  <span className="flex items-center gap-2">
                    <b>{m.label}</b>
                    <span className="text-sm text-quiet">
                      {kinds[m.kind]}
                      {m.sizeBytes > 0 && `, ${bytesText(m.sizeBytes)}`}
                    </span>
                    <span className="ml-auto flex items-center gap-1.5">
                      <RungShape outcome={shapes[m.state as keyof typeof shapes]} width={28} bar={6} />
                      <b>{m.state}</b>
                    </span>
                  </span>
                  <span className="block text-sm text-quiet">{m.says}</span>
                </button>
              </li>
            ))}
          </ul>
          <NewMedium />
        </section>
        {chosen && <OneMedium key={chosen.id} medium={chosen} />}
      </div>
    </div>
  );
}

function OneMedium({ medium }: { medium: Schema['MediumSheet'] }) {
  const [search] = useSearchParams();
  const all = useQuery(images);
  const [imageId, setImage] = useState(search.get('image') ?? String(medium.imageId ?? ''));
  const [tags, setTags] = useState(search.get('tag') ?? '');
  const [port, setPort] = useState('3');
  const [line, setLine] = useState('');
  const whole = all.data?.images.filter((i) => i.image.whole) ?? [];
  const picked = Number(imageId) || whole[0]?.image.id || 0;
  const names = tags
    .split(/[ ,]+/)
    .map((t) => t.trim())
    .filter((t) => t !== '');
  const body = {
    imageId: picked,
    tags: names,
    lineBytesPerSecond: Math.round(Number(line || 0) * 125_000),
    port: Number(port),
  };
  const plan = useQuery({ ...mediumPlan(medium.id, body), enabled: picked > 0 });
  return (
    <section aria-label={medium.label} className="min-w-0">
      <h2 className="font-name text-[36px] leading-none font-bold" data-loud>
        {medium.label}
      </h2>
      <p className="pt-1 text-quiet">
        USB {medium.usbGeneration}, writes {bytesText(medium.writeBytesPerSecond)}/s, reads{' '}
        {bytesText(medium.readBytesPerSecond)}/s.{' '}
        {medium.trueBytes !== null &&
          (medium.trueBytes < medium.sizeBytes ? (
            <b className="text-wall">It has {bytesText(medium.trueBytes)}, and says more.</b>
          ) : (
            'Its size was tested and is true.'
          ))}
      </p>
      <div className="grid grid-cols-[minmax(0,2fr)_minmax(0,2fr)_90px_100px] gap-x-4 pt-2">
        <Choose label="Image" value={String(picked)} set={setImage}>
          {whole.map((i) => (
            <option key={i.image.id} value={i.image.id}>
              {i.image.name}
            </option>
          ))}
        </Choose>
        <Write label="For the machines (tags)" value={tags} set={setTags} scan />
        <Choose label="Port here" value={port} set={setPort}>
          <option value="3">USB 3</option>
          <option value="2">USB 2</option>
          <option value="1">USB 1</option>
        </Choose>
        <Write label="Line, Mbit/s" value={line} set={setLine} />
      </div>
      {plan.error && <Failed error={plan.error} />}
      {plan.data && <Plan plan={plan.data} medium={medium} />}
      {plan.data && (
        <Writing medium={medium} plan={plan.data} imageId={picked} tags={names} port={Number(port)} />
      )}
    </section>
  );
}

const methods: Record<string, string> = {
  blocks: 'Block by block',
  files: 'File by file',
  filesInParts: 'File by file, large ones in parts',
  twoPartitions: 'In two partitions',
  none: 'Not on this one',
};

function Plan({ plan, medium }: { plan: Schema['WritePlan']; medium: Schema['MediumSheet'] }) {
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

/** Erasing wants the label typed, as it stands on the medium. */
function Writing({
  medium,
  plan,
  imageId,
  tags,
  port,
}: {
  medium: Schema['MediumSheet'];
  plan: Schema['WritePlan'];
  imageId: number;
  tags: string[];
  port: number;
}) {
  const [who] = useWho();
  const [typed, setTyped] = useState('');
  const [job, setJob] = useState<number | null>(medium.job?.id ?? null);
  const write = useWrite(async () => {
    const begun = await take(
      api.POST('/api/media/{id}/write', {
        params: { path: { id: medium.id } },
        body: { imageId, label: typed, by: who || nobody, tags, port },
      }),
    );
    setJob(begun.id);
    setTyped('');
  });
  const test = useWrite(async () => {
    const begun = await take(
      api.POST('/api/media/{id}/test-capacity', {
        params: { path: { id: medium.id } },
        body: { label: typed, by: who || nobody },
      }),
    );
    setJob(begun.id);
    setTyped('');
  });
  const right = typed.trim() === medium.label;
  const going = medium.state === 'writing';
  return (
    <form
      aria-label="Erase and write"
      className="mt-3 border-t-[1.5px] border-ink pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (right) write.mutate(undefined);
      }}
    >
      <p className="border-l-4 border-wall pl-3">
        Everything on <b>{medium.label}</b> is erased. Type its label as it stands on it.
      </p>
      <div className="flex items-end gap-4 pt-1">
        <Write label="Label, typed" value={typed} set={setTyped} />
        <button
          disabled={!right || going || write.isPending || plan.method === 'none' || !plan.fits}
          className="min-h-11 bg-ink px-5 font-semibold whitespace-nowrap text-ground"
        >
          Erase and write
        </button>
        {(medium.kind === 'stick' || medium.kind === 'card') && (
          <button
            type="button"
            disabled={!right || going || test.isPending}
            className="min-h-11 border-[1.5px] border-ink px-4 font-semibold whitespace-nowrap"
            onClick={() => {
              test.mutate(undefined);
            }}
          >
            Erase and test its size
          </button>
        )}
      </div>
      {write.error && <Failed error={write.error} />}
      {test.error && <Failed error={test.error} />}
      {job !== null && <JobLine id={job} />}
      {medium.kind === 'file' && medium.state === 'ready' && (
        <a
          className="inline-flex min-h-11 items-center font-semibold underline underline-offset-4"
          href={`/api/media/${medium.id}/content`}
          download
        >
          Download the .img file
        </a>
      )}
      {medium.imageId !== null && (
        <p className="text-sm">
          On it:{' '}
          <Link to={`/images/${medium.imageId}`} className="underline underline-offset-4">
            {medium.imageName}
          </Link>
        </p>
      )}
    </form>
  );
}

function NewMedium() {
  const [label, setLabel] = useState('');
  const [kind, setKind] = useState<Schema['MediumKind']>('stick');
  const [gigabytes, setGigabytes] = useState('8');
  const add = useWrite(() =>
    take(
      api.POST('/api/media', {
        body: {
          label,
          kind,
          sizeBytes: Math.round(Number(gigabytes) * 1e9),
          usbGeneration: 3,
          writeBytesPerSecond: 20_000_000,
          readBytesPerSecond: 90_000_000,
          faults: null,
        },
      }),
    ),
  );
  const sized = kind === 'stick' || kind === 'card';
  return (
    <form
      aria-label="Put a medium on the shelf"
      className="pt-4"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate(undefined, {
          onSuccess: () => {
            setLabel('');
          },
        });
      }}
    >
      <h2 className="caption">Another one</h2>
      <div className="flex items-end gap-3">
        <Write label="Its label" value={label} set={setLabel} />
        <Choose
          label="Kind"
          value={kind}
          set={(value) => {
            setKind(value as Schema['MediumKind']);
          }}
        >
          {Object.entries(kinds).map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Choose>
        {sized && <Write label="GB" value={gigabytes} set={setGigabytes} />}
        <button
          disabled={!label || add.isPending}
          className="min-h-9 border-[1.5px] border-ink px-3 font-semibold"
        >
          Add
        </button>
      </div>
      {add.error && <Failed error={add.error} />}
    </form>
  );
}
