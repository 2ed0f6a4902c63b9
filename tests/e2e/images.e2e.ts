import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, type Page, seriousFaults, startTwin, test } from './app.ts';
import { leader, press, tabTo } from './keyboard.ts';
import { home } from './server.ts';

test.beforeEach(({ page }) =>
  page.addInitScript(() => localStorage.setItem('fresh-boot-who', 'Odalys Brandt')),
);

/** Starts the image that is chosen in the machine's twin, and gives what the page says came of it. */
async function start(page: Page, as: string, by: string) {
  await page.getByRole('combobox', { name: 'As', exact: true }).selectOption(as);
  await page.getByRole('combobox', { name: 'By', exact: true }).selectOption(by);
  await startTwin(page);
  return page.locator('[data-verdict]');
}

test('an image that is refused in the twin is patched, and then accepted by BIOS and UEFI, as disc and stick', { tag: '@long' }, async ({
  page,
}) => {
  await page.goto('/machines/MR-0409/prepare');
  await expect(page.getByRole('combobox', { name: 'Installer image' })).toContainText('tessaly-6-r1.iso');
  await expect(page.getByRole('list', { name: 'Ways to start it' })).toContainText('Press F10 at the logo');
  await expect(page.locator('[data-evidence=setup]')).toContainText('not tried');

  await expect(await start(page, 'disc', 'uefi64')).toHaveText('refused');
  await expect(page.getByLabel('What it sent down the serial line')).toContainText('no TPM 2.0');
  const screen = page.getByAltText('Screen of the twin: refused');
  await expect(screen).toBeVisible();
  expect(await screen.evaluate((i: HTMLImageElement) => i.naturalWidth)).toBeGreaterThan(600);
  expect(await seriousFaults(page)).toEqual([]);

  await page.getByRole('link', { name: 'Look into it, patch it' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('tessaly-6-r1.iso');
  await page.getByRole('button', { name: 'Lift the gates of Tessaly 6, release 1' }).click();
  const difference = page.getByLabel('Lines of setup/gates.conf');
  await expect(difference.locator('[data-line=out]')).toHaveCount(5);
  await expect(difference.locator('[data-line=in]').first()).toContainText('gate processor-list skip');
  await expect(page.getByRole('list', { name: 'What it costs' })).toContainText('Updates may stop');
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Make the patched image' }).click();
  await page.getByRole('link', { name: 'Look at the patched image' }).click();
  await expect(page.getByRole('region', { name: 'Manifest' })).toContainText('setup/gates.conf changed');
  // The recipe knows its own work.
  await page.getByRole('button', { name: 'Lift the gates of Tessaly 6, release 1' }).click();
  await expect(page.getByText('Already applied')).toBeVisible();

  await page.goto('/machines/MR-0409/prepare');
  await page
    .getByRole('combobox', { name: 'Installer image' })
    .selectOption({ label: 'tessaly-6-r1-gates.iso' });
  for (const by of ['bios', 'uefi64'])
    for (const as of ['disc', 'stick']) {
      await expect(await start(page, as, by), `${as} by ${by}`).toHaveText('accepted');
    }
});

test('a stick is planned, drawn, erased by its typed label and written, by keyboard; a lying one is found out', async ({
  page,
}) => {
  await page.goto('/');
  await leader(page, 'e');
  const ready = page.getByRole('heading', { level: 1 });
  await expect(ready).toHaveText(/^None is ready\.$|^\d+ ready to start from\.$/);
  const before = Number(/^\d+/.exec(await ready.innerText())?.[0] ?? 0);
  await press(page, 'Stick 1, blue stick, 16.0 GB blank Simulated. Nothing is on it that was written here.');
  const stick = page.getByRole('region', { name: 'Stick 1, blue' });
  await expect(stick.getByRole('img')).toBeVisible();
  await expect(stick).toContainText('Block by block');
  await expect(stick.getByRole('button', { name: 'Erase and write' })).toBeDisabled();
  await tabTo(page, 'form[aria-label="Erase and write"] input');
  await page.keyboard.type('Stick 1, blue');
  await page.keyboard.press('Enter');
  await expect(stick.locator('[data-job=done]')).toContainText('written, read back and equal');
  await expect(ready).toHaveText(`${before + 1} ready to start from.`);
  expect(await seriousFaults(page)).toEqual([]);

  await page.getByRole('button', { name: /^Stick 3, from the market/ }).click();
  const market = page.getByRole('region', { name: 'Stick 3, from the market' });
  await market.getByLabel('Label, typed').fill('Stick 3, from the market');
  await market.getByRole('button', { name: 'Erase and test its size' }).click();
  await expect(market.locator('[data-job=done]')).toContainText('overwrites the beginning');
  await expect(market).toContainText('It has 4.2 GB, and says more.');

  await page.getByRole('button', { name: /^Stick 4, loose plug/ }).click();
  const loose = page.getByRole('region', { name: 'Stick 4, loose plug' });
  await loose.getByLabel('Label, typed').fill('Stick 4, loose plug');
  await loose.getByRole('button', { name: 'Erase and write' }).click();
  await expect(loose.locator('[data-job=failed]')).toContainText('no longer there');
  await expect(page.getByRole('button', { name: /^Stick 4, loose plug/ })).toContainText('unusable');
});

test('an image is put on the shelf and a recipe written beside its files, with the difference as one types', async ({
  page,
}) => {
  await page.goto('/shelf/images');
  await expect(page.getByRole('row', { name: /^wickerwork-26.iso/ })).toContainText('checksum as listed');
  const bytes = Buffer.concat([
    readFileSync(join(home, '.cache/images/plover-light-5.iso')),
    Buffer.from('a build of our own'),
  ]);
  const put = page.getByRole('form', { name: 'Put an image on the shelf' });
  await put.getByLabel('Image file').setInputFiles({
    name: 'plover-own.iso',
    mimeType: 'application/octet-stream',
    buffer: bytes,
  });
  await put.getByLabel('Installs').selectOption('plover-light-5');
  await put.getByRole('button', { name: 'On the shelf' }).click();
  await expect(page.getByText('plover-own.iso is on the shelf.')).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByRole('link', { name: 'plover-own.iso' }).click();
  await expect(page.getByRole('region', { name: 'How it starts' })).toContainText('BOOTX64.EFI for x64');

  await page.getByRole('link', { name: 'Write a recipe' }).click();
  await page.getByRole('button', { name: 'setup/' }).click();
  await page.getByRole('button', { name: /^system\.conf/ }).click();
  await expect(page.getByLabel('Content of setup/system.conf')).toContainText('set title="Plover Light 5"');
  const text = page.getByLabel('Recipe as JSON');
  await expect(page.getByRole('alert')).toContainText('does not occur'); // the form that is to be filled in
  const recipe = JSON.parse(await text.inputValue()) as { name: string; operations: object[] };
  recipe.name = 'Name the shop';
  recipe.operations = [
    { op: 'replaceText', path: 'setup/system.conf', find: 'Plover Light 5', with: 'Plover of the Mill' },
  ];
  await text.fill(JSON.stringify(recipe));
  await expect(page.getByLabel('Lines of setup/system.conf').locator('[data-line=in]')).toContainText(
    'Plover of the Mill',
  );
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Save the recipe' }).click();
  await expect(page).toHaveURL(/recipe\/plover-light-5-mine$/);

  await page.goto('/shelf/recipes');
  await expect(page.getByRole('region', { name: 'Recipes' })).toContainText('Name the shop');
  await page.getByRole('button', { name: 'Build the answer file' }).click();
  await expect(page.getByLabel('Answer file', { exact: true }).last()).toContainText(
    'answer privacy-location "no"',
  );
  await page.getByRole('button', { name: 'Trim plan' }).click();
  await page.getByLabel('For the order').selectOption({ label: 'Seed Library' });
  await page.getByRole('button', { name: 'Leave out what it does not need' }).click();
  await expect(page.getByRole('list', { name: 'What breaks' })).toContainText('Assistant');
  expect(await seriousFaults(page)).toEqual([]);
});
