import { readFileSync } from 'node:fs';
import { expect, type Page, seriousFaults, test } from './app.ts';

test('what was read from a chip is mapped, and compared with a second read', async ({ page }) => {
  await page.goto('/shelf/firmware');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('4 images.');
  const bytes = readFileSync('/usr/share/OVMF/OVMF_VARS_4M.fd');
  const bring = page.getByLabel('Bring an image of a chip');
  await bring.setInputFiles({ name: 'first.rom', mimeType: 'application/octet-stream', buffer: bytes });
  await expect(page.getByRole('list', { name: 'Regions' })).toContainText('variables');
  const second = Buffer.from(bytes);
  second[300_000] = 0x41;
  await bring.setInputFiles({ name: 'second.rom', mimeType: 'application/octet-stream', buffer: second });
  await expect(page.getByRole('heading', { level: 2, name: 'second.rom' })).toBeVisible();
  await page.getByLabel('Compare with').selectOption({ label: 'first.rom' });
  await expect(page.getByRole('status')).toContainText('1 stretch differs');
  expect(await seriousFaults(page)).toEqual([]);
  await bring.setInputFiles({
    name: 'none.rom',
    mimeType: 'application/octet-stream',
    buffer: Buffer.alloc(0),
  });
  await expect(page.getByRole('alert')).toContainText('0 bytes');
});

test('switches of the firmware come in an order that holds, with the paper for their old values', async ({
  page,
}) => {
  await page.goto('/machines/MR-0423/prepare');
  const item = page.locator('li[data-item=switches]');
  await expect(item).toContainText('“Trusted module” on the page Peripherals');
  await item.getByRole('link', { name: 'Look at their order' }).click();
  await expect(page).toHaveURL(/\/machines\/MR-0423\/switches/);
  const steps = page.getByRole('list', { name: 'Steps' }).getByRole('listitem');
  await expect(steps).toHaveCount(4);
  await expect(steps.nth(0)).toContainText('Set the start mode to UEFI');
  await expect(steps.nth(1)).toContainText('Switch the compatibility mode off');
  await expect(page.getByText('The way back, 2 steps')).toBeVisible();

  // What if Secure Boot were wanted as well, and what if the old way of starting were?
  const shall = (name: RegExp) => page.getByRole('combobox', { name });
  await shall(/Secure Boot/).selectOption('on');
  await expect(steps).toHaveCount(5);
  await shall(/What is started first/).selectOption('bios');
  await expect(page.getByRole('alert')).toContainText('does not go together');
  await page.getByRole('button', { name: 'Back to what the way wants' }).click();
  await expect(steps).toHaveCount(4);
  expect(await seriousFaults(page)).toEqual([]);

  const opened = page.waitForEvent('popup');
  await page.getByRole('link', { name: 'The paper for its old values' }).click();
  const paper = await opened;
  await expect(paper.getByRole('row', { name: /Trusted module/ })).toBeVisible();
  await expect(paper.locator('body')).toContainText('never clear, reset or restore a TPM');
  await paper.close();

  await page.goto('/machines/MR-0411/switches');
  await expect(page.getByRole('heading', { name: 'There is nothing to turn.' })).toBeVisible();
});

const chip = (page: Page, tag: string) => page.getByRole('region', { name: `Chip of ${tag}` });
const job = (page: Page, tag: string) => chip(page, tag).getByRole('status');

/** Presses a button of the chip bench by keyboard, and waits until the job that it began has ended. */
async function work(page: Page, tag: string, button: string, says: string) {
  // The job before may have said the same: it is the new one that is waited for.
  const before = (await job(page, tag).count()) > 0 ? await job(page, tag).getAttribute('data-job-id') : null;
  await tap(page, tag, button);
  if (before !== null) await expect(job(page, tag)).not.toHaveAttribute('data-job-id', before);
  await expect(job(page, tag)).toContainText(says);
}

