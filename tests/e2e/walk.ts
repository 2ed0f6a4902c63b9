import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { APIRequestContext } from '@playwright/test';
import { expect, type Page } from './app.ts';
import { ok } from './chips.ts';
import { press, tabTo } from './keyboard.ts';

export const heading = (page: Page) =>
  page.getByRole('region', { name: 'Run' }).getByRole('heading', { level: 2 });

/** Writes an image onto the stick that the link from Prepare leads to, and waits until it was read back. */
export async function write(page: Page, stick: string) {
  await page
    .getByRole('link', { name: /^Write .* onto a medium$/ })
    .first()
    .click();
  await page.waitForURL((url) => url.pathname === '/shelf/media');
  await page.getByRole('button', { name: new RegExp(`^${stick}`) }).click();
  const medium = page.getByRole('region', { name: stick });
  await medium.getByLabel('Label, typed').fill(stick);
  await medium.getByRole('button', { name: 'Erase and write' }).click();
  await expect(medium.locator('[data-job=done]')).toContainText('written, read back and equal');
}

/** What is answered to an open question, by its words where the answer depends on the system. */
const answers: Record<string, (asks: string) => { value: string; label: string }> = {
  'plan.install': () => ({ value: 'clean', label: 'clean' }),
  'plan.edition': () => ({ value: 'Home', label: 'Home' }),
  'plan.account': (asks) =>
    asks.includes('goes on only with') ? { value: 'maker', label: 'the maker’s' } : { value: 'local', label: 'local' },
  'plan.encryption': () => ({ value: 'off', label: 'off' }),
};

/** Answers what is asked before the sheet of the chosen route, by keyboard, until nothing is open. */
export async function answerQuestions(page: Page) {
  const open = page.getByRole('region', { name: 'Open questions' });
  await expect(open).toBeVisible();
  while ((await open.count()) > 0) {
    const ask = open.locator('li[data-ask]').first();
    const fact = (await ask.getAttribute('data-ask')) ?? '';
    const label = answers[fact]?.(await ask.innerText()).label ?? '';
    await ask.getByRole('button', { name: label, exact: true }).press('Enter');
    await expect(open.locator(`li[data-ask="${fact}"]`)).toHaveCount(0);
  }
}

/** The same for a route by its id, without the page. */
export async function settleQuestions(request: APIRequestContext, tag: string, route: string) {
  const { asks } = await ok<{ asks: { fact: string; asks: string }[] }>(
    await request.get(`/api/machines/${tag}/work-items?route=${route}`),
  );
  for (const { fact, asks: words } of asks)
    await ok(
      await request.put(`/api/machines/${tag}/facts/${fact}`, {
        data: { value: answers[fact]?.(words).value, source: 'answered before the sheet', by: 'Pim' },
      }),
    );
}

/** Says which system starts on the machine, at the step that asks for it. */
export async function name(page: Page, system: string) {
  await page.getByLabel('System on it').focus();
  await page.keyboard.press('Control+a');
  await page.keyboard.type(system, { delay: 60 });
  await page.keyboard.press('Enter');
  await press(page, 'Done');
}

/** Gives a bundle to the step of the second probe, by keyboard. */
export async function bring(page: Page, bundle: Buffer) {
  // What others did arrives meanwhile: where the field is drawn anew between the two halves of the key, the key is pressed again.
  await expect(async () => {
    await tabTo(page, 'input[type=file]');
    const chooser = page.waitForEvent('filechooser', { timeout: 5000 });
    await page.keyboard.press('Space');
    await (await chooser).setFiles({ name: 'b.tar.gz', mimeType: 'application/gzip', buffer: bundle });
  }).toPass();
}

/** A bundle of a machine, as the probe packs it, with the code that it was given. */
export function bundleOf(
  dmi: string,
  code?: string,
  memoryKb = 2_013_000,
  more: Record<string, string> = {},
): Buffer {
  const folder = mkdtempSync(join(tmpdir(), 'fresh-boot-bundle-'));
  const sources: Record<string, string> = {
    'meminfo.txt': `MemTotal:        ${memoryKb} kB\n`,
    'efi.txt': 'folder yes\nword 64\n',
    'dmi.txt': dmi,
    ...more,
  };
  const manifest = [
    'fresh-boot-probe 1',
    'taken 2026-12-03T12:00:00Z',
    'root yes',
    ...(code ? [`code ${code}`] : []),
    ...Object.entries(sources).map(([name, text]) => `have ${name} ${text.length}`),
  ];
  writeFileSync(join(folder, 'manifest.txt'), `${manifest.join('\n')}\n`);
  for (const [name, text] of Object.entries(sources)) writeFileSync(join(folder, name), text);
  const bundle = execFileSync('tar', ['-C', folder, '-cz', 'manifest.txt', ...Object.keys(sources)]);
  rmSync(folder, { recursive: true });
  return bundle;
}

/** Walks the route of the page whole in the twin: nothing stands in its way by reckoning, and it comes to its end for real. */
export async function wholeWay(page: Page) {
  await expect(page.getByRole('heading', { name: 'Nothing stands in its way.' })).toBeVisible();
  const walked = page.locator('figure[data-whole-way]');
  await page.getByRole('button', { name: 'Walk the whole way' }).press('Enter');
  // Two starts of an emulated machine, an installation between them.
  await expect(walked).toBeVisible({ timeout: 650_000 });
  await expect(walked).toHaveAttribute('data-whole-way', 'whole');
  await expect(walked).toContainText('started from its drive');
  await expect(page.getByRole('list', { name: 'Acceptance in the twin' })).toContainText(
    'It starts as planned',
  );
}
