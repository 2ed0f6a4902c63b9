import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { APIRequestContext } from '@playwright/test';
import { expect, type Page, test } from './app.ts';
import { ok, readyChip, writeChip } from './chips.ts';
import { press, scan, tabTo } from './keyboard.ts';
import { bring, bundleOf, heading, name, settleQuestions, write } from './walk.ts';

// Ways on which each step leaves another machine, walked to their hand-over. Nothing is gone on with "despite": where a step asks for a
// reason, the walk fails. The clock runs, so that waits have their time.
test.use({ hurry: 900 });

/** Whether the wait of a machine's run has had its shortest sensible time, by the clock of the application. */
async function waited(request: APIRequestContext, tag: string) {
  const { run } = await ok<{ run: { id: string } }>(await request.get(`/api/machines/${tag}`));
  const { state } = await ok<{ state: { waiting: { shortestAt: string } | null } }>(
    await request.get(`/api/runs/${run.id}`),
  );
  const { now } = await ok<{ now: string }>(await request.get('/api/health'));
  return Date.parse(now) >= Date.parse(state.waiting?.shortestAt ?? now);
}

/** The way of a machine to its hand-over, step by step, by keyboard; gives what each step said. */
async function walk(
  page: Page,
  tag: string,
  system: string,
  probe: (code: string) => Buffer,
  at: [RegExp, () => Promise<void>][] = [],
  measured: Record<string, string> = {},
) {
  const region = page.getByRole('region', { name: 'Run', exact: true });
  const read: string[] = [];
  for (let step = 0; step < 150; step++) {
    const text = await heading(page).innerText();
    if (text === 'Every step is done.') break;
    read.push(text);
    for (const [when, deed] of at) if (when.test(text)) await deed();
    // Nothing that the plan needs is missing when its step comes.
    await expect(region.getByLabel('Why it goes on without')).toHaveCount(0);
    const main = await region
      .getByRole('button', { name: /^(Done|As it should be|Do it|It has begun|It worked)$/ })
      .first()
      .innerText();
    if (main === 'Do it') {
      await tabTo(page, 'input[data-scan=field]');
      await scan(page, tag);
    } else if (main === 'It has begun') {
      await press(page, 'It has begun');
      await expect.poll(() => waited(page.request, tag)).toBe(true);
      await press(page, 'It has ended');
    } else if (main === 'It worked') {
      const worked = region.getByRole('button', { name: 'It worked' }).first();
      await expect(worked).toBeEnabled();
      await worked.press('Enter');
    } else if ((await region.getByLabel('System on it').count()) > 0) await name(page, system);
    else if ((await region.getByRole('button', { name: 'Give the code' }).count()) > 0) {
      await press(page, 'Give the code');
      await bring(page, probe(await region.getByLabel('Code of this step').innerText()));
      await expect(region.getByRole('status')).toContainText('A new bundle with this code is in.');
      await press(page, 'Done');
    } else await press(page, main);
    await expect(heading(page)).not.toHaveText(text);
  }
  await expect(heading(page)).toHaveText('Every step is done.');
  for (const [key, value] of Object.entries(measured))
    await ok(
      await page.request.put(`/api/machines/${tag}/facts/${key}`, {
        data: { value, source: 'looked at the case', by: 'Pim' },
      }),
    );
  const run = await ok<{ run: { id: string } }>(await page.request.get(`/api/machines/${tag}`));
  const record = await (await page.request.get(`/api/runs/${run.run.id}`)).text();
  expect(record).not.toContain('"despite"');
  await page.goto(`/machines/${tag}/handover`);
  await expect(page.getByRole('heading', { name: `It may leave with ${system}.` })).toBeVisible();
  return read.join('\n');
}

