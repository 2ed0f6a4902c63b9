import type { APIRequestContext, APIResponse } from '@playwright/test';
import { expect } from './app.ts';

/** What an answer holds; one that refuses fails with its words. */
export async function ok<T>(answer: APIResponse): Promise<T> {
  expect(answer.ok(), await answer.text()).toBe(true);
  return (await answer.json()) as T;
}

/** Begins a job of a chip and waits for its end. */
async function chipJob(request: APIRequestContext, chip: number, verb: string, data: object = {}) {
  let job = await ok<{ id: number; state: string; says: string }>(
    await request.post(`/api/chips/${chip}/${verb}`, { data: { by: 'Pim', ...data } }),
  );
  await expect
    .poll(async () => {
      job = await ok(await request.get(`/api/jobs/${job.id}`));
      return job.state;
    })
    .not.toMatch(/queued|running/);
  return job;
}

const say = async (request: APIRequestContext, chip: number, verb: string, data: object) =>
  ok(await request.post(`/api/chips/${chip}/${verb}`, { data: { by: 'Pim', ...data } }));

/** The chip of a machine, read, backed up and checked, ready to be written with an image. */
export async function readyChip(request: APIRequestContext, tag: string, board: string, rom: string) {
  interface Chip {
    id: number;
    tag: string;
  }
  let chip = (await ok<Chip[]>(await request.get('/api/chips'))).find((c) => c.tag === tag);
  chip ??= await ok<Chip>(await request.post('/api/chips', { data: { tag, by: 'Pim' } }));
  const { id } = chip;
  for (let reads = 0, equal = false; reads < 5 && !equal; reads++)
    equal = (await chipJob(request, id, 'read')).says.includes('equal to the read before');
  expect((await chipJob(request, id, 'backup', { medium: 'Stick 1, blue' })).state).toBe('done');
  await say(request, id, 'confirm', { what: 'board', board, revision: 'B' });
  const roms = await ok<{ id: number; name: string }[]>(await request.get('/api/roms'));
  await say(request, id, 'image', { romId: roms.find((r) => r.name === rom)?.id });
  return id;
}

/** Writes it, whatever stands in the way at first: protection that is still on, power that goes. */
export async function writeChip(request: APIRequestContext, id: number, tag: string) {
  for (let tries = 0; tries < 5; tries++) {
    await say(request, id, 'confirm', { what: 'mains' });
    const job = await chipJob(request, id, 'write', { tag });
    if (job.state === 'done') return;
    if (job.says.includes('protection')) await say(request, id, 'confirm', { what: 'protection' });
    else {
      // The power went: the machine does not start any more, and is restored by a programmer with mains off.
      await say(request, id, 'confirm', { what: 'programmer' });
      expect((await chipJob(request, id, 'restore', { tag })).state).toBe('done');
    }
  }
  throw new Error('the chip was never written');
}
