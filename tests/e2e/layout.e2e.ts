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

test('a layout is drawn by hand: by keys, by dragging, by typing, with the rules beside it, and it goes the same way', { tag: '@long' }, async ({
  page,
}) => {
  await page.goto('/machines/MR-0417/layout');
  const layout = page.getByRole('region', { name: 'Disk layout' });
  await layout.getByRole('checkbox', { name: 'files apart from the system' }).click();
  await expect(layout.getByRole('list', { name: 'Partitions' })).toContainText('outlives the system');
  await layout.getByRole('button', { name: 'Draw it by hand' }).click();
  const drawn = page.getByRole('region', { name: 'Draw it by hand' });
  const end = drawn.getByRole('slider', { name: /^End of \d system$/ });
  const size = drawn.getByLabel(/^Size of \d system in GiB$/);
  const before = Number(await size.inputValue());

  // By keyboard: one GiB less, taken back, and ten GiB less.
  await end.focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await expect(size).toHaveValue(String(Math.round((before - 1) * 1000) / 1000));
  await page.keyboard.press('Control+z');
  await expect(size).toHaveValue(String(before));
  await end.focus();
  await page.keyboard.press('PageDown');
  await expect(size).toHaveValue(String(Math.round((before - 10) * 1000) / 1000));
  expect(await seriousFaults(page)).toEqual([]);

  // By hand: the border follows the pointer, and one undo takes the whole drag back.
  const box = (await end.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 - 60, box.y + 20, { steps: 5 });
  await page.mouse.up();
  await expect(size).not.toHaveValue(String(Math.round((before - 10) * 1000) / 1000));
  await drawn.getByRole('button', { name: 'Undo' }).click();
  await expect(size).toHaveValue(String(Math.round((before - 10) * 1000) / 1000));

  // Typed, and kept: Prepare has it.
  await size.fill('40');
  await size.press('Enter');
  await expect(drawn.getByRole('list', { name: 'What the rules say' })).toContainText(
    'Nothing speaks against it',
  );
  await drawn.getByRole('button', { name: 'Keep this layout' }).click();
  await expect(layout).toContainText('somebody drew it');
  await expect(layout.getByRole('list', { name: 'Partitions' })).toContainText('As it was drawn.');
  await page.goto('/machines/MR-0417/prepare');
  await expect(page.locator('li[data-item=layout]')).toContainText('system 40 GiB');
  await page.goto('/machines/MR-0417/layout');
  await layout.getByRole('button', { name: 'Start it in the twin' }).click();
  await expect(layout.locator('[data-job=done]')).toContainText('It starts', { timeout: 180_000 });
  await expect(layout.getByRole('img', { name: /^The twin’s screen/ })).toBeVisible();
  await layout.getByRole('button', { name: 'Back to what the rules plan' }).click();
  await expect(layout.getByRole('list', { name: 'Partitions' })).not.toContainText('As it was drawn.');
});

test('of two drives one is chosen, and a drive in the hand is held against the places', async ({ page }) => {
  await page.goto('/machines/MR-0403/layout');
  const places = page.getByRole('region', { name: 'Drives and their places' });
  const first = places.getByRole('radio', { name: /^500 GB/ });
  await expect(first).toBeChecked();
  await expect(places).toContainText('the rules would take it');
  await expect(places).toContainText('carries the terminator');
  await places.getByRole('radio', { name: /^1 TB/ }).press('Space');
  await expect(page.getByText('Stays as it is: 500 GB')).toBeVisible();
  await expect(page.getByText(/^Disk layout for .*1 TB/)).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);

  await places.getByText('Would a drive in the hand go in?').click();
  const fits = places.getByRole('list', { name: 'Where it goes in' });
  await expect(fits).toContainText('Another form: it takes 3.5 inch.');
  await places.getByLabel('Form').selectOption('2.5 inch');
  await places.getByLabel('Bus').selectOption('sata');
  await expect(fits).toContainText('With a frame from 2.5 to 3.5 inch it goes in.');

  await places.getByRole('radio', { name: /^500 GB/ }).press('Space');
  await expect(page.getByText('Stays as it is: 1 TB')).toBeVisible();
});
