import type { APIRequestContext } from '@playwright/test';
import { expect, seriousFaults, test } from './app.ts';
import { press, tabTo } from './keyboard.ts';
import { bring, bundleOf, heading } from './walk.ts';

/** A device as `lspci -vmm -nn` names it. */
const device = (slot: number, kind: string, id: string, vendor: string, name: string) =>
  `Slot:\t00:0${slot}.0\nClass:\t${kind} [${id}]\nVendor:\t${vendor} [c0de]\nDevice:\t${name} [020${slot}]\n\n`;
const graphics = device(1, 'VGA compatible controller', '0300', 'Corvane', 'C8 graphics');
const network = device(2, 'Network controller', '0200', 'Netherby', 'NB-12');

const whole = { memoryKb: 16_180_000, devices: graphics + network };
const lacking = { memoryKb: 5_990_000, devices: graphics };

const probeOf = (serial: string, { memoryKb, devices }: typeof whole, code?: string) =>
  bundleOf(
    `sys_vendor=Brackwater\nproduct_name=Stile 14\nproduct_serial=${serial}\nboard_name=ST14-8\n`,
    code,
    memoryKb,
    { 'lspci.txt': devices },
  );

interface Run {
  id: string;
  seq: number;
  state: { code: string | null };
  steps: { id: string; kind: string; wants: string | null; on: object | null; options: string[] }[];
}

const measured: Record<string, string> = {
  'os.name': 'Tessaly 6, release 2',
  'firmware.kind': 'uefi64',
  'firmware.startedBy': 'uefi',
  'firmware.secureBoot': 'able',
  'memory.type': 'DDR4 SO-DIMM',
  'storage.0.sizeBytes': '128 GB',
  'cpu.level': 'v3',
  'cpu.arch': 'x86',
  'storage.0.kind': 'flash',
  'cpu.wordBits': '64',
};

/** Takes a machine in, and carries its run out over HTTP: up to the second probe, or to its end. */
async function runOf(request: APIRequestContext, tag: string, serial: string, toTheEnd: boolean) {
  const ok = async (answer: Awaited<ReturnType<APIRequestContext['post']>>) => {
    expect(answer.ok(), await answer.text()).toBe(true);
    return (await answer.json()) as unknown;
  };
  const bundle = (code?: string) => ({
    files: { name: 'b.tar.gz', mimeType: 'application/gzip', buffer: probeOf(serial, whole, code) },
  });
  const enter = (key: string, value: string | number) =>
    request.put(`/api/machines/${tag}/facts/${key}`, { data: { value, source: 'seen', by: 'Pim' } });
  await ok(
    await request.post('/api/machines/import', { multipart: { assetTag: tag, ...bundle() } }),
  );
  for (const [key, value] of Object.entries({
    'release.owner': 'given',
    'release.data': 'not-wanted',
    'release.encryption': 'none',
    'release.managed': 'free',
    'parts.battery': 'sound',
    'parts.storage': 'sound',
    'tpm.version': 'absent',
    'plan.account': 'maker',
    'plan.edition': 'Home',
    'memory.installedMiB': 16384,
  }))
    await ok(await enter(key, value));
  const routes = (await ok(await request.get(`/api/machines/${tag}/routes`))) as {
    id: string;
    system: string;
    school: string;
  }[];
  const route = routes.find((r) => r.system === 'tessaly-6-r2' && r.school === 'patch');
  let run = (await ok(
    await request.post(`/api/machines/${tag}/runs`, { data: { routeId: route?.id, by: 'Pim' } }),
  )) as Run;
  const say = async (kind: string, stepId: string, data: object) => {
    run = (await ok(
      await request.post(`/api/runs/${run.id}/events`, {
        data: { eventId: crypto.randomUUID(), expectedSeq: run.seq, kind, stepId, by: 'Pim', data },
      }),
    )) as Run;
  };
  const despite = 'made elsewhere';
  for (const step of run.steps.filter((s) => s.on === null)) {
    if (step.wants === 'probe' && !toTheEnd) return;
    if (step.kind === 'wait' || step.wants === 'probe') await say('begun', step.id, {});
    if (step.wants === 'probe')
      await ok(
        await request.post(`/api/machines/${tag}/bundles`, {
          multipart: bundle(run.state.code ?? undefined),
        }),
      );
    else if (step.wants) await ok(await enter(step.wants, measured[step.wants] ?? 'yes'));
    await say(
      'done',
      step.id,
      step.kind === 'confirm'
        ? { tag }
        : step.kind === 'choose'
          ? { chosen: step.options[0] }
          : step.kind === 'trial'
            ? { worked: step.options[0], despite }
            : { despite },
    );
  }
}

