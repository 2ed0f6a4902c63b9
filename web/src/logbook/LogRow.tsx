import { Link } from 'react-router';
import type { Schema } from '../api/client';

/** Something that happened: when, about what, and who did or said it. */
export function LogRow({
  line,
  when,
  named = false,
}: {
  line: Schema['LogLine'];
  when: string;
  /** Whether the machine stands beside it. */
  named?: boolean;
}) {
  const photo = line.photo !== null && `/api/machines/${line.tag}/photos/${line.photo}`;
  return (
    <li
      className={`grid items-baseline gap-x-4 border-t border-rule py-1 ${named ? 'grid-cols-[3.5rem_6rem_minmax(0,1fr)_9rem]' : 'grid-cols-[10.5rem_minmax(0,1fr)_9rem]'}`}
    >
      <span className="font-value text-sm text-quiet">{when}</span>
      {named &&
        (line.tag ? (
          <Link to={`/machines/${line.tag}`} className="font-value font-semibold hover:underline">
            {line.tag}
          </Link>
        ) : (
          <span />
        ))}
      <span className="min-w-0">
        <span className="block truncate text-sm text-quiet">{line.about}</span>
        {line.says}
        {photo && (
          <a href={photo} target="_blank" rel="noreferrer">
            <img
              src={photo}
              alt={`Photograph: ${line.says}`}
              className="mt-1 h-16 border border-quiet object-cover"
            />
          </a>
        )}
      </span>
      <span className="text-right text-sm text-quiet">{line.by ?? 'read from it'}</span>
    </li>
  );
}
