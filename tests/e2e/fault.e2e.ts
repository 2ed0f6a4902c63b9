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
  for (const look of [1, 2]) {
    const next = page.getByRole('region', { name: 'Look at this next' });
    const asked = await next.getByRole('heading').innerText();
    const answer = next.getByRole('button').first();
    await expect(answer).toBeEnabled();
    await answer.press('Enter');
    const looked = page.getByRole('region', { name: 'What was looked at' }).getByRole('listitem');
    await expect(looked).toHaveCount(look);
    await expect(looked.last()).toContainText(asked);
  }
  const first = causes.getByRole('listitem').first();
  const opener = first.getByRole('button').first();
  if ((await opener.getAttribute('aria-expanded')) !== 'true') await opener.press('Enter');
  await expect(first).toContainText('→');
  expect(await seriousFaults(page)).toEqual([]);

  const mend = (await first.getByText('What mends it:').locator('..').innerText()).replace(
    /^What mends it: /,
    '',
  );
  await first.getByRole('button', { name: 'That is it: make it the next step' }).press('Enter');
  await expect(page).toHaveURL(new RegExp(`${tag}/run`));
  await expect(heading(page)).toHaveText(mend.replace(/ About \d+ min\.$/, ''));
  await press(page, 'Done');
  await expect(heading(page)).toHaveText(before);
  // The record tells it, and the next search knows of it.
  await page.goto(`/machines/${tag}/fault`);
  await page.getByRole('button', { name: /^The stick or disc is not listed/ }).press('Enter');
  await expect(page.getByText('1 recorded stop of this shop counts')).toBeVisible();
});
