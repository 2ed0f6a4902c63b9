import { queryOptions, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, fails, type Schema, take } from '../api/client';
import { health, useWrite } from '../api/queries';
import { bytesText } from '../images/words';
import { JobLine } from '../jobs/JobLine';
import { Failed, Loading } from '../shell/States';
import { dayAndTime } from '../shell/time';
import { nobody, useWho } from '../shell/who';
import { counted } from '../pieces/counted';

const backups = queryOptions({
  queryKey: ['backups'],
  queryFn: () => take(api.GET('/api/backups')),
});

/** Back-ups: made while everything goes on, checked before they are given back. */
export function Backups() {
  const { data, error } = useQuery(backups);
  const troubles = useQuery(health).data?.troubles ?? [];
  const [who] = useWho();
  const [job, setJob] = useState<number | null>(null);
  const by = who || nobody;
  const make = useWrite(() => take(api.POST('/api/backups', { body: { by } })));
  const discard = useWrite(() => take(api.DELETE('/api/backups/ready')));
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const latest = data.backups[0];

  return (
    <div className="grid gap-x-10 pt-4 lg:grid-cols-[minmax(0,1fr)_300px]">
      <div>
        <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
          {data.ready
            ? `${dayAndTime(data.ready.at)} lies ready.`
            : latest
              ? `Backed up ${dayAndTime(latest.at)}.`
              : 'Nothing is backed up yet.'}
        </h1>
        {data.ready && (
          <div role="status" className="mt-3 border-l-4 border-setting pl-3">
            <p>
              At the next start of the application it takes the place of the present data. What is recorded
              until then is not in it; the present data are kept beside, and no serial number is given twice.
            </p>
            <button
              type="button"
              className="min-h-11 font-semibold underline underline-offset-4"
              onClick={() => {
                discard.mutate(undefined);
              }}
            >
              No, the present data stay
            </button>
          </div>
        )}
        {data.onSameDisk && (
          <p role="note" className="mt-3 border-l-4 border-setting pl-3">
            They lie on the disk that they are to protect from. Start the application with{' '}
            <span className="font-value text-sm">--backups</span> and a folder of another one.
          </p>
        )}
        {troubles
          .filter((t) => t.about === 'backup')
          .map((t) => (
            <p key={t.about} role="alert" className="mt-3 border-l-4 border-wall pl-3">
              {t.says} ({dayAndTime(t.at)})
            </p>
          ))}
        {data.bad.length > 0 && (
          <ul aria-label="No back-ups" className="mt-3 border-l-4 border-wall pl-3">
            {data.bad.map((b) => (
              <li key={b.id}>
                <b className="font-value text-sm">{b.id}</b> is no back-up: {b.fault}. It is passed over.
              </li>
            ))}
          </ul>
        )}
        <ol aria-label="Back-ups" className="mt-4 border-t-[1.5px] border-ink">
          {data.backups.map((b) => (
            <Row key={b.id} backup={b} by={by} begun={setJob} />
          ))}
        </ol>
      </div>
      <aside className="border-l border-rule pl-6">
        <button
          type="button"
          disabled={make.isPending}
          className="min-h-12 w-full bg-ink px-6 text-lg font-semibold text-ground"
          onClick={() => {
            make
              .mutateAsync(undefined)
              .then((made) => {
                setJob(made.id);
              })
              .catch(() => undefined);
          }}
        >
          Back up now
        </button>
        {make.error && <Failed error={make.error} />}
        {discard.error && <Failed error={discard.error} />}
        {job !== null && <JobLine id={job} />}
        <p className="pt-4 text-sm text-quiet">
          Into <span className="font-value break-all">{data.folder}</span>
          {data.everyHours > 0
            ? `, by itself every ${data.everyHours} hours; the latest fourteen of those stay.`
            : '. None is made by itself.'}
        </p>
        <p className="pt-2 text-sm text-quiet">
          Dossiers, runs, photographs, probes, backups of firmware chips and the catalogue’s changes are in
          it. Installer images are not: they can be fetched and patched again. What is on sticks and chips is
          not, simulated ones included: after a restore each is looked at again.
        </p>
      </aside>
    </div>
  );
}

function Row({
  backup,
  by,
  begun,
}: {
  backup: Schema['BackupGlance'];
  by: string;
  begun: (job: number) => void;
}) {
  const [sure, setSure] = useState(false);
  const restore = useWrite(() =>
    take(api.POST('/api/backups/{id}/restore', { params: { path: { id: backup.id } }, body: { by } })),
  );
  return (
    <li className="grid grid-cols-[190px_minmax(0,1fr)_auto] items-center gap-x-4 border-b border-rule py-1.5">
      <b>{dayAndTime(backup.at)}</b>
      <span>
        {counted(backup.machines, 'machine')}, {counted(backup.events, 'event')}, {bytesText(backup.bytes)}
        <span className="block text-sm text-quiet">by {backup.by === 'schedule' ? 'itself' : backup.by}</span>
      </span>
      {sure ? (
        <button
          type="button"
          disabled={restore.isPending}
          className="min-h-11 border-[1.5px] border-wall px-4 font-semibold text-wall"
          onClick={() => {
            restore
              .mutateAsync(undefined)
              .then((job) => {
                begun(job.id);
                setSure(false);
              })
              .catch(() => undefined);
          }}
        >
          Check it, and take it at the next start
        </button>
      ) : (
        <button
          type="button"
          className="min-h-11 px-2 underline underline-offset-4"
          onClick={() => {
            setSure(true);
          }}
        >
          Give it back
        </button>
      )}
      {restore.error && <Failed error={restore.error} />}
    </li>
  );
}
