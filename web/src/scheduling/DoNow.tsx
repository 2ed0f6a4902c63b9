import { Link } from 'react-router';
import type { Schema } from '../api/client';
import { clockTime } from '../shell/time';

/** What everybody does now, by the plan in force. */
export function DoNow({ now }: { now: Schema['DoNow'][] }) {
  if (now.length === 0) return null;
  return (
    <ul aria-label="What to do now" className="pt-2">
      {now.map((n) => (
        <li key={n.person} className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-1">
          <b className="w-36 shrink-0">{n.person}</b>
          {n.tag ? (
            <Link
              to={`/machines/${n.tag}/${n.begun ? 'run' : `routes?route=${n.route ?? ''}`}`}
              className="min-w-0 flex-1 hover:underline"
            >
              <b className="font-value">{n.tag}</b> {n.begun ? n.says : 'Begin its run.'}{' '}
              <span className="text-sm whitespace-nowrap text-quiet">
                about {n.minutes} min
                {n.from && `, from ${clockTime(n.from)}`}
                {n.why && `. ${n.why}`}
              </span>
            </Link>
          ) : (
            <span className="text-quiet">Nothing is left by this plan.</span>
          )}
        </li>
      ))}
    </ul>
  );
}