/** Presses a button by keyboard, once it takes keys, and waits until what it says to the server is answered. */
async function tap(page: Page, tag: string, button: string) {
  const pressed = chip(page, tag).getByRole('button', { name: button });
  await expect(pressed).toBeEnabled();
  const answered = page.waitForResponse(
    (r) => r.request().method() === 'POST' && r.url().includes('/api/chips/'),
  );
  await pressed.press('Enter');
  await answered;
}

/** From the first read to a chip that may be written, as far as the chip itself lets it. */
async function makeReady(page: Page, tag: string, board: string) {
  await chip(page, tag).getByLabel('Medium that it goes onto').fill('Stick 3, green');
  await work(page, tag, 'Back it up', 'read again and equal');
  await chip(page, tag).getByLabel('Name on the board').fill(board);
  await chip(page, tag).getByLabel('Revision').fill('B');
  await chip(page, tag).getByLabel('Revision').press('Enter');
  await chip(page, tag)
    .getByLabel('Image to write')
    .selectOption({ label: `Full UEFI 1.4 for ${board} (4 MiB)` });
  await tap(page, tag, 'Check it');
  await tap(page, tag, 'Mains is on');
  await expect(chip(page, tag).getByRole('form', { name: 'Danger' })).toBeVisible();
}

async function danger(page: Page, tag: string, button: string, says: string) {
  await chip(page, tag)
    .getByLabel(/^Scan or type the tag/)
    .fill(tag);
  await work(page, tag, button, says);
}

test('a chip is flashed: a flaky read, protection that is still on, then written, read back and brought back', async ({
  page,
}) => {
  const tag = 'MR-0411';
  await page.goto(`/machines/${tag}/prepare`);
  const item = page.locator('li[data-item=chip]');
  await expect(item).toContainText('Two reads, one after the other, are equal');
  await item.getByRole('link', { name: 'To the chip on the bench' }).click();
  await expect(page).toHaveURL(/\/shelf\/chips\?tag=MR-0411/);

  await work(page, tag, 'Read the chip', 'Read it once more');
  await work(page, tag, 'Read it once more', 'it differs from the read before');
  await work(page, tag, 'Read it once more', 'equal to the read before');
  await makeReady(page, tag, 'WAGTAIL');
  expect(await seriousFaults(page)).toEqual([]);
  await danger(page, tag, 'Write the chip', 'Write protection is still on');
  await tap(page, tag, 'It is taken off');
  await danger(page, tag, 'Write the chip', 'Write protection is still on');
  await tap(page, tag, 'It is taken off');
  await danger(page, tag, 'Write the chip', 'read back and equal. The first start takes longer');
  await expect(page.getByRole('heading', { name: 'The replacement, read back and equal.' })).toBeVisible();
  const kept = page.waitForEvent('download');
  await chip(page, tag).getByRole('link', { name: 'Download the backup' }).click();
  expect((await kept).suggestedFilename()).toMatch(/\.rom$/);
  await page.getByRole('link', { name: /^Back to/ }).click();
  // From now on it is another machine: nothing of its way asks for the chip any more, and it starts as the new firmware does.
  await expect(page.getByRole('list', { name: 'Ways to start it' })).toContainText('the sign of the new firmware');
  await expect(page.locator('li[data-item=chip]')).toHaveCount(0);
});

test('a chip that loses power while it is written is marked, and rescued with a programmer', { tag: '@long' }, async ({
  page,
}) => {
  const tag = 'MR-0416';
  await page.goto(`/shelf/chips?tag=${tag}`);
  await work(page, tag, 'Read the chip', 'Read it once more');
  await work(page, tag, 'Read it once more', 'equal to the read before');
  await makeReady(page, tag, 'DIPPER');
  await tap(page, tag, 'It is taken off');
  await danger(page, tag, 'Write the chip', 'marked as one that does not start');
  await expect(page.getByRole('heading', { name: /the machine does not start/ })).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);
  await chip(page, tag)
    .getByRole('button', { name: 'Programmer is on, mains and battery off' })
    .press('Enter');
  await danger(page, tag, 'Write the backup back', 'what its maker left on it is back');
  await expect(page.getByRole('heading', { name: /^What its maker left on it/ })).toBeVisible();
});
