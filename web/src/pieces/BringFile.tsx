import { useId } from 'react';
import type { UseMutationResult } from '@tanstack/react-query';
import { Failed } from '../shell/States';

/** A file that somebody brings: it is read at once, and what came of it is opened. */
export function BringFile({
  label,
  accept,
  reading,
  bring,
  done,
}: {
  label: string;
  accept?: string;
  /** What is said while it is read. */
  reading: string;
  bring: UseMutationResult<{ id: number }, Error, File>;
  done: (id: number) => void;
}) {
  const id = useId();
  return (
    <div className="py-3">
      <label htmlFor={id} className="caption block">
        {label}
      </label>
      <input
        id={id}
        type="file"
        accept={accept}
        className="block w-full min-w-0 text-sm file:mr-3 file:min-h-10 file:border-[1.5px] file:border-ink file:bg-transparent file:px-3 file:text-ink"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file)
            bring.mutate(file, {
              onSuccess: (made) => {
                done(made.id);
              },
            });
        }}
      />
      {bring.isPending && <p role="status">{reading}</p>}
      {bring.error && <Failed error={bring.error} />}
    </div>
  );
}
