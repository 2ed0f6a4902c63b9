#!/usr/bin/env node
// Kills a server without warning, again and again, in the middle of every kind of work and during its start, and looks after each
// start whether anything that was answered is lost, anything is stuck, or a folder was moved that nobody asked to move.
//
//   node scripts/kills.mjs [--kills 300] [--seed 1] [--server PATH/FreshBoot.Server.dll]
//
// It needs the debug build and the demo's images; docs/reliability.md has its figures and what each promise is.
import { execFileSync, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const home = join(dirname(fileURLToPath(import.meta.url)), '..');
const option = (name, otherwise) => {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? otherwise : process.argv[at + 1];
};
const kills = Number(option('kills', 300));
const dll = option('server', join(home, 'src/FreshBoot.Server/bin/Debug/net10.0/FreshBoot.Server.dll'));
let seed = Number(option('seed', 1));
// A small generator (mulberry32), so that a run can be repeated.
const random = () => {
  seed = (seed + 0x6d2b79f5) | 0;
  let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
};
const pause = (ms) => new Promise((done) => setTimeout(done, ms));
const port = await new Promise((resolve) => {
  const asked = createServer();
  asked.listen(0, '127.0.0.1', () => {
    const { port } = asked.address();
    asked.close(() => resolve(port));
  });
});
const base = `http://localhost:${port}`;
const data = mkdtempSync(join(tmpdir(), 'fresh-boot-kills-'));
execFileSync(join(home, 'scripts/demo-template.sh'), [data], { stdio: ['ignore', 'ignore', 'inherit'] });

let server;
const begin = () => {
  server = spawn('dotnet', [dll, '--demo', 'true', '--cloned', 'true', '--port', String(port)], {
    env: { ...process.env, FRESHBOOT_HOME: home, FRESHBOOT_DATA: data },
    stdio: ['ignore', 'ignore', 'inherit'],
  });
};
const kill = async () => {
  if (server.exitCode !== null || server.signalCode !== null) return;
  const gone = new Promise((done) => server.once('exit', done));
  server.kill('SIGKILL');
  await gone;
};
const answers = async () => {
  while (server.exitCode === null && server.signalCode === null) {
    if (await fetch(`${base}/api/health`).then((r) => r.ok, () => false)) return;
    await pause(100);
  }
  throw new Error(`the server ended by itself with ${server.exitCode}`);
};
const get = async (path) => (await fetch(base + path)).json();
const send = (method, path, body) =>
  fetch(base + path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
const job = async (answer) => {
  const { id } = await answer.json();
  for (;;) {
    const now = await get(`/api/jobs/${id}`);
    if (!['queued', 'running'].includes(now.state)) return now;
    await pause(100);
  }
};

// What was answered, and has to be there ever after.
const facts = new Map();
let tags = new Set();
let kept = null;
const faults = [];
const counts = {};
let number = 0;
let restored = false;

/** Each kind of work: begins it, keeps what is answered, and never waits for its end longer than the kill lets it. */
const work = {
  fact: async () => {
    const value = String(1_000_000 + number++);
    const answer = await send('PUT', '/api/machines/MR-0404/facts/firmware.reachBytes', { value, source: 'asked', by: 'Pim' });
    if (answer.ok) facts.set('MR-0404', value);
  },
  intake: async () => {
    const tag = `KL-${String(number++).padStart(5, '0')}`;
    const answer = await fetch(`${base}/api/machines/csv?by=Pim`, {
      method: 'POST',
      headers: { 'content-type': 'text/csv' },
      body: `tag,model\n${tag},Stile 14\n`,
    });
    if (answer.ok) tags.add(tag);
  },
  order: () => send('POST', '/api/orders', { order: { id: '', name: `Order ${number++}`, about: 'x', machines: 1, due: null, newOwner: true, shared: false, everyday: true, lookedAfterBy: 'owner', needs: [] }, by: 'Pim' }),
  patch: async () => {
    const { images } = await get('/api/images');
    const image = images.map((i) => i.image).find((i) => i.system === 'tessaly-6-r1' && i.whole && i.parent === null);
    if (image) await send('POST', `/api/images/${image.id}/patch`, { recipe: 'tessaly-6-r1-gates', by: 'Pim' });
  },
  medium: async () => {
    const { images } = await get('/api/images');
    const stick = (await get('/api/media')).find((m) => m.label.startsWith('Stick 1'));
    const image = images.map((i) => i.image).find((i) => i.system === 'wickerwork-26' && i.whole);
    if (image) await send('POST', `/api/media/${stick.id}/write`, { imageId: image.id, label: stick.label, by: 'Pim', tags: [], port: 3 });
  },
  chip: async () => {
    const chip = (await get('/api/chips'))[0];
    await send('POST', `/api/chips/${chip.id}/read`, { by: 'Pim', medium: null, tag: null });
  },
  identity: () => send('POST', '/api/machines/MR-0408/identity', { level: 'full', by: 'Pim', donor: null }),
  kit: () => send('POST', '/api/machines/MR-0408/kit', { system: 'canzona-6', by: 'Pim' }),
  recipe: async () => {
    const { recipes } = await get('/api/recipes').then((r) => (Array.isArray(r) ? { recipes: r } : r));
    if (recipes?.[0]) await fetch(`${base}/api/recipes/${recipes[0].id}`);
  },
  backup: async () => {
    const here = { facts: new Map(facts), tags: new Set(tags) };
    const made = await job(await send('POST', '/api/backups', { by: 'Pim' }));
    if (made.state === 'done') kept = here;
  },
  restore: async () => {
    const [latest] = (await get('/api/backups')).backups;
    if (!latest || kept === null) return;
    const ready = await job(await send('POST', `/api/backups/${latest.id}/restore`, { by: 'Pim' }));
    // From here on what was answered since is put aside at the next start, as the page says.
    if (ready.state === 'done') restored = true;
  },
};

const look = async (round, kind) => {
  const say = (what) => faults.push(`kill ${round}, ${kind}: ${what}`);
  const list = new Set((await get('/api/machines')).map((m) => m.tag));
  if (restored) {
    for (const tag of [...tags]) if (!list.has(tag) && kept.tags.has(tag)) say(`${tag} of the back-up is gone`);
    tags = new Set([...tags].filter((t) => list.has(t)));
    facts.clear();
    restored = false;
  }
  for (const tag of tags) if (!list.has(tag)) say(`${tag} was answered and is gone`);
  for (const [tag, value] of facts) {
    const { facts: now } = await get(`/api/machines/${tag}`);
    const found = now.find((f) => f.key === 'firmware.reachBytes')?.value;
    if (Number(found) < Number(value)) say(`${tag}: ${value} was answered, ${found} is there`);
  }
  for (const j of await get('/api/jobs')) if (['queued', 'running'].includes(j.state)) say(`job ${j.id} (${j.kind}) is stuck`);
  for (const m of await get('/api/media')) if (m.state === 'writing') say(`${m.label} is being written for ever`);
  for (const folder of ['images', 'media', 'work'])
    for (const file of existsSync(join(data, folder)) ? readdirSync(join(data, folder)) : [])
      if (file.endsWith('.part') || folder === 'work') say(`${folder}/${file} was left behind`);
  if (existsSync(join(data, 'backups')))
    for (const file of readdirSync(join(data, 'backups'))) if (file.startsWith('.')) say(`backups/${file} was left behind`);
  if (existsSync(join(data, 'restore'))) say('restore/ is still there');
};

begin();
await answers();
const kinds = Object.keys(work);
for (let round = 1; round <= kills; round++) {
  const inStart = round % 4 === 0;
  const kind = inStart ? 'start' : kinds[round % kinds.length];
  counts[kind] = (counts[kind] ?? 0) + 1;
  if (inStart) {
    await kill();
    begin();
    await pause(random() * 3000);
  } else {
    // A lay-ready is let through to its end, so that the start that follows is one that restores.
    const going = work[kind]().catch(() => undefined);
    await (kind === 'restore' || kind === 'fact' || kind === 'intake' ? going : Promise.race([going, pause(random() * 1500)]));
    await pause(random() * 60);
  }
  await kill();
  begin();
  await answers();
  await look(round, kind);
  if (round % 20 === 0) console.log(`${round} kills, ${faults.length} faults`);
}
await kill();
rmSync(data, { recursive: true, force: true });
console.log(JSON.stringify(counts));
for (const fault of faults) console.log(fault);
console.log(`${kills} kills, ${faults.length} faults`);
process.exit(faults.length === 0 ? 0 : 1);
