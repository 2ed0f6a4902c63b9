import { clockTime } from '../shell/time';
import type { Run } from './run';

/** Notes, photographs and whatever else was said at a step: what one was told is read where the hand needs it. */
export function Happened({ run, step }: { run: Run; step: string }) {
  const here = run.events.filter(
    (e) =>
      (e.stepId === step || (e.kind === 'undone' && e.seq === run.seq)) &&
      (e.kind === 'photo' || e.says !== null),
  );
  if (here.length === 0) return null;
  return (
    <ol aria-label="Said at this step" className="border-t border-rule py-1">
      {here.slice(-5).map((event) => (
        <li key={event.eventId} className="flex items-center gap-4 py-0.5">
          <span className="w-12 font-value text-sm text-quiet">{clockTime(event.at)}</span>
          <span className="flex-1">
            {event.kind === 'photo' ? (
              <a
                href={`/api/machines/${run.tag}/photos/${event.data['photo'] ?? ''}`}
                target="_blank"
                rel="noreferrer"
              >
                <img
                  src={`/api/machines/${run.tag}/photos/${event.data['photo'] ?? ''}`}
                  alt={`Photograph of this step, by ${event.by}`}
                  className="h-16 border border-quiet object-cover"
                />
              </a>
            ) : (
              event.says
            )}
          </span>
          <span className="text-sm text-quiet">{event.by}</span>
        </li>
      ))}
    </ol>
  );
}
