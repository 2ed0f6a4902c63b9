import { readFileSync } from 'node:fs';
import { expect, seriousFaults, test } from './app.ts';

test('what was read from a chip is mapped, and compared with a second read', async ({ page }) => {
  await page.goto('/shelf/firmware');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('No firmware yet.');
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
  await expect(page.getByText('The way back, 3 steps')).toBeVisible();

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