/** Builds the kit of a machine and puts it on the installer's image. */
async function kitOnImage(request: APIRequestContext, tag: string, system: string) {
  const kit = await ok<{ id: number }>(
    await request.post(`/api/machines/${tag}/kit`, { data: { system, by: 'Pim' } }),
  );
  const { images } = await ok<{ images: { image: { id: number; system: string } }[] }>(await request.get('/api/images'));
  const imageId = images.find(({ image }) => image.system === system)?.image.id;
  let job = await ok<{ id: number; state: string }>(
    await request.post(`/api/kits/${kit.id}/images`, { data: { imageId, by: 'Pim' } }),
  );
  await expect
    .poll(async () => (job = await ok(await request.get(`/api/jobs/${job.id}`))).state)
    .toBe('done');
}

/** Chooses a route on the page of the machine and begins it. */
async function begin(page: Page, tag: string, system: string, name: string, school: string) {
  await page.request.put(`/api/machines/${tag}/aim`, { data: { system, by: 'Pim', why: 'the order asks for it' } });
  const routes = await ok<{ id: string; system: string; school: string }[]>(
    await page.request.get(`/api/machines/${tag}/routes`),
  );
  await settleQuestions(
    page.request,
    tag,
    routes.find((r) => r.system === system && r.school === school)?.id ?? '',
  );
  await page.goto(`/machines/${tag}/prepare?aim=${system}`);
  await write(page, school === 'comply' ? 'Card A' : 'Stick 1, blue');
  await page.goto(`/machines/${tag}/routes?aim=${system}`);
  await page.locator(`button[data-route=${school}]`, { hasText: name }).first().press('Enter');
  await press(page, 'Begin the run');
  await expect(page).toHaveURL(new RegExp(`${tag}/run`));
}

const slate = (serial: string, uefi: boolean) => (code: string) =>
  bundleOf(
    `sys_vendor=Larkfield\nproduct_name=Slate 11\nproduct_serial=${serial}\nboard_name=WAGTAIL\n`,
    code,
    3_970_000,
    uefi ? {} : { 'efi.txt': 'folder no\n' },
  );

const fact = async (page: Page, tag: string, key: string) => {
  const { facts } = await ok<{ facts: { key: string; value: unknown; origin: string }[] }>(
    await page.request.get(`/api/machines/${tag}`),
  );
  return facts.find((f) => f.key === key);
};

test('a locked machine gets full UEFI, and is another machine from then on', { tag: '@long' }, async ({ page }) => {
  const tag = 'MR-0411';
  const chip = await readyChip(page.request, tag, 'WAGTAIL', 'Full UEFI 1.4 for WAGTAIL');
  await begin(page, tag, 'wickerwork-26', 'Wickerwork 26', 'reflash');
  const told = await walk(page, tag, 'Wickerwork 26', slate('LS11-90417', true), [
    [/^Write full 64-bit UEFI/, () => writeChip(page.request, chip, tag)],
  ]);
  expect(told).toContain('Press Esc while the sign of the new firmware is on the screen and choose');
  expect(told).not.toContain('Press B at the unlocked-start screen and choose the');
  expect(await fact(page, tag, 'firmware.kind')).toMatchObject({ value: 'uefi64' });
  expect(await fact(page, tag, 'firmware.payload')).toMatchObject({ value: 'full', origin: 'work' });
});

test('a locked machine keeps its maker’s firmware, and starts by legacy boot beside it', { tag: '@long' }, async ({
  page,
}) => {
  const tag = 'MR-0413';
  await ok(
    await page.request.put(`/api/machines/${tag}/facts/plan.firmware`, {
      data: { value: 'keep', source: 'chosen', by: 'Pim' },
    }),
  );
  const chip = await readyChip(page.request, tag, 'WAGTAIL', 'Legacy boot 1.1 for WAGTAIL');
  await begin(page, tag, 'driftway', 'Driftway', 'reflash');
  const told = await walk(page, tag, 'Driftway', slate('LS11-90433', false), [
    [/^Add /, () => writeChip(page.request, chip, tag)],
  ]);
  expect(told).toContain('Press L at the unlocked-start screen');
  expect(told).toContain('New table: MBR');
  expect(await fact(page, tag, 'firmware.kind')).toMatchObject({ value: 'bios' });
});

