import { expect, seriousFaults, test } from './app.ts';
import { press } from './keyboard.ts';
import { heading } from './walk.ts';

test('a run stops, its cause is found by two looks, what mends it becomes the next step, and the run goes on', async ({
  page,
}) => {
  const tag = 'MR-0422';
  await page.goto(`/machines/${tag}/run`);
  const before = await heading(page).innerText();
  await press(page, 'It stopped');
  await page.keyboard.type('the stick is not listed');
  await page.keyboard.press('Enter');
  await page.getByRole('link', { name: 'Find the fault' }).press('Enter');

  // How far did it get: ten sentences at the ten heights.
  await expect(page.getByRole('heading', { name: 'How far did it get?' })).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByRole('button', { name: /^The stick or disc is not listed/ }).press('Enter');

  // The looks that tell most; each moves the chances, and says so.
  const causes = page.getByRole('list', { name: 'Causes' });
  await expect(causes.getByRole('listitem').first()).toBeVisible();
  for (const [look, seen] of [
    ['Choose it in the boot menu', 'It is not listed'],
    ['Not listed', 'It is allowed'],
  ] as const) {
    const next = page.getByRole('region', { name: 'Look at this next' });
    // Another look may tell more by now: what is asked for is among the others then.
    if (!(await next.getByRole('heading').innerText()).startsWith(look))
      await page.getByText('Other checks that tell something').click();
    const asked = page.getByRole('region').filter({ hasText: look }).last();
    await asked.getByRole('button', { name: seen }).press('Enter');
    await expect(page.getByRole('region', { name: 'What was looked at' })).toContainText(look);
  }
  const port = causes.locator('[data-cause=wrong-port]');
  await port.getByRole('button').first().press('Enter');
  await expect(port).toContainText('→');
  expect(await seriousFaults(page)).toEqual([]);

  await port.getByRole('button', { name: 'That is it: make it the next step' }).press('Enter');
  await expect(page).toHaveURL(new RegExp(`${tag}/run`));
  await expect(heading(page)).toContainText('Take the slow port at the back');
  await press(page, 'Done');
  await expect(heading(page)).toHaveText(before);
  // The record tells it, and the next search knows of it.
  await page.goto(`/machines/${tag}/fault`);
  await page.getByRole('button', { name: /^The stick or disc is not listed/ }).press('Enter');
  await expect(page.getByText('1 recorded stop of this shop counts')).toBeVisible();
});
