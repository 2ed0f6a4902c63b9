import { queryOptions } from '@tanstack/react-query';
import { api, Refusal, type Schema, take } from './client';
import { formOf } from './queries';

export const images = queryOptions({
  queryKey: ['images'],
  queryFn: () => take(api.GET('/api/images')),
});

export const image = (id: number) =>
  queryOptions({
    queryKey: ['images', id],
    queryFn: () => take(api.GET('/api/images/{id}', { params: { path: { id } } })),
  });

export const inspection = (id: number) =>
  queryOptions({
    queryKey: ['images', id, 'inspection'],
    queryFn: () => take(api.GET('/api/images/{id}/inspection', { params: { path: { id } } })),
    staleTime: Infinity,
  });

export const folderOf = (id: number, path: string) =>
  queryOptions({
    queryKey: ['images', id, 'tree', path],
    queryFn: () => take(api.GET('/api/images/{id}/tree', { params: { path: { id }, query: { path } } })),
    staleTime: Infinity,
  });

export const fileOf = (id: number, path: string) =>
  queryOptions({
    queryKey: ['images', id, 'file', path],
    queryFn: () => take(api.GET('/api/images/{id}/file', { params: { path: { id }, query: { path } } })),
    staleTime: Infinity,
  });

export const recipes = (system?: string) =>
  queryOptions({
    queryKey: ['recipes', system ?? ''],
    queryFn: () => take(api.GET('/api/recipes', { params: { query: system ? { system } : {} } })),
  });

export const recipe = (id: string) =>
  queryOptions({
    queryKey: ['recipes', 'one', id],
    queryFn: () => take(api.GET('/api/recipes/{id}', { params: { path: { id } } })),
  });

export const script = (id: string) =>
  queryOptions({
    queryKey: ['recipes', 'script', id],
    queryFn: () => take(api.GET('/api/recipes/{id}/script', { params: { path: { id } } })),
  });

/** What a recipe, or the draft of one, would change. */
export const preview = (id: number, patch: { recipe?: string; draft?: string }) =>
  queryOptions({
    queryKey: ['images', id, 'preview', patch],
    queryFn: () =>
      take(
        api.POST('/api/images/{id}/patch/preview', {
          params: { path: { id } },
          body: {
            recipe: patch.recipe ?? null,
            draft: patch.draft ?? null,
            by: 'preview',
            dryRun: true,
            accept: null,
          },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  });

export const onMachine = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'images'],
    queryFn: () => take(api.GET('/api/machines/{tag}/images', { params: { path: { tag } } })),
  });

export const job = (id: number) =>
  queryOptions({
    queryKey: ['jobs', id],
    queryFn: () => take(api.GET('/api/jobs/{id}', { params: { path: { id } } })),
  });

export const media = queryOptions({
  queryKey: ['media'],
  queryFn: () => take(api.GET('/api/media')),
});

export const mediumPlan = (id: number, body: Schema['PlanIn']) =>
  queryOptions({
    queryKey: ['media', id, 'plan', body],
    queryFn: () => take(api.POST('/api/media/{id}/plan', { params: { path: { id } }, body })),
    placeholderData: (before) => before,
    retry: false,
  });

export const components = (system: string, order: string) =>
  queryOptions({
    queryKey: ['components', system, order],
    queryFn: () =>
      take(
        api.GET('/api/systems/{system}/components', {
          params: { path: { system }, query: order ? { order } : {} },
        }),
      ),
  });

const chunkBytes = 16 << 20;

/**
 * Sends a file in pieces. What has arrived stays: after a break it goes on where the server says, a few times by itself, and
 * again when the same file is dropped once more.
 */
export async function send(
  id: number,
  file: File,
  progress: (sent: number) => void,
): Promise<Schema['ImageSheet']> {
  let at = await offset(id, file);
  for (let failures = 0; ;) {
    progress(at);
    const piece = file.slice(at, Math.min(file.size, at + chunkBytes));
    try {
      const response = await fetch(`/api/images/${id}/content`, {
        method: 'PUT',
        headers: {
          'Content-Type': 'application/octet-stream',
          // All of it is there, and only the end was not heard: it is asked to finish.
          'Content-Range':
            at === file.size ? `bytes */${file.size}` : `bytes ${at}-${at + piece.size - 1}/${file.size}`,
        },
        body: piece,
      });
      if (!response.ok) throw new Refusal(response.status, (await response.json()) as object);
      const sheet = (await response.json()) as Schema['ImageSheet'];
      failures = 0;
      if (sheet.image.sha256 !== null) return sheet;
      at = sheet.image.received;
    } catch (error) {
      if (error instanceof Refusal && error.status !== 409) throw error;
      if (++failures > 5) throw error;
      await new Promise((again) => setTimeout(again, 500 * failures));
      at = await offset(id, file);
    }
  }
}

/** How much of a file is there already; another file of the same name and size is not put behind it. */
async function offset(id: number, file: File) {
  const answer = await fetch(`/api/images/${id}/content`, { method: 'HEAD' });
  const at = Number(answer.headers.get('Upload-Offset') ?? 0);
  const ends = answer.headers.get('Upload-Ends');
  if (at > 0 && ends && ends !== (await endsOf(file, at)))
    throw new Refusal(409, {
      detail: 'Another file of this name and size was begun: this one does not follow on it.',
      where: file.name,
      wanted: 'The file that was begun, or the unfinished image taken off the shelf first.',
    });
  return at;
}

const endBytes = 1 << 20;

/** SHA-256 over the first and the last MiB of what was sent, as the server works it out. */
async function endsOf(file: File, sent: number) {
  const length = Math.min(endBytes, sent);
  const both = await new Blob([file.slice(0, length), file.slice(sent - length, sent)]).arrayBuffer();
  const sum = await crypto.subtle.digest('SHA-256', both);
  return [...new Uint8Array(sum)].map((b) => b.toString(16).padStart(2, '0')).join('');
}

/** Makes an image of a kernel and an archive. */
export const makeImage = (kernel: File, archive: File, about: Record<string, string>) =>
  take(api.POST('/api/images/made', formOf(about, [], { kernel, archive })));
