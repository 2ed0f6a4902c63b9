import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Schema, take } from '../api/client';
import { images as imagesQuery } from '../api/imageQueries';
import { useMendKit, useWrite } from '../api/queries';
import { JobLine } from '../jobs/JobLine';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** What is wrong with a kit: where, what would be right, and a click where that is certain. */
export function Checked({ kit, made }: { kit: Schema['KitSheet']; made?: (id: number) => void }) {
  const [who] = useWho();
  const mend = useMendKit();
  const certain = kit.findings.filter((f) => f.repair !== null).length;
  const go = (findings: number[] | null) => {
    mend.mutate(
      { id: kit.id, by: who || nobody, findings },
      {
        onSuccess: (after) => {
          made?.(after.id);
        },
      },
    );
  };
  if (kit.findings.length === 0) return null;
  return (
    <div>
      <ul aria-label="What is wrong with it" className="border-t border-rule">
        {kit.findings.map((finding, i) => (
          <li
            key={`${finding.file} ${finding.key ?? ''} ${finding.text}`}
            className="grid grid-cols-[minmax(0,1fr)_auto] items-start gap-x-3 border-b border-rule py-1"
          >
            <span>
              {finding.text}
              <span className="block font-value text-xs break-all text-quiet">
                {finding.file}
                {finding.key && ` · ${finding.key}`}
              </span>
            </span>
            {finding.repair ? (
              <button
                type="button"
                disabled={mend.isPending}
                className="min-h-9 border-[1.5px] border-ink px-2.5 text-sm"
                onClick={() => {
                  go([i]);
                }}
              >
                {finding.repair}
              </button>
            ) : (
              <span className="text-sm text-quiet">for a person</span>
            )}
          </li>
        ))}
      </ul>
      {certain > 1 && (
        <button
          type="button"
          disabled={mend.isPending}
          className="min-h-11 font-semibold underline underline-offset-4"
          onClick={() => {
            go(null);
          }}
        >
          Mend all {certain} that are certain
        </button>
      )}
      {mend.error && <Failed error={mend.error} />}
    </div>
  );
}

/** The kit in a FAT image, started in the twin: is every file found where the firmware reads it? */
export function StartKit({ kit }: { kit: Schema['KitSheet'] }) {
  const [who] = useWho();
  const [job, setJob] = useState<number | null>(null);
  const start = useWrite(async () => {
    const begun = await take(
      api.POST('/api/kits/{id}/twin', {
        params: { path: { id: kit.id } },
        body: { by: who || nobody },
      }),
    );
    setJob(begun.id);
  });
  return (
    <div>
      <p className="flex flex-wrap items-center gap-x-6">
        <button
          type="button"
          disabled={start.isPending}
          className="min-h-11 font-semibold underline underline-offset-4"
          onClick={() => {
            start.mutate(undefined);
          }}
        >
          Start it in the twin
        </button>
        <a
          className="flex min-h-11 items-center font-semibold underline underline-offset-4"
          href={`/api/kits/${kit.id}/content`}
          download
        >
          Download the ZIP
        </a>
        <span className="text-sm text-quiet">
          The twin reads its list and looks for each file. Components are stand-ins: they drive nothing.
        </span>
      </p>
      {start.error && <Failed error={start.error} />}
      {job !== null && (
        <JobLine
          id={job}
          done={(seen) =>
            seen.result?.screens?.at(-1) && (
              <img
                src={seen.result.screens.at(-1)}
                alt={`The twin’s screen: ${seen.says}`}
                className="mt-1 w-full max-w-md border-[1.5px] border-ink"
              />
            )
          }
        />
      )}
    </div>
  );
}

/** How the manifest of an image names a kit that was put on it. */
const onImage = 'boot-kit-';

/** Puts the kit on an installer's image: what comes of it is one image with both, which the medium gets. */
export function PutKit({ kit, wanted }: { kit: Schema['KitSheet']; wanted: number | null }) {
  const [who] = useWho();
  const shelf = useQuery(imagesQuery).data;
  const [chosen, setChosen] = useState<number | null>(wanted);
  const [job, setJob] = useState<number | null>(null);
  const put = useWrite(async (imageId: number) => {
    const begun = await take(
      api.POST('/api/kits/{id}/images', {
        params: { path: { id: kit.id } },
        body: { imageId, by: who || nobody },
      }),
    );
    setJob(begun.id);
  });
  const images = (shelf?.images ?? []).filter(
    ({ image, manifest }) => image.system === kit.system && !manifest?.recipeId.startsWith(onImage),
  );
  const first = images.find(({ image }) => image.id === chosen) ?? images[0];
  if (!first || kit.findings.length > 0) return null;
  return (
    <div>
      <p className="flex flex-wrap items-end gap-x-6">
        <label>
          <span className="caption block">Installer image</span>
          <select
            className="h-11 min-w-56 border-b-[1.5px] border-ink bg-transparent"
            value={first.image.id}
            onChange={(event) => {
              setChosen(Number(event.target.value));
            }}
          >
            {images.map(({ image }) => (
              <option key={image.id} value={image.id}>
                {image.name}
              </option>
            ))}
          </select>
        </label>
        <button
          type="button"
          disabled={put.isPending}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
          onClick={() => {
            put.mutate(first.image.id);
          }}
        >
          Put the kit on it
        </button>
        <span className="text-sm text-quiet">One image with both, for a stick and 64-bit UEFI.</span>
      </p>
      {put.error && <Failed error={put.error} />}
      {job !== null && <JobLine id={job} />}
    </div>
  );
}
