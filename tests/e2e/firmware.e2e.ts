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
  await bring.setInputFiles({ name: 'none.rom', mimeType: 'application/octet-stream', buffer: Buffer.alloc(0) });
  await expect(page.getByRole('alert')).toContainText('0 bytes');
});
