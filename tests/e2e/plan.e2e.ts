import { expect, seriousFaults, test } from './app.ts';
import { leader, press, tabTo } from './keyboard.ts';

test('the machines are planned for the orders and two people, read piece by piece, set aside, and planned again', { tag: '@long' }, async ({
  page,
}) => {
  await page.goto('/');
  await leader(page, '7');
  await expect(page).toHaveURL(/plan$/);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Nothing is planned yet.');
  const form = page.getByRole('form', { name: 'Make a plan' });
  // Who has a run open stands there already, with hours that a hand can change.
  const people = form.getByLabel('Who');
  await expect(people.first()).toBeVisible();
  const names = await people.evaluateAll((all) => all.map((one) => (one as HTMLInputElement).value));
  expect(names).toContain('Odalys Brandt');
  await form.getByLabel('to', { exact: true }).first().fill('18:00');
  await form.getByLabel('Seconds to look').fill('4');
  await press(page, 'Plan');
  const done = page.getByRole('heading', { level: 1, name: /^All done on / });
  await expect(done).toBeVisible();
  await expect(page.getByText(/^At most \d+\.\d % could be saved|^No plan is over sooner/)).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);

  // Everybody reads what to do now, here and on the bench. Other tests of this worker may have left machines of theirs on it.
  const now = page.getByRole('list', { name: 'What to do now' });
  await expect(now.getByRole('listitem')).toHaveCount(names.length);
  await expect(now).toContainText(/MR-\d{4}/);

  // The chart is read by keyboard: each piece says what it is as it is stepped to.
  const chart = page.getByRole('region', { name: 'Who does what when' });
  await tabTo(page, 'a[data-piece=hands]');
  await expect(chart.locator('p[aria-live]')).toContainText(/MR-\d{4} .*\d\d:\d\d–\d\d:\d\d/);
  await chart.getByRole('button', { name: 'By bay, stick and drop' }).press('Enter');
  await expect(chart.getByRole('list', { name: 'Bay 1' }).getByRole('link').first()).toBeVisible();
  await expect(chart.getByRole('list', { name: 'Stick 1' }).getByRole('link').first()).toBeVisible();
  await chart.getByRole('button', { name: 'By machine' }).press('Enter');
  await expect(chart.locator('a[data-piece=wait]').first()).toBeVisible();

  // What is given is set aside by a key. (Whether an order lacks machines rests on how many other tests have brought.)
  const gives = page.getByRole('region', { name: 'Which machine for whom' });
  await expect(gives.getByRole('region', { name: 'Seed Library' })).toContainText(/\d+ given/);
  const aside = gives.getByRole('button', { name: /^Set MR-\d+ aside/ });
  const before = await aside.count();
  expect(before).toBeGreaterThan(0);
  await aside.first().press('Enter');
  await expect(aside).toHaveCount(before - 1);

  await press(page, 'Plan again, moving little');
  await expect(page.getByText(/\d+ of \d+ tasks lie elsewhere than before/)).toBeVisible();
  await page.goto('/');
  await expect(page.getByText(new RegExp(`^(${names.join('|')}): (Bay|MR-)`)).first()).toBeVisible();
});

test('what happened is found by words and days, and comes out as a table', async ({ page }) => {
  await page.goto('/');
  await leader(page, '0');
  await expect(page).toHaveURL(/log$/);
  await page.getByLabel('What happened…').fill('mr-0426 battery');
  const found = page.getByText('1 found');
  await expect(found).toBeVisible();
  await expect(page.getByRole('link', { name: 'MR-0426' })).toHaveCount(1);
  await page.getByLabel('to', { exact: true }).fill('2020-01-01');
  await expect(page.getByText('Nothing that says all of that.')).toBeVisible();
  await page.getByLabel('to', { exact: true }).fill('');
  await expect(found).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);
  const table = page.waitForEvent('download');
  await page.getByRole('link', { name: 'as a table' }).press('Enter');
  expect((await table).suggestedFilename()).toBe('fresh-boot-log.csv');
});
