import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { api, type Schema, take, fails } from '../api/client';
import { onMachine } from '../api/imageQueries';
import { identitiesOf, useWrite } from '../api/queries';
import { JobLine } from '../jobs/JobLine';
import { TwinResult } from '../rehearsal/TwinResult';
import { bytesText, firmwareNames, verdicts } from '../images/words';
import { RungShape } from '../ladder/RungShape';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { useMachine } from '../dossiers/MachinePage';

/** The images held against the machine, and a start of one of them in its twin, before anybody walks to the bench. */
export function TwinStart({ wanted, system }: { wanted: number | null; system: string | null }) {
  const { sheet } = useMachine();
  const { data, error } = useQuery(onMachine(sheet.tag));
  const [picked, setPicked] = useState<number | null>(null);
  const [job, setJob] = useState<number | null>(null);
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const held = imageOf(data, picked ?? wanted, system);
  if (!held) return null;
  const shown = held.starts.find((s) => s.job.id === job) ?? held.starts[0];
  return (
    <section id="twin" aria-label="Start in the twin" className="border-t-[1.5px] border-ink pt-2">
      <div className="grid grid-cols-1 gap-x-8 lg:grid-cols-2">
        <div>
          <Held
            all={data}
            held={held}
            system={system}
            pick={(id) => {
              setPicked(id);
              setJob(null);
            }}
          />
        </div>
        <Start key={held.image.id} held={held} begun={setJob} job={job} />
      </div>
      {shown && (
        <div className="pt-2">
          <h2 className="caption">
            What the twin showed: {shown.job.about}, {shown.job.by}
          </h2>
          <OfAnother seen={shown.seen} />
          <TwinResult job={shown.job} />
        </div>
      )}
    </section>
  );
}

/** The image that is looked at: the one that was picked or that the plan wants, else one of its system. */
const imageOf = (all: Schema['ImageOnMachine'][], id: number | null, system: string | null) =>
  all.find((i) => i.image.id === id) ?? all.find((i) => i.image.system === system) ?? all[0];

/** What the twin showed last, small and at the top of the page; the whole of it stands below. */
export function TwinGlance({ wanted, system }: { wanted: number | null; system: string | null }) {
  const { sheet } = useMachine();
  const { data } = useQuery(onMachine(sheet.tag));
  const last = data && imageOf(data, wanted, system)?.starts[0];
  const screen = last?.job.result?.screens?.at(-1);
  const verdict = verdicts[last?.job.result?.rehearsal?.verdict ?? ''];
  if (!last || !screen) return null;
  return (
    <a href="#twin" className="float-right mb-2 ml-6 block w-64" aria-label="What the twin showed">
      <img
        src={screen}
        alt={`What the twin showed last${verdict ? `: ${verdict.word}` : ''}`}
        className="w-full border-[1.5px] border-ink bg-ink"
        width={1280}
        height={800}
      />
      <span className="flex items-center gap-2 text-sm">
        {verdict && <RungShape outcome={verdict.outcome} width={28} bar={6} />}
        <b>{verdict?.word ?? 'in the twin'}</b>
        {last.seen && last.seen.ofAnother.length > 0 && (
          <span className="text-setting">no evidence as it is</span>
        )}
      </span>
    </a>
  );
}

/** Says where a start is another's: it proves nothing of this machine as it is. */
function OfAnother({ seen }: { seen: Schema['RehearsalSeen'] | null }) {
  if (!seen || seen.ofAnother.length === 0) return null;
  return (
    <p className="border-l-4 border-setting pl-3" data-evidence="another">
      <b>No evidence for this machine as it is:</b> it is {seen.ofAnother.join(', and ')}.
    </p>
  );
}