test('a new probe that lacks a device and 10 GiB is refused, the fault is found and mended, it leaves, and an update reaches its owner', { tag: '@long' }, async ({
  page,
}) => {
  const tag = 'MR-0861';
  await runOf(page.request, tag, 'BW-14C8-861', false);

  // The new probe sees 6 of 16 GiB, and no network card: the step is held, and nothing can be handed over.
  await page.goto(`/machines/${tag}/run`);
  const region = page.getByRole('region', { name: 'Run', exact: true });
  await press(page, 'Give the code');
  const proof = await heading(page).innerText();
  const code = await region.getByLabel('Code of this step').innerText();
  await bring(page, probeOf('BW-14C8-861', lacking, code));
  const otherwise = region.getByRole('region', { name: 'The new probe shows it otherwise' });
  await expect(otherwise).toContainText('All memory is seen');
  await expect(otherwise).toContainText('gone since: Network: Netherby NB-12');
  await expect(region.getByRole('button', { name: 'Done' })).toBeDisabled();
  expect((await page.request.get(`/api/machines/${tag}/handover`)).status()).toBe(409);
  expect(await seriousFaults(page)).toEqual([]);

  // It stopped: the fault finder is asked at the rung that broke, and what mends it becomes the next step.
  await press(page, 'It stopped');
  await page.keyboard.type('6 of 16 GiB, no network card');
  await page.keyboard.press('Enter');
  await page.getByRole('link', { name: 'Find the fault' }).press('Enter');
  await page.getByRole('button', { name: /memory that is fitted is not there/ }).press('Enter');
  const causes = page.getByRole('list', { name: 'Causes' });
  await expect(causes.getByRole('listitem').first()).toBeVisible();
  const loose = causes.getByRole('listitem').filter({ hasText: 'A memory module does not sit right' });
  const opener = loose.getByRole('button').first();
  if ((await opener.getAttribute('aria-expanded')) !== 'true') await opener.press('Enter');
  await loose.getByRole('button', { name: 'That is it: make it the next step' }).press('Enter');
  await expect(page).toHaveURL(new RegExp(`${tag}/run`));
  await expect(heading(page)).toContainText('Take the modules out');
  await press(page, 'Done');

  // Mended, a further probe proves it, with the code that the step gives now.
  await expect(heading(page)).toHaveText(proof);
  await press(page, 'Give the code');
  await bring(
    page,
    probeOf('BW-14C8-861', whole, await region.getByLabel('Code of this step').innerText()),
  );
  await expect(otherwise).toHaveCount(0);
  await press(page, 'Done');
  const list = page.getByRole('list', { name: 'Acceptance list' });
  for (let step = 0; step < 40 && (await heading(page).innerText()) !== 'Every step is done.'; step++) {
    const text = await heading(page).innerText();
    const why = region.getByLabel('Why it goes on without');
    if ((await why.count()) > 0) await why.fill('made elsewhere');
    const main = region.getByRole('button', { name: /^(Done|As it should be|Do it)$/ }).first();
    if ((await main.innerText()) === 'Do it') {
      await tabTo(page, 'input[data-scan=field]');
      await page.keyboard.type(`${tag}\n`);
    } else await main.press('Enter');
    await expect(heading(page)).not.toHaveText(text);
  }
  await expect(list.getByRole('listitem').filter({ hasText: 'All memory is seen' })).toContainText('proved');

  // It is handed over, and leaves.
  await page.goto(`/machines/${tag}/handover`);
  await expect(page.getByRole('heading', { name: 'It may leave with Tessaly 6, release 2.' })).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByRole('button', { name: 'It has left' }).press('Enter');
  await expect
    .poll(async () => ((await (await page.request.get('/api/due')).json()) as { left: number }).left)
    .toBeGreaterThan(0);

  // A machine of the same change is kept. A month later an update takes it away from that one first.
  await runOf(page.request, 'MR-0862', 'BW-14C8-862', true);
  await page.goto('/due');
  const tried = page.getByRole('region', { name: 'Updates are tried here first' });
  const change = tried.getByRole('listitem').filter({ hasText: tag }).filter({ hasText: 'gates' });
  await expect(change).toContainText('No machine is kept for it');
  await change.getByLabel('Tag').fill('MR-0862');
  await change.getByRole('button', { name: 'Keep it' }).press('Enter');
  await expect(change).toContainText('Kept: MR-0862');
  await expect(change.getByText(/The letters? to/)).toHaveCount(0);

  // The recipe changes with it.
  await page.goto('/images/2/recipe/tessaly-6-r2-gates');
  const recipe = page.getByLabel('Recipe as JSON');
  await expect(recipe).toHaveValue(/tessaly-6-r2-gates/);
  const book = JSON.parse(await recipe.inputValue()) as { about: string };
  book.about = 'Passes over the gates, and over the one that the January update brings.';
  await recipe.fill(JSON.stringify(book));
  await page.getByRole('button', { name: 'Save the recipe' }).press('Enter');
  await expect
    .poll(async () => JSON.stringify(await (await page.request.get('/api/recipes')).json()))
    .toContain('that the January update brings');

  await page.goto('/due');
  await change.getByLabel(/^Which update it was/).fill('The update of January');
  await change.getByRole('button', { name: 'Patch again' }).press('Enter');
  await expect(change).toContainText('Patch again: The update of January');
  await change.getByText(/The letter to/).click();
  await expect(change).toContainText(tag);
  await expect(change.locator('details')).toContainText('The update of January');
  expect(await seriousFaults(page)).toEqual([]);
});
