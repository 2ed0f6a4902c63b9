import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, seriousFaults, test } from './app.ts';
import { readyChip, writeChip } from './chips.ts';
import { endWait, leader, press, scan, tabTo } from './keyboard.ts';
import { freePort, startOn, stop } from './server.ts';

const tag = 'MR-0416';
const region = (page: Page) => page.getByRole('region', { name: 'Run' });
const heading = (page: Page) => region(page).getByRole('heading', { level: 2 });

/**
 * Goes on, by keyboard, as the sheet means it to go, until a step begins so. The step before must have gone: its button
 * would be pressed once more.
 */
async function until(page: Page, begins: RegExp, chip: number) {
  for (;;) {
    const text = await heading(page).innerText();
    if (begins.test(text)) return;
    const main = await region(page)
      .getByRole('button', { name: /^(Done|As it should be|Do it|It has begun)$/ })
      .innerText();
    if (main === 'Do it') {
      // No reason lets a run go on without its chip: it was read, backed up and checked before.
      if (/^Write full/.test(text)) await writeChip(page.request, chip, tag);
      await tabTo(page, 'input[data-scan=field]');
      await scan(page, tag);
    } else {
      await press(page, main);
      if (main === 'It has begun') await endWait(page);
    }
    await expect(heading(page)).not.toHaveText(text);
  }
}

test('a branch stops the run and another leads round; a wrong output is recognised, and the ledger holds the hand-over', async ({
  page,
}) => {
  const facts = {
    'release.owner': 'given',
    'release.data': 'not-wanted',
    'release.encryption': 'none',
    'release.managed': 'free',
    'parts.battery': 'sound',
    'parts.storage': 'sound',
  };
  for (const [key, value] of Object.entries(facts))
    await page.request.put(`/api/machines/${tag}/facts/${key}`, {
      data: { value, source: 'seen', by: 'Pim' },
    });
  const routes = (await (await page.request.get(`/api/machines/${tag}/routes`)).json()) as {
    id: string;
    school: string;
  }[];
  const routeId = routes.find((r) => r.school === 'reflash')?.id;
  const chip = await readyChip(page.request, tag, 'DIPPER', 'Full UEFI 1.4 for DIPPER');
  const begun = await page.request.post(`/api/machines/${tag}/runs`, {
    data: { routeId, by: 'Odalys Brandt' },
  });
  expect(begun.status()).toBe(201);

  await page.goto(`/machines/${tag}/run`);
  await until(page, /^Connect .* switch the machine on for a moment/, chip);
  // What is seen instead stops the run, with the reason; and the same step comes again.
  await press(page, 'It shows nothing');
  await expect(region(page).getByRole('status')).toContainText('find that fault first');
  await expect(region(page).getByRole('region', { name: 'Otherwise' })).toHaveCount(0);
  expect(await seriousFaults(page)).toEqual([]);
  await press(page, 'Go on');
  await expect(heading(page)).toContainText('switch the machine on for a moment');
  await expect(region(page).getByRole('button', { name: 'Go on' })).toHaveCount(0);

  await until(page, /^Read the chip twice/, chip);
  await expect(page.getByText('To be closed again:')).toBeVisible();
  await leader(page, 'h');
  await expect(page.getByRole('heading', { name: 'Not yet.' })).toBeVisible();
  await leader(page, 'u');

  // The command goes to the machine under a code; what it printed comes back from there, and is wrong.
  await press(page, 'Send it over');
  const address = await page.getByRole('figure').locator('b').innerText();
  const command = await (await page.request.get(new URL(address).pathname)).text();
  expect(command.split('\n')[0]).toContain('&& echo EQUAL');
  await page.request.post(new URL(address).pathname, { data: 'first.rom second.rom differ: byte 9\n' });
  await expect(region(page).getByRole('status')).toContainText('differ: byte 9');
  await expect(region(page).getByRole('button', { name: 'Done' })).toBeDisabled();
  expect(await seriousFaults(page)).toEqual([]);

  // Read once more, it is right; brought in by hand this time.
  await tabTo(page, 'textarea');
  await page.keyboard.type('EQUAL');
  await press(page, 'Compare it');
  await expect(region(page).getByRole('status')).toContainText('As it should be.');
  await press(page, 'Done');
  await expect(heading(page)).not.toContainText('Read the chip twice');

  // What was written cannot be verified: the sheet leads round, and says so.
  await until(page, /^Read the chip once more/, chip);
  await press(page, 'It does not say VERIFIED');
  await expect(heading(page)).toContainText('Write the copy back');
  await expect(region(page)).toContainText('on a way round');
  await press(page, 'Done');
  await expect(heading(page)).toContainText('Shut it down');
  await expect(region(page)).not.toContainText('on a way round');
});

