import { expect, type Page, seriousFaults, test } from './app.ts';
import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { leader, press, scan, tabTo } from './keyboard.ts';
import { bundleOf } from './machine.ts';

/** Presses Tab until the button with this name has the focus. */
async function focusOn(page: Page, name: string | RegExp) {
  const button = page.getByRole('button', { name }).first();
  await expect(button).toBeEnabled();
  for (let i = 0; i < 90 && !(await button.evaluate((e) => e === document.activeElement)); i++)
    await page.keyboard.press('Tab');
  await expect(button).toBeFocused();
}

const question = (page: Page) => page.getByRole('region', { name: 'Release check' }).getByRole('heading');

test('a machine arrives by a code, gets its tag by scanner and its leave by keyboard', async ({ page }) => {
  await page.goto('/');
  await leader(page, 't');
  await expect(page.getByLabel('Asset tag, typed or scanned')).toBeFocused();
  await tabTo(page, '[role=tab]');
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  await press(page, 'Make a code');
  const command = page.getByText(/^wget -qO- /);
  await expect(command).toBeVisible();
  const code = /probe\/(\w+)/.exec(await command.innerText())?.[1] ?? '';

  // The machine at the bench runs the command; the page shows it arrive by itself.
  const answer = await page.request.post(`/api/probe/${code}`, {
    data: bundleOf('BW-13-0001'),
    headers: { 'Content-Type': 'application/gzip' },
  });
  expect(answer.ok()).toBe(true);
  const arrival = page.getByRole('listitem').filter({ hasText: 'BW-13-0001' });
  await expect(arrival).toBeVisible({ timeout: 2000 });
  await tabTo(page, 'input[aria-label="Tag for Brackwater Stile 13 BW-13-0001"]');
  await scan(page, 'MR-0980');
  await expect(arrival).toBeHidden();

  await page.goto('/');
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await scan(page, 'MR-0980');
  await expect(page).toHaveURL(/MR-0980\/systems/);
  await leader(page, 'f');
  await tabTo(page, 'button[data-rung]');
  await page.keyboard.press('Home');
  await page.keyboard.press('Enter');

  for (const [asks, answer] of [
    ['May we work on it?', 'Leave given'],
    ['Is anything on it still wanted?', 'Nothing is wanted'],
    ['Is the drive encrypted?', 'Not encrypted'],
    ['Does anything lock it?', 'Nothing'],
    ['Reset it to its first start', 'It is reset'],
    ['Connect it, and watch its first pages', 'Connected and watched'],
  ] as const) {
    await expect(question(page)).toHaveText(asks);
    await press(page, answer);
  }
  await expect(question(page)).toHaveText('What did it ask for?');
  await focusOn(page, /^Nothing of an organisation/);
  await page.keyboard.press('Enter');
  await expect(page.getByText('Leave is given, and nothing holds the machine.')).toBeVisible();
  await expect(page.getByTestId('rung-outcome')).toHaveText('clear');
});

test('a table is mapped, mended and taken in whole', async ({ page }) => {
  const file = join(tmpdir(), 'batch.csv');
  writeFileSync(file, 'tag,Hersteller,memory\nMR-0981,Brackwater,8 GB\nMR-0982,Ottavine,much\n');
  await page.goto('/intake');
  await page.getByRole('tab', { name: 'From a table' }).click();
  await page.getByLabel('Choose a table (CSV in UTF-8)').setInputFiles(file);
  await expect(page.getByRole('alert')).toContainText('2 places to mend');
  await expect(page.getByRole('alert')).toContainText('line 3, memory');
  await page.getByLabel('What the column Hersteller holds').selectOption({ label: 'Maker' });
  await expect(page.getByRole('alert')).toContainText('1 place to mend');
  await expect(page.getByRole('button', { name: /machines in$/ })).toBeDisabled();

  const mended = join(tmpdir(), 'batch-mended.csv');
  writeFileSync(mended, 'tag,maker,memory\nMR-0981,Brackwater,8 GB\nMR-0982,Ottavine,4 GB\n');
  await page.getByLabel('Choose a table (CSV in UTF-8)').setInputFiles(mended);
  await page.getByRole('button', { name: 'Take 2 machines in' }).click();
  await expect(page.getByRole('status')).toHaveText('2 machines taken in.');
  expect(await seriousFaults(page)).toEqual([]);

  await leader(page, 'w');
  await expect(page.getByLabel('Where is…')).toBeFocused();
  await page.keyboard.type('ottavine 098', { delay: 60 });
  await expect(page.getByRole('link', { name: /MR-0982/ })).toBeVisible();
  await expect(page.getByRole('main').getByRole('listitem')).toHaveCount(1);
});

