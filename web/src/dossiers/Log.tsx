import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { logOf } from '../api/queries';
import { LogRow } from '../logbook/LogRow';
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
              <LogRow key={`${line.at} ${i}`} line={line} when={dayAndTime(line.at)} />
            ))}
          </ol>
        </>
      )}
    </details>
  );
}
