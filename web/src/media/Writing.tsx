import { useState } from 'react';
import { Link } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { useWrite } from '../api/queries';
import { Write } from '../pieces/fields';
import { JobLine } from '../jobs/JobLine';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** Erasing wants the label typed, as it stands on the medium. */
export function Writing({
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