test('a box gets other firmware, and then a system that asks for a kit', { tag: '@long' }, async ({ page }) => {
  const tag = 'MR-0416';
  const chip = await readyChip(page.request, tag, 'DIPPER', 'Full UEFI 1.4 for DIPPER');
  await page.request.put(`/api/machines/${tag}/aim`, {
    data: { system: 'canzona-6', by: 'Pim', why: 'the order asks for it' },
  });
  const [donor] = await ok<{ id: string }[]>(await page.request.get(`/api/machines/${tag}/donors?system=canzona-6`));
  await ok(
    await page.request.post(`/api/machines/${tag}/identity`, { data: { level: 'model', donor: donor?.id, by: 'Pim' } }),
  );
  await kitOnImage(page.request, tag, 'canzona-6');
  const given = (
    await ok<{ fields: { name: string; value: string }[]; model: string | null; boardId: string | null }[]>(
      await page.request.get(`/api/machines/${tag}/identity`),
    )
  ).at(-1);
  await begin(page, tag, 'canzona-6', 'Canzona 6', 'reflash');
  const told = await walk(
    page,
    tag,
    'Canzona 6',
    (code) =>
      bundleOf(
        `sys_vendor=Ottavine\nproduct_name=${given?.model ?? ''}\nproduct_serial=LC2-10553\nboard_name=${given?.boardId ?? ''}\nboard_serial=BLC2-10553\n`,
        code,
        8_053_000,
      ),
    [[/^Write full 64-bit UEFI/, () => writeChip(page.request, chip, tag)]],
  );
  expect(told).toContain(`The kit of ${tag} was written with the installer`);
});

/** A card for a small board: one FAT partition with its settings, as such boards read it. */
function card(): Buffer {
  const folder = mkdtempSync(join(tmpdir(), 'fresh-boot-card-'));
  const image = join(folder, 'card.img');
  const run = (program: string, args: string[], input?: string) =>
    execFileSync(program, args, { input, stdio: ['pipe', 'ignore', 'inherit'], env: { ...process.env, PATH: `${process.env['PATH']}:/sbin:/usr/sbin` } });
  run('truncate', ['-s', '24M', image]);
  run('sfdisk', ['-q', image], 'label: dos\nstart=2048, type=c\n');
  run('mkfs.vfat', ['--offset', '2048', '-n', 'THIMBLE', image, '23552']);
  run('mcopy', ['-i', `${image}@@1M`, '-', '::/board.txt'], 'memory_cap=none\nclock=1500\n');
  const bytes = readFileSync(image);
  rmSync(folder, { recursive: true });
  return bytes;
}

test('a small board starts from its card, and nothing is asked that it has not', { tag: '@long' }, async ({ page }) => {
  const tag = 'MR-0419';
  const bytes = card();
  const made = await ok<{ image: { id: number } }>(
    await page.request.post('/api/images', {
      data: { name: 'thimble-desk.img', system: 'thimble-desk', build: '5.1', sizeBytes: bytes.length, by: 'Pim' },
    }),
  );
  await ok(
    await page.request.put(`/api/images/${made.image.id}/content`, {
      data: bytes,
      headers: {
        'content-type': 'application/octet-stream',
        'content-range': `bytes 0-${bytes.length - 1}/${bytes.length}`,
      },
    }),
  );
  await begin(page, tag, 'thimble-desk', 'Thimble Desk', 'comply');
  // It has no table that names its serial number or its modules: who stands before it looks, and says so.
  const told = await walk(
    page,
    tag,
    'Thimble Desk',
    (code) => {
      const cores = [0, 1, 2, 3].map((n) => `processor\t: ${n}\nFeatures\t: fp asimd crc32\n`);
      return bundleOf('', code, 15_900_000, {
        'cpuinfo.txt': `${cores.join('\n')}\nModel\t\t: Thimble Board Q\n`,
        'efi.txt': 'folder no\n',
      });
    },
    [],
    { 'memory.installedMiB': '16384', 'identity.looked': 'yes' },
  );
  await expect(page.getByRole('list', { name: 'Acceptance list' })).toContainText('own boot code');
  expect(told).not.toMatch(/settings page|boot menu/);
});
