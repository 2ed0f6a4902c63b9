import { useQuery } from '@tanstack/react-query';
import { api, type Schema, take } from '../api/client';
import { job as jobQuery } from '../api/imageQueries';
import { useWrite } from '../api/queries';
import { Failed } from '../shell/States';

/** Long work while it goes on, and what came of it. */
export function JobLine({
  id,
  done,
  failed = 'It was not done; nothing half-made is offered.',
}: {
  id: number;
  done?: (job: Schema['JobSheet']) => React.ReactNode;
  /** What a failure leaves behind. */
  failed?: string;
}) {
  const { data } = useQuery(jobQuery(id));
  const cancel = useWrite(() => take(api.DELETE('/api/jobs/{id}', { params: { path: { id } } })));
  if (!data) return null;
  const going = data.state === 'queued' || data.state === 'running';
  return (
    <div role="status" className="py-1" data-job={data.state} data-job-id={id}>
      <p className="flex items-center gap-3">
        <b>{going ? data.says || 'It waits for its turn.' : data.says}</b>
        {going && (
          <>
            <span className="font-value text-sm">{Math.round(data.part * 100)} %</span>
            <button
              type="button"
              className="ml-auto min-h-9 border-[1.5px] border-quiet px-2.5 text-sm hover:border-ink"
              onClick={() => {
                cancel.mutate(undefined);
              }}
            >
              Cancel
            </button>
          </>
        )}
      </p>
      {going && <Bar part={data.part} />}
      {data.state === 'failed' && failed && <p className="text-wall">{failed}</p>}
      {cancel.error && <Failed error={cancel.error} />}
      {!going && done?.(data)}
    </div>
  );
}

/** How far something is, drawn as a filling rail. */
export function Bar({ part }: { part: number }) {
  return (
    <span
      className="block h-2.5 border-[1.5px] border-ink"
      role="progressbar"
      aria-label="Done"
      aria-valuenow={Math.round(part * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
    >
      <span className="block h-full bg-ink" style={{ width: `${part * 100}%` }} />
    </span>
  );
}
