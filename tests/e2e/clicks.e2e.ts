import { expect, type Page, seriousFaults, test } from './app.ts';
import { leader, press } from './keyboard.ts';
import { bundleOf } from './machine.ts';

/** Counts what the hand does: each press of the mouse, and each key pressed outside a field. */
async function counted(page: Page) {
  const hand = { clicks: 0, keys: 0 };
  await page.exposeFunction('counted', (what: 'clicks' | 'keys') => hand[what]++);
  await page.addInitScript(() => {
    const count = (what: string) =>
      (window as unknown as Record<string, (w: string) => void>)['counted']?.(what);
    addEventListener('pointerdown', () => count('clicks'), true);
    addEventListener('keydown', () => count('keys'), true);
  });
  return hand;
}

test('from a bundle to a bay with leave and order in at most twelve clicks', async ({ page }) => {
  const hand = await counted(page);
  await page.goto('/intake');
  // The tag is scanned, and its field waits for it.
  await page.keyboard.type('MR-0995');
  await page.getByLabel(/Drop the probe/).setInputFiles({
    name: 'a.tar.gz',
    mimeType: 'application/gzip',
    buffer: bundleOf('BW-13-7040'),
  });
  hand.clicks += 2; // The file is chosen in a window of the browser's own.
  await page.getByRole('button', { name: 'Take in', exact: true }).click();
  for (const answer of ['Leave given', 'Nothing is wanted', 'Not encrypted'])
    await page.getByRole('button', { name: answer, exact: true }).click();
  // Every bay is taken: whoever stands there changes places with it.
  await page.getByRole('button', { name: /^Stands in/ }).click();
  await page.getByRole('option', { name: /^Bay 6/ }).click();
  await page.getByRole('button', { name: /^Order/ }).click();
  await page.getByRole('option', { name: /Seed Library/ }).click();
  await expect(page.getByRole('button', { name: /^Stands in Bay/ })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Order Seed Library/ })).toBeVisible();
  expect(hand.clicks).toBeLessThanOrEqual(12);
});

test('from the routes of a machine to its patch on a stick in at most ten clicks', async ({ page }) => {
  const hand = await counted(page);
  await page.goto('/machines/MR-0404/routes');
  await page.locator('button[data-route=patch]').first().click();
  await page.getByRole('link', { name: 'Prepare', exact: true }).click();
  await page
    .locator('[data-item=image]')
    .getByRole('link', { name: /^Apply/ })
    .click();
  await page.getByRole('button', { name: 'Make the patched image' }).click();
  await expect(page.getByRole('link', { name: 'Look at the patched image' })).toBeVisible();
  await page.getByRole('link', { name: /^Back to/ }).click();
  await page
    .getByRole('link', { name: /^Write .* onto a medium$/ })
    .first()
    .click();
  await page.getByRole('button', { name: /^Stick 2, red/ }).click();
  const medium = page.getByRole('region', { name: 'Stick 2, red' });
  await medium.getByLabel('Label, typed').click();
  await page.keyboard.type('Stick 2, red');
  await medium.getByRole('button', { name: 'Erase and write' }).click();
  await expect(medium.locator('[data-job=done]')).toContainText('read back and equal');
  expect(hand.clicks).toBeLessThanOrEqual(10);
});

test('from the bench to the step of a run in at most six keys', async ({ page }) => {
  const hand = await counted(page);
  await page.goto('/');
  await expect(page.getByText(/^Bay \d: /).first()).toBeVisible();
  const all = (await (await page.request.get('/api/machines')).json()) as {
    bay: number | null;
    run: { finishedAt: string | null } | null;
  }[];
  const bay = all.find((m) => m.bay !== null && m.run?.finishedAt === null)?.bay;
  hand.keys = 0;
  await leader(page, String(bay));
  await expect(page).toHaveURL(/\/run$/);
  await expect(page.getByRole('region', { name: 'Run' }).getByRole('heading', { level: 2 })).toBeVisible();
  expect(hand.keys).toBeLessThanOrEqual(6);
});

