import { expect, type Page, seriousFaults, test } from './app.ts';
import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { leader, press, scan, tabTo } from './keyboard.ts';

const heading = (page: Page) => page.getByRole('region', { name: 'Run' }).getByRole('heading', { level: 2 });

test('a route is chosen, carried out, proved and handed over, by keyboard and scanner alone', async ({
  page,
}) => {
  test.setTimeout(180_000);
  await page.goto('/');
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await scan(page, 'MR-0404');
  await expect(page).toHaveURL(/machines\/MR-0404\/systems/);

  await leader(page, 'r');
  await expect(page).toHaveURL(/MR-0404\/routes/);
  const patch = page.locator('button[data-route=patch]').first();
  await expect(patch).toBeVisible();
  for (let i = 0; i < 80 && !(await patch.evaluate((e) => e === document.activeElement)); i++)
    await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Chosen route' })).toContainText('Changes the installer');

  await leader(page, 'p');
  await expect(page.getByLabel('Content of gates.conf')).toContainText('gate memory-gate skip');
  await page.goBack();
  await press(page, 'Begin the run');
  await expect(page).toHaveURL(/MR-0404\/run/);

  const seen = { typed: false, waited: false, danger: false };
  for (let step = 0; step < 40; step++) {
    const text = await heading(page).innerText();
    if (text === 'Every step is done.') break;
    const region = page.getByRole('region', { name: 'Run' });
    if ((await region.getByText('It prints').count()) > 0) seen.typed = true;
    if ((await region.locator('input[data-scan=field]').count()) > 0) {
      seen.danger = true;
      await tabTo(page, 'input[data-scan=field]');
      await scan(page, 'MR-0417');
      await expect(page.getByRole('alert')).toContainText('wants the tag of the machine');
      await expect(page, 'a scan in a danger field only fills the field').toHaveURL(/MR-0404\/run/);
      await page.locator('input[data-scan=field]').press('Control+a');
      await scan(page, 'MR-0404');
    } else if ((await region.getByRole('button', { name: 'It has begun' }).count()) > 0) {
      seen.waited = true;
      await press(page, 'It has begun');
      await expect(page.getByRole('timer')).toHaveText(/^\d+:\d\d$/);
      await press(page, 'It has ended');
    } else if ((await region.getByLabel('System on it').count()) > 0) {
      await tabTo(page, 'section[aria-label=Run] input');
      await page.keyboard.press('Control+a');
      await page.keyboard.type('Tessaly 6, release 2', { delay: 60 });
      await page.keyboard.press('Enter');
      await press(page, 'Done');
    } else if ((await region.locator('input[type=file]').count()) > 0) {
      await tabTo(page, 'input[type=file]');
      const chooser = page.waitForEvent('filechooser');
      await page.keyboard.press('Space');
      await (await chooser).setFiles(secondProbe());
      await expect(page.getByRole('status')).toContainText('the bundle is in');
      await press(page, 'Done');
    } else {
      const main = region.getByRole('button', { name: /^(Done|It is so)$/ });
      await press(page, await main.innerText());
    }
    await expect(heading(page)).not.toHaveText(text);
  }
  expect(seen).toEqual({ typed: true, waited: true, danger: true });
  await expect(page.getByRole('list', { name: 'Acceptance list' }).getByRole('listitem')).toHaveCount(6);
  await leader(page, 'h');
  await expect(page.getByRole('heading', { name: 'It may leave with Tessaly 6, release 2.' })).toBeVisible();

  await tabTo(page, 'a[href="/api/machines/MR-0404/handover"]');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(
    'Your computer runs Tessaly 6, release 2.',
  );
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByText('Nothing is left open.')).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);
});

/** The sources of the same machine after the work, one by one. */
function secondProbe(): string[] {
  const file = (name: string, text: string) => {
    const path = join(tmpdir(), name);
    writeFileSync(path, text);
    return path;
  };
  return [
    file('meminfo.txt', 'MemTotal:        2013000 kB\n'),
    file('efi.txt', 'folder yes\nword 64\n'),
    file(
      'dmi.txt',
      'sys_vendor=Brackwater\nproduct_name=Transom 7\nproduct_serial=BT-7-60213\nboard_name=TR7\n',
    ),
  ];
}

test('a second screen sees each step without being asked, and a step that both take is taken once', async ({
  browser,
}) => {
  const [one, other] = await Promise.all([browser.newPage(), browser.newPage()]);
  await Promise.all([one.goto('/machines/MR-0422/run'), other.goto('/machines/MR-0422/run')]);
  await expect(heading(one)).toContainText('Hold right Ctrl');
  await expect(heading(other)).toContainText('Hold right Ctrl');
  await other.waitForLoadState('load');

  await one.getByRole('button', { name: 'Done' }).click();
  await expect(heading(other)).not.toContainText('Hold right Ctrl');

  // Both say that it stopped, at the same moment: one is taken, the other is told.
  const stop = (page: Page) => page.getByRole('button', { name: 'It stopped' });
  await Promise.all([stop(one).click(), stop(other).click()]);
  await expect(heading(one)).toContainText('Stopped');
  await expect(heading(other)).toContainText('Stopped');
  const machines = (await (await one.request.get('/api/machines')).json()) as {
    tag: string;
    run: { id: string } | null;
  }[];
  const id = machines.find((m) => m.tag === 'MR-0422')?.run?.id;
  const run = (await (await one.request.get(`/api/runs/${id}`)).json()) as {
    events: { kind: string }[];
    chain: string;
  };
  expect(run.events.filter((e) => e.kind === 'stopped')).toHaveLength(1);
  expect(run.chain).toBe('whole');
  await Promise.all([one.close(), other.close()]);
});

test('the lamp goes off and stays off, and the overlay tells the keys', async ({ page }) => {
  await page.goto('/');
  await leader(page, 'l');
  await expect(page.locator('html')).toHaveAttribute('data-lamp', 'off');
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-lamp', 'off');
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await page.keyboard.press('.');
  await expect(page.getByRole('dialog')).toContainText('Take a machine in');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toBeHidden();
});
