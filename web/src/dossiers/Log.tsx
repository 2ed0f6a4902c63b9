import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { logOf } from '../api/queries';
import { Failed } from '../shell/States';
import { dayAndTime } from '../shell/time';

/** What happened to the machine, latest first: words, probes, photographs, what was made for it, its runs with their notes. */
export function Log({ tag }: { tag: string }) {
  const [open, setOpen] = useState(false);
  const [whole, setWhole] = useState(false);
  const { data, error } = useQuery({ ...logOf(tag), enabled: open });
  const lines = data?.filter((line) => whole || !line.minor);
  return (
    <details
      className="border-t-[1.5px] border-ink pt-1.5 lg:-ml-[532px]"
      onToggle={(event) => {
        setOpen(event.currentTarget.open);
      }}
    >
      <summary className="caption min-h-8 cursor-pointer">Log of the machine</summary>
      {error && <Failed error={error} />}
      {open && !data && !error && <p className="py-2 text-quiet">Reading it…</p>}
      {lines && (
        <>
          <label className="flex min-h-9 items-center gap-2">
            <input
              type="checkbox"
              className="size-4 accent-ink"
              checked={whole}
              onChange={(event) => {
                setWhole(event.target.checked);
              }}
            />
            with every step that went as written
          </label>
          <ol aria-label="Log of the machine">
            {lines.map((line, i) => (
              <li
                key={`${line.at} ${i}`}
                className="grid grid-cols-[10.5rem_minmax(0,1fr)_9rem] items-baseline gap-x-4 border-t border-rule py-1"
              >
                <span className="font-value text-sm text-quiet">{dayAndTime(line.at)}</span>
                <span className="min-w-0">
                  <span className="block truncate text-sm text-quiet">{line.about}</span>
                  {line.says}
                  {line.photo !== null && (
                    <a href={`/api/machines/${tag}/photos/${line.photo}`} target="_blank" rel="noreferrer">
                      <img
                        src={`/api/machines/${tag}/photos/${line.photo}`}
                        alt={`Photograph: ${line.says}`}
                        className="mt-1 h-16 border border-quiet object-cover"
                      />
                    </a>
                  )}
                </span>
                <span className="text-right text-sm text-quiet">{line.by ?? 'read from it'}</span>
              </li>
            ))}
          </ol>
        </>
      )}
    </details>
  );
}
