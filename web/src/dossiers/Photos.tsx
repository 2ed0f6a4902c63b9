import { useQuery } from '@tanstack/react-query';
import { useId } from 'react';
import { api, take } from '../api/client';
import { formOf, photos, useWrite } from '../api/queries';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** Photos of the machine as it came in: a dent, a liquid mark, a label. */
export function Photos({ tag }: { tag: string }) {
  const shown = useQuery(photos(tag)).data ?? [];
  return (
    <div className="flex flex-wrap items-center gap-2 pt-2">
      {shown.map((photo, i) => (
        <a key={photo.id} href={`/api/machines/${tag}/photos/${photo.id}`} target="_blank" rel="noreferrer">
          <img
            src={`/api/machines/${tag}/photos/${photo.id}`}
            alt={photo.note || `Photo ${i + 1} of ${tag}, by ${photo.by}`}
            className="size-16 border border-quiet object-cover"
          />
        </a>
      ))}
      <AttachPhotos tag={tag} says="Attach photos" />
    </div>
  );
}

/** Takes pictures to the machine's dossier at once; what they show is their note. */
export function AttachPhotos({ tag, says, note = '' }: { tag: string; says: string; note?: string }) {
  const [who] = useWho();
  const id = useId();
  const attach = useWrite((files: File[]) =>
    take(
      api.POST('/api/machines/{tag}/photos', {
        params: { path: { tag } },
        ...formOf({ by: who || nobody, note }, files),
      }),
    ),
  );
  return (
    <>
      <label htmlFor={id} className="text-sm font-semibold">
        {says}
      </label>
      <input
        id={id}
        type="file"
        multiple
        accept="image/jpeg,image/png,image/webp"
        className="min-w-0 text-sm file:mr-3 file:min-h-9 file:border-[1.5px] file:border-quiet file:bg-transparent file:px-3 file:text-ink"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = '';
          if (files.length > 0) attach.mutate(files);
        }}
      />
      {attach.isSuccess && (
        <span role="status" className="text-sm text-clear">
          Kept with the machine.
        </span>
      )}
      {attach.error && <Failed error={attach.error} />}
    </>
  );
}