test('machines are picked by ticks and by a scanned list, and their labels are printed', async ({ page }) => {
  await page.goto('/find?q=seed library');
  const bar = page.getByRole('region', { name: 'Picked machines' });
  await page
    .getByRole('checkbox', { name: /^Pick MR-/ })
    .first()
    .check();
  await expect(bar).toContainText('1 picked');
  await page.getByLabel(/^Or scan a list/).focus();
  // A list of tags, one of them of a machine that is still to come; the page stays.
  for (const tag of ['MR-0417', 'MR-0998', 'MR-0417']) {
    await page.keyboard.type(tag);
    await page.keyboard.press('Enter');
  }
  await expect(page.getByRole('status')).toHaveText('MR-0417: picked before.');
  await expect(bar).toContainText('3 picked');
  expect(await seriousFaults(page)).toEqual([]);

  // They are still picked on another page, where one more is added.
  await page.getByRole('link', { name: 'Fleet' }).click();
  await page.getByRole('checkbox', { name: 'Pick MR-0404' }).check();
  const labels = page.waitForEvent('popup');
  await bar.getByRole('link', { name: 'Their labels' }).click();
  const sheet = await labels;
  await expect(sheet.getByRole('listitem')).toHaveCount(4);
  await expect(sheet.locator('body')).toContainText('MR-0998');
  await sheet.close();
  await bar.getByRole('button', { name: 'Put all back' }).click();
  await expect(bar).toBeHidden();
});

test('the slip that shows the ownership is written down and photographed, and stands in the log', { tag: '@long' }, async ({
  page,
}) => {
  await page.request.post('/api/machines/import', {
    multipart: {
      assetTag: 'MR-0996',
      files: { name: 'b.tar.gz', mimeType: 'application/gzip', buffer: bundleOf('BW-13-7041') },
    },
  });
  await page.goto('/machines/MR-0996/facts?rung=release');
  const asked = page.getByRole('region', { name: 'Release check' });
  await asked.getByLabel('Slip, receipt or letter').fill('slip 114, folder of November');
  await asked.getByLabel('Its photo').setInputFiles({
    name: 'slip.png',
    mimeType: 'image/png',
    buffer: await page.screenshot(),
  });
  await expect(asked.getByRole('status')).toHaveText('Kept with the machine.');
  await asked.getByRole('button', { name: 'Leave given' }).click();
  await page.getByRole('button', { name: 'Close' }).click();
  await page.getByText('Log of the machine').click();
  const log = page.getByRole('list', { name: 'Log of the machine' });
  await expect(log).toContainText('slip 114, folder of November');
  await expect(log.getByRole('img')).toHaveCount(1);
  expect(await seriousFaults(page)).toEqual([]);
});

test('a light 32-bit system is entered without JSON, and what is wrong is said under its field', { tag: '@long' }, async ({
  page,
}) => {
  await page.goto('/catalogue/systems/new');
  await page.getByLabel('Copy from').selectOption({ label: 'Pebblemoss 32' });
  const form = page.getByRole('form', { name: /^Entry/ });
  const field = (at: string) => form.locator(`[data-at="${at}"]`);
  await expect(field('/name')).toHaveValue('Pebblemoss');
  await field('/id').fill('fern light');
  await expect(form.getByText(/^Id should be letters, digits/)).toBeVisible();
  await field('/id').fill('fern-light');
  await expect(form.getByText(/^Id should be/)).toBeHidden();
  await field('/name').fill('Fern Light');
  await field('/release').fill('1');

  // What it needs is chosen: the instructions and the memory, by their names.
  await form.getByText('instructions', { exact: true }).click();
  await field('/requirements/6/needs').getByRole('textbox').fill('cmov sse2');
  await field('/requirements/6/needed').fill('SSE2');
  await form.getByText('memory', { exact: true }).click();
  await field('/requirements/7/needs').getByRole('spinbutton').first().fill('512');
  await field('/requirements/7/needed').fill('512 MiB');
  await page.getByLabel('Why it changes').fill('a trial in the shop');
  await page.getByRole('button', { name: 'Add it to the catalogue' }).click();
  await expect(page).toHaveURL(/systems\/fern-light$/);
  const kept = (await (await page.request.get('/api/catalogue/systems/fern-light')).json()) as {
    entry: { requirements: { needs: unknown }[] };
  };
  expect(kept.entry.requirements[6]?.needs).toEqual({ fact: 'cpu.flags', has: ['cmov', 'sse2'] });
  expect(JSON.stringify(kept.entry.requirements[7]?.needs)).toContain('"memory.installedMiB","atLeast":512');
  await leader(page, 'm');
  await expect(page.getByRole('columnheader', { name: 'Fern Light 1' })).toBeVisible();
});

