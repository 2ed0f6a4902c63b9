import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, type Schema, fails, take } from '../api/client';
import { images, media, mediumPlan } from '../api/imageQueries';
import { useWrite } from '../api/queries';
import { nobody, useWho } from '../shell/who';
import { JobLine } from '../jobs/JobLine';
import { Choose, Write } from '../pieces/fields';
import { Simulated } from '../pieces/Simulated';
import { ShelfNav } from '../shell/ShelfNav';
import { bytesText } from '../images/words';
import { RungShape } from '../ladder/RungShape';
import { Failed, Loading } from '../shell/States';
import { Plan } from './MediumPlan';
import { kinds, NewMedium } from './NewMedium';
import { Writing } from './Writing';

const shapes = {
  ready: 'clear',
  blank: 'unknown',
  writing: 'caveat',
  unusable: 'wall',
  unknown: 'unknown',
} as const;

/** The sticks, cards and discs: what is on each, whether it may be used, and how an image gets onto one. */
export function Media() {
  const { data, error } = useQuery(media);
  const [search, setSearch] = useSearchParams();
  if (fails(error, data)) return <Failed error={error} />;
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
                  <span className="block text-sm text-quiet">
                    {m.simulated !== null && 'Simulated. '}
                    {m.says}
                  </span>
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
      <Simulated says={medium.simulated} imageId={medium.imageId} sha256={medium.imageSha256} />
      {medium.state === 'unknown' && medium.imageId !== null && <Look medium={medium} />}
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

/** After records were taken from a back-up: what is on it is read and compared with the image that they name. */
function Look({ medium }: { medium: Schema['MediumSheet'] }) {
  const [who] = useWho();
  const [job, setJob] = useState<number | null>(null);
  const look = useWrite(async () => {
    const begun = await take(
      api.POST('/api/media/{id}/look', {
        params: { path: { id: medium.id } },
        body: { label: medium.label, by: who || nobody },
      }),
    );
    setJob(begun.id);
  });
  return (
    <div className="border-l-4 border-unknown pl-3">
      <p>{medium.says}</p>
      <button
        type="button"
        disabled={look.isPending}
        className="my-1 min-h-11 border-[1.5px] border-ink px-4 font-semibold"
        onClick={() => {
          look.mutate(undefined);
        }}
      >
        Look what is on it
      </button>
      {look.error && <Failed error={look.error} />}
      {job !== null && <JobLine id={job} />}
    </div>
  );
}
