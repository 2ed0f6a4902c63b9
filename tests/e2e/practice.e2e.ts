import type { Page } from '@playwright/test';
import { expect, seriousFaults, test } from './app.ts';

const region = (page: Page) => page.getByRole('region', { name: 'Practice' });
const headingOf = (page: Page) => region(page).getByRole('heading', { level: 1 });

/** Presses a button of the practice by keyboard, and waits until the machine has answered. */
async function press(page: Page, name: string | RegExp) {
  const moves = () => page.evaluate(() => Object.values({ ...sessionStorage }).join().length);
  const before = await moves();
  const button = page.getByRole('button', { name }).first();
  await expect(button).toBeEnabled();
  await button.press('Enter');
  await expect.poll(moves).toBeGreaterThan(before);
}

/** Does the steps as they stand until the heading is another one than those of steps, or reads so. */
async function stepsUntil(page: Page, words: RegExp) {
  for (let i = 0; i < 40; i++) {
    await expect(headingOf(page)).toBeVisible();
    if (words.test(await headingOf(page).innerText())) return;
    const danger = page.getByLabel('Scan or type the tag to go on');
    if (await danger.isVisible()) await danger.fill(await page.locator('b').first().innerText());
    await press(page, /^(Done|As it should be|It has ended|Do it|This started it: .*)$/);
  }
  throw new Error(`never came to ${words}`);
}

const score = async (page: Page, name: RegExp) =>
  Number(await page.getByRole('region', { name: 'Debriefing' }).locator('div', { hasText: name }).locator('dd').first().innerText());

test('the installer says no: found and mended, or a drive of somebody else erased', { tag: '@long' }, async ({ page }) => {
  const before = await (await page.request.get('/api/machines')).text();
  await page.goto('/practice');
  await expect(page.getByRole('list', { name: 'What can be practised' }).getByRole('listitem')).toHaveCount(10);
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByRole('link', { name: 'The installer says no' }).press('Enter');
  await stepsUntil(page, /first question/);
  await expect(page.getByRole('img', { name: /does not meet the requirements/ })).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);

  // The sheet stops there; the machine shows what is looked at, and the hand decides.
  await press(page, 'It says that this computer does not meet the requirements');
  await expect(headingOf(page)).toHaveText('What do you look at?');
  await press(page, /^Look: Shelf, the medium: does it hold the patched image/);
  await expect(page.getByRole('list', { name: 'What was looked at' })).toContainText('it holds another');
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByRole('button', { name: /^The installer’s own check refuses/ }).press('Enter');
  await press(page, 'That is it: mend it');
  await stepsUntil(page, /Where does the other come from/);

  // A reload loses nothing of it.
  await page.reload();
  await expect(headingOf(page)).toHaveText('Where does the other come from?');
  await press(page, 'Stop and look: what is plugged in?');
  await stepsUntil(page, /A good end/);
  const good = await score(page, /safety/);
  expect(good).toBe(100);
  await expect(page.getByRole('region', { name: 'Debriefing' })).toContainText('the patch is not on this medium');
  expect(await seriousFaults(page)).toEqual([]);

  await page.getByRole('button', { name: 'From the beginning' }).press('Enter');
  await expect(headingOf(page)).not.toContainText('end');
  await stepsUntil(page, /first question/);
  await press(page, 'It says that this computer does not meet the requirements');
  await page.getByRole('button', { name: /^The installer’s own check refuses/ }).press('Enter');
  await press(page, 'That is it: mend it');
  await stepsUntil(page, /Where does the other come from/);
  await press(page, 'Delete the partitions of both, to be sure');
  await expect(headingOf(page)).toContainText('A bad end.');
  expect(await score(page, /safety/)).toBe(0);
  await expect(page.getByRole('region', { name: 'Debriefing' })).toContainText('The 1 TB drive held the photographs');
  // Nothing of it is in the shop.
  expect(await (await page.request.get('/api/machines')).text()).toBe(before);
});

test('warm where it should be cold: out with it, or plugged in', async ({ page }) => {
  await page.goto('/practice/practice-warm-battery');
  await stepsUntil(page, /What now\?/);
  await press(page, /^Do not plug it in/);
  await expect(headingOf(page)).toContainText('A good end.');
  expect(await score(page, /safety/)).toBe(100);
  await page.getByRole('button', { name: 'From the beginning' }).press('Enter');
  await stepsUntil(page, /What now\?/);
  await press(page, /^Press the shell together/);
  await expect(headingOf(page)).toContainText('A bad end.');
  expect(await score(page, /safety/)).toBe(0);
  await expect(page.getByRole('region', { name: 'Debriefing' })).toContainText('The battery was pierced');
});

test('the board that does not come back: patience and the programmer, or a lid closed while it wrote', { tag: '@long' }, async ({
  page,
}) => {
  await page.goto('/practice/practice-board-stays-dark');
  await stepsUntil(page, /Is that enough\?/);
  await press(page, /^Copy it to another medium/);
  await stepsUntil(page, /Quick\?/);
  await press(page, /^Plug it in again/);
  await stepsUntil(page, /^Switch it on/);
  await page.getByRole('button', { name: 'It stopped' }).press('Enter');
  await press(page, /^firmware/);
  // A look that tells little, before the one that tells most: the debriefing says so.
  await press(page, /^Look: Is the switch|^Look: Can the switch be moved/);
  await page.getByRole('button', { name: 'Let the fault finder help' }).press('Enter');
  await expect(page.getByRole('list', { name: 'Causes' })).toContainText('%');
  await press(page, /^Look: /);
  await page.getByRole('button', { name: /What was written to the chip does not start/ }).press('Enter');
  await press(page, 'That is it: mend it');
  await stepsUntil(page, /A good end/);
  await expect(page.getByRole('region', { name: 'Debriefing' })).toContainText('Instead of');
  const checks = await score(page, /checks/);
  expect(checks).toBeLessThanOrEqual(70);

  await page.getByRole('button', { name: 'From the beginning' }).press('Enter');
  await stepsUntil(page, /Is that enough\?/);
  await press(page, /^Copy it to another medium/);
  await stepsUntil(page, /Quick\?/);
  await press(page, /^Close the lid/);
  await expect(headingOf(page)).toContainText('A bad end.');
  await expect(page.getByRole('region', { name: 'Debriefing' })).toContainText('It went to sleep in the middle of the writing');
  expect(await score(page, /checks/)).toBe(100);
});
