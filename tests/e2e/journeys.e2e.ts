import { expect, type Page, seriousFaults, test } from './app.ts';
import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { tabTo } from './keyboard.ts';
import { emulatedBundle } from './machine.ts';

const noErrors = (page: Page) => {
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  return errors;
};

test('a machine from the emulator is taken in, climbed and decided, by keyboard alone', async ({ page }) => {
  const bundle = emulatedBundle();
  const errors = noErrors(page);
  await page.goto('/');
  await tabTo(page, 'a[href="/intake"]');
  await page.keyboard.press('Enter');

  // The tag field has the focus: a scanner types and ends with Enter, which must not send a form without a file.
  await expect(page.getByLabel('Asset tag')).toBeFocused();
  await page.keyboard.type('mr-0960');
  await tabTo(page, 'input[type=file]');
  const chooser = page.waitForEvent('filechooser');
  await page.keyboard.press('Space');
  await (await chooser).setFiles(bundle);
  await tabTo(page, 'form button');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'MR-0960' })).toBeVisible();
  await expect(page.getByRole('status')).toContainText('Taken in, with');
  await expect(page.getByText('Brackwater Stile 14 · Corvane C8-350')).toBeVisible();

  // To its ladder, aimed at Tessaly 6.
  await tabTo(page, 'a[href="/machines/MR-0960/systems"]');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'MR-0960' })).toBeVisible();
  await tabTo(page, '[data-system=tessaly-6-r2]');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/aim=tessaly-6-r2/);

  // Climb: from the bottom rung to setup, and open it.
  await page.goto(page.url());
  await tabTo(page, 'button[data-rung]');
  await page.keyboard.press('Home');
  await expect(page.locator('button[data-rung=release]')).toBeFocused();
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowUp');
  const setup = page.locator('button[data-rung=setup]');
  await expect(setup).toBeFocused();
  await expect(setup).toHaveAccessibleName(/^setup: unknown/);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'setup' })).toBeFocused();
  await expect(page.getByTestId('rung-outcome')).toHaveText('unknown');

  // Answer what nobody could measure: TPM, there and switched off.
  await tabTo(page, '[role=radio]');
  const off = page.getByRole('radio', { name: 'there, switched off' });
  for (let i = 0; i < 6 && !(await off.evaluate((e) => e === document.activeElement)); i++)
    await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Enter');

  await expect(page.getByTestId('rung-outcome')).toHaveText('setting');
  await expect(
    page.getByRole('region', { name: 'Rung setup' }).getByText('Switch the firmware TPM on.').first(),
  ).toBeVisible();
  await expect(page.getByText('Never clear, reset or restore the TPM.')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(setup).toBeFocused();
  await expect(setup).toHaveAccessibleName(/^setup: setting/);
  expect(errors).toEqual([]);
});

test('the bench shows six bays and leads to the rung that wants something', async ({ page }) => {
  const errors = noErrors(page);
  await page.goto('/');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Bay 6');
  await expect(page.locator('ol').first().locator('> li')).toHaveCount(6);
  await page.getByRole('link', { name: /MR-0423/ }).click();
  await expect(page).toHaveURL(/machines\/MR-0423\/systems\?rung=setup/);
  await expect(
    page
      .getByRole('region', { name: 'Rung setup' })
      .getByText('Fit a TPM 2.0 module on the header (M 11.00).')
      .first(),
  ).toBeVisible();
  await page.reload();
  await expect(page.getByRole('heading', { name: 'setup' })).toBeVisible();
  expect(errors).toEqual([]);
});

test('the ladder stands at the same heights on every view', async ({ page }) => {
  const heights = async (path: string) => {
    await page.goto(path);
    await expect(page.locator('button[data-rung]')).toHaveCount(10);
    return page
      .locator('button[data-rung]')
      .evaluateAll((all) => all.map((e) => Math.round(e.getBoundingClientRect().top)));
  };
  const facts = await heights('/machines/MR-0417/facts');
  expect(await heights('/machines/MR-0417/systems')).toEqual(facts);
  expect(await heights('/machines/MR-0402/systems?rung=kernel')).toEqual(facts);
  for (let i = 1; i < 10; i++) expect(facts[i - 1]! - facts[i]!).toBe(52);
});

test('sources that disagree are shown and a person chooses', async ({ page }) => {
  await page.goto('/machines/MR-0431/facts?rung=kernel');
  await page.getByRole('button', { name: 'Correct Memory fitted' }).click();
  await page.getByRole('textbox', { name: 'Memory fitted' }).fill('8 kg');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('alert')).toContainText('“8 kg” is not an amount of bytes.');
  await page.getByRole('textbox', { name: 'Memory fitted' }).fill('8 GB');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('Sources disagree. Which one holds?')).toBeVisible();
  await page.getByRole('button', { name: /8 GiB/ }).click();
  await expect(page.getByText('Sources disagree. Which one holds?')).toBeHidden();
});

test('a refused bundle says what, where and what would be right, and stores nothing', async ({ page }) => {
  const file = join(tmpdir(), 'no-bundle.tar.gz');
  writeFileSync(file, 'hello');
  await page.goto('/intake');
  await page.getByLabel('Asset tag').fill('MR-0970');
  await page.setInputFiles('input[type=file]', file);
  await page.getByRole('button', { name: 'Take in' }).click();
  await expect(page.getByRole('alert')).toContainText('no probe bundle and no source that is known here');
  await expect(page.getByRole('alert')).toContainText('no-bundle.tar.gz');
  await expect(page.getByLabel('Asset tag')).toHaveValue('MR-0970');
  expect((await page.request.get('/api/machines/MR-0970')).status()).toBe(404);
});