test('what a route takes for granted stands beside Begin, and what is typed finds machines by how they stand', async ({
  page,
}) => {
  await page.request.post('/api/machines/import', {
    multipart: {
      assetTag: 'MR-0997',
      files: { name: 'b.tar.gz', mimeType: 'application/gzip', buffer: bundleOf('BW-13-7042') },
    },
  });
  await page.goto('/machines/MR-0997/routes');
  await page.getByRole('list', { name: 'Routes, best first' }).getByRole('button').first().click();
  const chosen = page.getByRole('region', { name: 'Chosen route' });
  await expect(chosen).toContainText(/^.*Not measured yet: Owner.s leave/s);
  await expect(chosen).toContainText('the risk counts it in');
  await expect(chosen).not.toContainText('Risk0 %');

  // Begin asks, with the reason kept; and the first step measures what was taken for granted.
  await page.goto('/machines/MR-0997/facts?rung=release');
  for (const answer of ['Leave given', 'Nothing is wanted', 'Not encrypted'])
    await page.getByRole('button', { name: answer, exact: true }).click();
  await expect(page.getByText('Does anything lock it?')).toBeVisible();
  await page.goto('/machines/MR-0997/routes');
  await page.getByRole('list', { name: 'Routes, best first' }).getByRole('button').first().click();
  await expect(chosen.getByRole('alert')).toContainText('Nobody has measured');
  const begin = chosen.getByRole('button', { name: 'Begin all the same' });
  await expect(begin).toBeDisabled();
  await chosen.getByLabel(/^To begin all the same/).fill('its drive is measured at the first step');
  await begin.click();
  const run = page.getByRole('region', { name: 'Run' });
  const step = run.getByRole('heading', { level: 2 });
  const main = run.getByRole('button', { name: /^(Done|As it should be)$/ });
  // Leave comes first, then the plan's unknowns, before anything is erased.
  for (let i = 0; i < 12 && !(await step.innerText()).includes('nobody has measured it'); i++) {
    const text = await step.innerText();
    await press(page, (await main.innerText()).trim());
    await expect(step).not.toHaveText(text);
  }
  await expect(step).toContainText('nobody has measured it');

  const tags = async (words: string) => {
    await page.goto(`/find?q=${encodeURIComponent(words)}`);
    await expect(page.getByText('A part of tag, serial, model or order')).toBeVisible();
    await expect(
      page
        .getByRole('checkbox', { name: /^Pick / })
        .or(page.getByText('Nothing here fits'))
        .first(),
    ).toBeVisible();
    return page.getByRole('checkbox', { name: /^Pick / }).evaluateAll((all) => all.map((e) => e.ariaLabel));
  };
  expect(await tags('ready')).toContain('Pick MR-0406');
  expect(await tags('waits')).toContain('Pick MR-0409');
  expect(await tags('part')).toContain('Pick MR-0401');
  expect(await tags('late')).toEqual([]);
});