test('a swollen battery keeps the run from beginning and says what to do', async ({ page }) => {
  await page.goto('/machines/MR-0428/routes');
  await page.locator('button[data-route]').first().click();
  await expect(page.getByRole('alert')).toContainText('swollen or leaking');
  await expect(page.getByRole('alert')).toContainText('have it taken out by the local rules');
  await expect(page.getByRole('button', { name: /^Begin/ })).toBeDisabled();
  await page.getByRole('link', { name: 'To the rung parts' }).click();
  await expect(page.getByRole('region', { name: 'Soundness' })).toContainText(
    'Do not charge, press or pierce it',
  );
});

test('the letter has both serial numbers, and a photo is attached', async ({ page }) => {
  await page.goto('/machines/MR-0412/facts?rung=release');
  await expect(question(page)).toHaveText('Stop: an organisation still holds it');
  await page.getByText('The letter to the organisation').click();
  await expect(page.locator('pre')).toContainText('Serial number of the board   BLS11-90432');

  await page.goto('/machines/MR-0412/facts?rung=parts');
  const picture = await page.screenshot();
  await page
    .getByLabel('Attach photos')
    .setInputFiles({ name: 'dent.png', mimeType: 'image/png', buffer: picture });
  await expect(page.getByRole('img', { name: /^Photo 1 of MR-0412/ })).toBeVisible();
  await page.getByLabel('Attach photos').setInputFiles({
    name: 'no.png',
    mimeType: 'image/png',
    buffer: Buffer.from('hello'),
  });
  await expect(page.getByRole('alert')).toContainText('no picture that is known here');
});

test('what to measure next leads, and the history of a fact is kept', async ({ page }) => {
  await page.goto('/machines/MR-0431/facts');
  await expect(page.getByTestId('measure-next').getByRole('listitem').first()).toContainText(
    /\d+ min · (decides|settles) \d/,
  );
  await page.goto('/machines/MR-0418/facts?rung=firmware');
  await page.getByRole('button', { name: 'Correct TPM' }).click();
  await page.getByRole('radio', { name: 'version 2.0' }).click();
  await page.getByRole('button', { name: 'History of TPM' }).click();
  const past = page.getByRole('list', { name: 'History of TPM' }).getByRole('listitem');
  await expect(past).toHaveCount(2);
  await expect(past.first()).toContainText('version 2.0');
});

test('a part goes on the shelf, is tested and kept for a machine', async ({ page }) => {
  await page.goto('/shelf');
  await page.getByLabel('GiB', { exact: true }).fill('16');
  await page.getByLabel('From (tag or words)').fill('MR-0350');
  await page.getByRole('button', { name: 'On the shelf' }).click();
  const part = page.getByRole('listitem').filter({ hasText: '16 GiB DDR4 SO-DIMM' });
  await part.getByRole('button', { name: 'Passed' }).click();
  await expect(part).toContainText('passed');
  await part.getByLabel(/^Kept for/).fill('mr-0405');
  await part.getByRole('button', { name: 'Keep' }).click();
  await expect(part.getByRole('button', { name: 'Fitted in MR-0405' })).toBeVisible();
});