const views = [
  '/machines/MR-0417/routes',
  '/machines/MR-0404/routes?panel=beside&aim=tessaly-6-r2',
  '/machines/MR-0404/routes?panel=choices',
  '/machines/MR-0409/routes?panel=missing&aim=tessaly-6-r2',
  '/machines/MR-0417/routes?panel=whatif',
  '/fleet?cell=MR-0417/tessaly-6-r2',
  '/orders',
  '/wanted',
  '/due',
  '/log',
  '/figures',
  '/plan',
  '/backups',
  '/practice',
  '/practice/practice-first-clean',
  '/catalogue/systems/wickerwork-26',
  '/catalogue/packs',
  '/machines/MR-0409/prepare',
  '/machines/MR-0401/layout',
  '/machines/MR-0405/rehearse',
  '/machines/MR-0404/fault',
  '/machines/MR-0423/switches',
  '/shelf/chips?tag=MR-0411',
  '/machines/MR-0409/run',
  '/machines/MR-0422/run',
  '/machines/MR-0406/handover',
  '/',
  '/intake',
  '/key',
  '/find?q=setup',
  '/shelf',
  '/machines/MR-0412/facts?rung=release',
  '/machines/MR-0420/facts?rung=parts',
  '/machines/MR-0417/facts',
  '/machines/MR-0417/systems',
  '/machines/MR-0409/systems?rung=release',
  '/machines/MR-0428/facts?rung=parts',
];
// One view of each kind for every day; all of them before a change lands.
const daily = [
  '/',
  '/intake',
  '/shelf',
  '/orders',
  '/fleet?cell=MR-0417/tessaly-6-r2',
  '/catalogue/systems/wickerwork-26',
  '/machines/MR-0417/facts',
  '/machines/MR-0417/systems',
  '/machines/MR-0417/routes',
  '/machines/MR-0409/prepare',
  '/machines/MR-0409/run',
  '/machines/MR-0406/handover',
];
for (const view of views)
  test(`at ${view} axe finds no serious fault, loud words are loud, and nothing runs out of the page`, { tag: daily.includes(view) ? [] : '@long' }, async ({
    page,
  }) => {
    await page.goto(view);
    await page.waitForLoadState('networkidle');
    expect(await seriousFaults(page)).toEqual([]);
    // With the lamp off only the colours are others; every view is looked at so before a change lands.
    if (process.env['FRESHBOOT_EVERY_START'] !== undefined) {
      await page.evaluate(() => (document.documentElement.dataset['lamp'] = 'off'));
      expect(await seriousFaults(page, 'color-contrast'), 'lamp off').toEqual([]);
    }

    // Pages speak of things by their words, never by the API's. The catalogue's JSON is the exception.
    const keys = (await (await page.request.get('/api/fact-keys')).json()) as { key: string }[];
    const shown = await page.locator('main').innerText();
    if (!view.startsWith('/catalogue'))
      expect(keys.map((k) => k.key).filter((key) => shown.includes(key))).toEqual([]);
    expect(shown).not.toContain('/api/');

    // What must be read from a metre away is at least 32 px high.
    await expect(page.locator('[data-loud]').first()).toBeVisible();
    const sizes = await page
      .locator('[data-loud]')
      .evaluateAll((all) => all.map((e) => parseFloat(getComputedStyle(e).fontSize)));
    expect(Math.min(...sizes)).toBeGreaterThanOrEqual(32);

    for (const width of [820, 1280, 1920]) {
      await page.setViewportSize({ width, height: 900 });
      expect(
        await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth),
        `at ${width}`,
      ).toBeLessThanOrEqual(0);
    }
  });

test('the ten shapes differ in grey at 28 by 12 px', async ({ page }) => {
  await page.goto('/key');
  await page.evaluate(() => document.fonts.ready);
  await page.addStyleTag({ content: 'svg[data-rung-shape] { color: #333 !important }' });
  const shapes: { name: string; ink: number[] }[] = [];
  for (const shape of await page.locator('svg[data-rung-shape][width="28"]').all()) {
    const png = await shape.screenshot();
    const ink = await page.evaluate(async (data) => {
      const image = new Image();
      image.src = `data:image/png;base64,${data}`;
      await image.decode();
      const canvas = new OffscreenCanvas(28, 12);
      const context = canvas.getContext('2d')!;
      context.drawImage(image, 0, 0, 28, 12);
      const { data: pixels } = context.getImageData(0, 0, 28, 12);
      return Array.from({ length: 28 * 12 }, (_, i) => 255 - pixels[i * 4]!);
    }, png.toString('base64'));
    shapes.push({ name: (await shape.getAttribute('data-rung-shape'))!, ink });
  }
  expect(shapes).toHaveLength(10);
  const faults: string[] = [];
  for (const [i, one] of shapes.entries())
    for (const other of shapes.slice(i + 1)) {
      const differing = one.ink.filter((value, at) => Math.abs(value - other.ink[at]!) > 70).length;
      if (differing < 14) faults.push(`${one.name} and ${other.name} differ in ${differing} of 336 pixels`);
    }
  expect(faults).toEqual([]);
});