interface Told {
  kind: string;
  stepId: string;
  by: string;
}

test('three machines at once, by keyboard: the plug is pulled in the middle, and a second browser goes on', { tag: '@long' }, async ({
  browser,
}) => {
  const data = mkdtempSync(join(tmpdir(), 'fresh-boot-e2e-'));
  const port = await freePort();
  const address = `http://localhost:${port}`;
  let server = await startOn(data, port);
  const one = await browser.newContext({ baseURL: address });
  const other = await browser.newContext({ baseURL: address });
  try {
    const page = await one.newPage();
    await page.addInitScript(() => localStorage.setItem('fresh-boot-who', 'Odalys Brandt'));
    const facts = { 'release.owner': 'given', 'release.data': 'not-wanted', 'release.encryption': 'none' };
    const safe = { 'release.managed': 'free', 'parts.battery': 'sound', 'parts.storage': 'sound' };
    const tags = ['MR-0417', 'MR-0423', 'MR-0431'];
    for (const tag of tags) {
      for (const [key, value] of Object.entries({ ...facts, ...safe }))
        await page.request.put(`/api/machines/${tag}/facts/${key}`, {
          data: { value, source: 'seen', by: 'Pim' },
        });
      const routes = (await (await page.request.get(`/api/machines/${tag}/routes`)).json()) as {
        id: string;
        system: string;
      }[];
      const routeId = routes.find((r) => r.system === 'wickerwork-26')?.id;
      const begun = await page.request.post(`/api/machines/${tag}/runs`, {
        data: { routeId, by: 'Odalys Brandt' },
      });
      expect(begun.status(), await begun.text()).toBe(201);
    }
    const record = async (tag: string) => {
      const all = (await (await page.request.get('/api/machines')).json()) as {
        tag: string;
        run: { id: string } | null;
      }[];
      const id = all.find((m) => m.tag === tag)?.run?.id ?? '';
      return (await (await page.request.get(`/api/runs/${id}`)).json()) as {
        events: Told[];
        chain: string;
        state: { current: number };
      };
    };

    // From one to the next by scanner, a step or two at each.
    await page.goto('/');
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    for (const round of [1, 2])
      for (const tag of tags) {
        await scan(page, tag);
        await expect(page).toHaveURL(new RegExp(`${tag}/run`));
        await expect(region(page)).toBeVisible();
        const text = await heading(page).innerText();
        await press(page, 'As it should be');
        await expect(heading(page)).not.toHaveText(text);
        expect((await record(tag)).events, `round ${round}`).toHaveLength(round);
      }
    // A note and a step that was said by mistake.
    await press(page, 'Note');
    await page.keyboard.type('The left hinge is loose.');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('list', { name: 'Said at this step' })).toContainText('hinge');
    const before = await Promise.all(tags.map(record));

    await stop(server, 'SIGKILL');
    // What is said while nobody answers is told to be lost, and the step stands where it was.
    const stood = await heading(page).innerText();
    await press(page, 'As it should be');
    await expect(page.getByRole('alert').first()).toBeVisible();
    await expect(heading(page)).toHaveText(stood);
    server = await startOn(data, port);
    for (const [i, tag] of tags.entries()) expect(await record(tag)).toEqual(before[i]);

    // Somebody else goes on with the third in a second browser, and the first one sees it.
    const second = await other.newPage();
    await second.addInitScript(() => localStorage.setItem('fresh-boot-who', 'Pim Achterberg'));
    await second.goto('/machines/MR-0431/run');
    await expect(heading(second)).toHaveText(stood);
    await expect(second.getByRole('list', { name: 'Said at this step' })).toContainText('hinge');
    await press(second, 'As it should be');
    await expect(heading(second)).not.toHaveText(stood);
    await expect(heading(page)).not.toHaveText(stood);
    await press(page, 'Take the last step back');
    await expect(heading(second)).toHaveText(stood);
    const after = await record('MR-0431');
    expect(after.chain).toBe('whole');
    expect(after.events.map((e) => [e.kind, e.by])).toEqual([
      ['done', 'Odalys Brandt'],
      ['done', 'Odalys Brandt'],
      ['note', 'Odalys Brandt'],
      ['done', 'Pim Achterberg'],
      ['undone', 'Odalys Brandt'],
    ]);
    // The bench knows all three.
    await page.goto('/');
    for (const tag of tags)
      await expect(page.getByRole('link', { name: new RegExp(`${tag}.*stop \\d`, 's') })).toBeVisible();
  } finally {
    await Promise.all([one.close(), other.close()]);
    await stop(server, 'SIGTERM');
    rmSync(data, { recursive: true, force: true });
  }
});
