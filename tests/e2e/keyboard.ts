import { expect, type Page } from '@playwright/test';

/**
 * A scanner is a keyboard that types faster than any hand and ends with Enter. Into a field it types; elsewhere its pace is
 * what tells it from a hand, so the keys come in one go: a busy machine would draw them out.
 */
export async function scan(page: Page, tag: string) {
  if (await page.evaluate(() => document.activeElement?.matches('input, textarea') ?? false))
    return page.keyboard.type(`${tag}\n`, { delay: 2 });
  await page.evaluate(
    (keys) => {
      for (const key of keys)
        (document.activeElement ?? document.body).dispatchEvent(
          new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }),
        );
    },
    [...tag, 'Enter'],
  );
}

/** The leader key, then a letter. */
export async function leader(page: Page, letter: string) {
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await page.keyboard.press('.');
  await expect(page.getByRole('dialog')).toBeVisible();
  await page.keyboard.press(letter);
  await expect(page.getByRole('dialog')).toBeHidden();
}

/** Presses Tab until what has the focus is what is wanted; a mouse is never used. */
export async function tabTo(page: Page, selector: string, most = 80) {
  for (let i = 0; i < most; i++) {
    if (await page.evaluate((s) => document.activeElement?.matches(s) ?? false, selector)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`Tab never came to ${selector}`);
}

/** Presses the button with this text without a mouse. */
export async function press(page: Page, name: string) {
  const button = page.getByRole('button', { name, exact: true });
  await expect(button).toBeEnabled();
  for (let i = 0; i < 80 && !(await button.evaluate((e) => e === document.activeElement)); i++)
    await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
}

/** Says that a wait has ended. One that ended sooner than it can is asked about, and goes on with the reason. */
export async function endWait(page: Page) {
  const region = page.getByRole('region', { name: 'Run', exact: true });
  const before = await region.getByRole('heading', { level: 2 }).innerText();
  await press(page, 'It has ended');
  const why = region.getByLabel('Why it goes on without');
  const gone = region.getByRole('heading', { level: 2 }).filter({ hasNotText: before });
  await expect(why.or(gone).first()).toBeVisible();
  if ((await why.count()) === 0) return;
  await why.fill('its clock was put forward');
  await press(page, 'It has ended');
}