function Held({
  all,
  held,
  system,
  pick,
}: {
  all: Schema['ImageOnMachine'][];
  held: Schema['ImageOnMachine'];
  system: string | null;
  pick: (id: number) => void;
}) {
  const { sheet } = useMachine();
  return (
    <>
      <label className="block">
        <span className="caption block">Installer image</span>
        <select
          className="h-9 w-full border-b-2 border-ink bg-ground font-value font-semibold"
          value={held.image.id}
          onChange={(event) => {
            pick(Number(event.target.value));
          }}
        >
          {all.map((i) => (
            <option key={i.image.id} value={i.image.id}>
              {i.image.name}
              {i.image.system === system ? '' : ', not of this plan'}
            </option>
          ))}
        </select>
      </label>
      <p className="pt-0.5 text-sm text-quiet">
        {bytesText(held.image.sizeBytes)}
        {held.image.build && `, build ${held.image.build}`}.{' '}
        <Link to={`/images/${held.image.id}`} className="text-ink underline underline-offset-4">
          Look into it, patch it
        </Link>{' '}
        ·{' '}
        <Link
          to={`/shelf/media?image=${held.image.id}&tag=${sheet.tag}`}
          className="text-ink underline underline-offset-4"
        >
          Write it onto a stick
        </Link>
      </p>
      <ul className="pt-1" aria-label="Ways to start it">
        {held.ways.map((w) => (
          <li
            key={w.medium + w.firmware}
            className="grid grid-cols-[128px_minmax(0,1fr)] border-b border-rule py-1"
          >
            <span className="flex items-center gap-1.5">
              <RungShape outcome={w.can === null ? 'unknown' : w.can ? 'clear' : 'wall'} width={28} bar={7} />
              <b className="text-sm">
                {w.medium}, {firmwareNames[w.firmware]}
              </b>
            </span>
            <span className="text-[13.5px] leading-snug">
              {w.can !== true && <span className="text-quiet">{w.why} </span>}
              {w.how.join(' ')}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

function Start({
  held,
  begun,
  job,
}: {
  held: Schema['ImageOnMachine'];
  begun: (job: number) => void;
  job: number | null;
}) {
  const { sheet } = useMachine();
  const [who] = useWho();
  const [as, setAs] = useState('stick');
  const [firmware, setFirmware] = useState('');
  const [identity, setIdentity] = useState('');
  const [limit, setLimit] = useState(90);
  const given = useQuery(identitiesOf(sheet.tag)).data ?? [];
  const start = useWrite(async () => {
    const twin = await take(
      api.POST('/api/images/{id}/twin', {
        params: { path: { id: held.image.id } },
        body: {
          tag: sheet.tag,
          as,
          firmware: firmware || null,
          identity: identity || null,
          limitSeconds: limit,
          by: who || nobody,
        },
      }),
    );
    begun(twin.id);
  });
  return (
    <form
      aria-label="Start it in the twin"
      onSubmit={(event) => {
        event.preventDefault();
        start.mutate(undefined);
      }}
    >
      <p className="text-sm">
        Start it in an emulated twin of this machine, before you walk to the bench. Nothing is written, and
        there is no network.
      </p>
      <div className="flex flex-wrap items-end gap-3">
        <label>
          <span className="caption block">As</span>
          <select
            className="h-9 border-b-2 border-ink bg-ground"
            value={as}
            onChange={(event) => {
              setAs(event.target.value);
            }}
          >
            <option value="stick">stick</option>
            <option value="disc">disc</option>
          </select>
        </label>
        <label>
          <span className="caption block">By</span>
          <select
            className="h-9 border-b-2 border-ink bg-ground"
            value={firmware}
            onChange={(event) => {
              setFirmware(event.target.value);
            }}
          >
            <option value="">what it is started by</option>
            <option value="bios">BIOS</option>
            <option value="uefi64">UEFI</option>
            <option value="uefi32">32-bit UEFI</option>
          </select>
        </label>
        {given.length > 0 && (
          <label>
            <span className="caption block">It says it is</span>
            <select
              className="h-9 border-b-2 border-ink bg-ground"
              value={identity}
              onChange={(event) => {
                setIdentity(event.target.value);
              }}
            >
              <option value="">itself</option>
              {given.map((taken) => (
                <option key={taken.id} value={String(taken.id)}>
                  {taken.processor ?? taken.model ?? taken.boardId} (number {taken.id})
                </option>
              ))}
            </select>
          </label>
        )}
        <label>
          <span className="caption block">For at most</span>
          <select
            className="h-9 border-b-2 border-ink bg-ground"
            value={limit}
            onChange={(event) => {
              setLimit(Number(event.target.value));
            }}
          >
            <option value={90}>90 s</option>
            <option value={300}>5 min</option>
            <option value={600}>10 min</option>
          </select>
        </label>
        <button disabled={start.isPending} className="min-h-11 bg-ink px-4 font-semibold text-ground">
          Start the twin
        </button>
      </div>
      {start.error && <Failed error={start.error} />}
      {job !== null && <JobLine id={job} />}
    </form>
  );
}
