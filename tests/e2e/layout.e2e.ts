import { expect, seriousFaults, test } from './app.ts';
import { tabTo } from './keyboard.ts';

test('a drive is divided by wishes, within what the firmware reads, and a collision says which and by how much', async ({
  page,
}) => {
  await page.goto('/machines/MR-0402/prepare');
  const item = page.locator('li[data-item=layout]');
  await expect(item).toContainText('MBR: system');
  await item.getByRole('link', { name: 'Look at the layout' }).click();
  const layout = page.getByRole('region', { name: 'Disk layout' });
  const partitions = layout.getByRole('list', { name: 'Partitions' }).getByRole('listitem');
  await expect(partitions).toHaveCount(2);

  // By keyboard: files apart from the system.
  await tabTo(page, 'section[aria-label="Disk layout"] input[type=checkbox]');
  await page.keyboard.press('Space');
  await expect(partitions).toHaveCount(3);
  await expect(partitions.last()).toContainText('outlives the system');
  expect(await seriousFaults(page)).toEqual([]);

  // A firmware that reads less than the drive: the boot files come first, and the line says where it ends.
  await page.request.put('/api/machines/MR-0402/facts/firmware.reachBytes', {
    data: { value: '2.1 GB', source: 'tried with a larger drive', by: 'Pim' },
  });
  await expect(layout.getByRole('img')).toHaveAttribute('aria-label', /the firmware reads 2.1 GB/);
  await expect(partitions.first()).toContainText('boot');
  await expect(partitions.first()).toContainText('measured on this machine');

  await layout.getByLabel('another system keeps the first').fill('3');
  await page.keyboard.press('Enter');
  await expect(layout.getByRole('alert')).toContainText('before 2 GiB');
  await expect(page.getByRole('heading', { name: 'These wishes collide.' })).toBeVisible();
  await page.getByRole('link', { name: 'Prepare', exact: true }).click();
  await expect(item.locator('[data-state]')).toHaveText('missing');

  await page.goto('/machines/MR-0402/layout');
  await layout.getByLabel('another system keeps the first').fill('');
  await page.keyboard.press('Enter');
  await expect(partitions.first()).toContainText('boot');
  const file = page.waitForEvent('download');
  await layout.getByRole('link', { name: 'The table, as sfdisk takes it' }).click();
  expect((await file).suggestedFilename()).toBe('MR-0402.sfdisk');
});
