import { expect, type Page, test } from './app.ts';
import { join } from 'node:path';
import { home } from './server.ts';

const picture = async (page: Page, name: string) => {
  await page.waitForLoadState('networkidle');
  // On a busy machine the network rests before the page has what it asked for.
  await expect(page.locator('body')).not.toHaveText('');
  await expect(page.getByText('Reading…')).toHaveCount(0);
  await page.evaluate(() => document.fonts.ready);
  await page.screenshot({ path: join(home, 'docs/screenshots', `${name}.png`) });
};

test.beforeEach(({ page }) =>
  page.addInitScript(() => localStorage.setItem('fresh-boot-who', 'Odalys Brandt')),
);

for (const [name, path] of [
  ['bench', '/'],
  ['intake', '/intake'],
  ['systems', '/machines/MR-0417/systems'],
  ['facts', '/machines/MR-0409/facts'],
  ['practice', '/practice/practice-installer-refuses'],
  ['identity', '/machines/MR-0422/identity'],
  ['rehearse', '/machines/MR-0409/rehearse'],
  ['fault', '/machines/MR-0431/fault'],
  ['routes', '/machines/MR-0417/routes'],
  ['fleet', '/fleet?cell=MR-0417/tessaly-6-r2'],
  ['run-step', '/machines/MR-0422/run'],
  ['run-wait', '/machines/MR-0409/run'],
  ['handover', '/api/machines/MR-0406/handover'],
] as const)
  test(name, async ({ page }) => {
    // One of them with the lamp off: the sheet in a dark workshop.
    if (name === 'run-wait') await page.addInitScript(() => localStorage.setItem('fresh-boot-lamp', 'off'));
    await page.goto(path);
    if (name === 'fault') await page.getByRole('button', { name: /^It runs; a device/ }).click();
    if (name === 'practice')
      for (const button of ['Done', /^This started it/, /^It says that this computer/, /^Look: Read what/]) {
        await page.getByRole('button', { name: button }).first().click();
        await page.waitForTimeout(500);
      }
    await picture(page, name);
  });

// The image held against the machine, with what a start showed.
test('prepare', async ({ page }) => {
  test.setTimeout(120_000);
  await page.goto('/machines/MR-0409/prepare?aim=tessaly-6-r1');
  await page.getByRole('button', { name: 'Start the twin' }).click();
  await page.locator('[data-verdict]').waitFor({ timeout: 90_000 });
  await page.evaluate(() => window.scrollTo(0, 0));
  await picture(page, 'prepare');
});

// What was proved, and what was measured beside others of the model.
test('acceptance', async ({ page }) => {
  await page.goto('/machines/MR-0406/handover');
  await page.getByRole('list', { name: 'Acceptance list' }).waitFor();
  await picture(page, 'acceptance');
});

// A machine that has left.
test('due', async ({ page }) => {
  await page.request.put('/api/machines/MR-0406/left', { data: { left: true, by: 'Odalys Brandt' } });
  await page.goto('/due');
  await page.getByText('machine has left.').waitFor();
  await picture(page, 'due');
});

test('plan', async ({ page }) => {
  test.setTimeout(120_000);
  await page.goto('/plan');
  await page.getByRole('button', { name: 'Plan', exact: true }).click();
  await page.getByRole('heading', { name: /^All done on/ }).waitFor({ timeout: 60_000 });
  await picture(page, 'plan');
});

test('log', async ({ page }) => {
  await page.goto('/log?q=pim+stick&all=yes');
  await page.getByText(/found$|^the latest/).waitFor();
  await picture(page, 'log');
});

test('catalogue', async ({ page }) => {
  await page.goto('/catalogue/systems/wickerwork-26');
  await page.locator('[data-at="/supportEnds"]').fill('2028-04-30');
  await page.getByLabel('Why it changes').fill('Their new life-cycle page');
  await page.getByText('Effect on the fleet').waitFor();
  await picture(page, 'catalogue');
});
