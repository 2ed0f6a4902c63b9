import { expect, type Page, seriousFaults, startTwin, test } from './app.ts';
import { endWait, leader, press, scan, tabTo } from './keyboard.ts';
import { answerQuestions, bring, bundleOf, heading, name, wholeWay, write } from './walk.ts';

const probeBundle = (code?: string) =>
  bundleOf(
    'sys_vendor=Brackwater\nproduct_name=Transom 7\nproduct_serial=BT-7-60213\nboard_name=TR7\n',
    code,
  );

/** Applies the recipe that the image waits for, from Prepare. */
async function patch(page: Page) {
  await page
    .locator('[data-item=image]')
    .getByRole('link', { name: /^Apply/ })
    .click();
  await page.getByRole('button', { name: 'Make the patched image' }).click();
  await expect(page.getByRole('link', { name: 'Look at the patched image' })).toBeVisible();
}

const state = (page: Page, item: string) => page.locator(`li[data-item=${item}] [data-state]`);

test('the whole way: refused in the twin, recipe, image, stick, accepted, run, proof by a new probe, hand-over', async ({
  page,
  context,
}) => {
  // The bundle that is known before the work begins.
  const known = probeBundle();
  await page.request.post('/api/machines/MR-0404/bundles', {
    multipart: { files: { name: 'b.tar.gz', mimeType: 'application/gzip', buffer: known } },
  });

  // By keyboard and scanner to a route.
  await page.goto('/');
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await scan(page, 'MR-0404');
  await expect(page).toHaveURL(/machines\/MR-0404\/systems/);
  await leader(page, 'r');
  const route = page.locator('button[data-route=patch]').first();
  await expect(route).toBeVisible();
  for (let i = 0; i < 80 && !(await route.evaluate((e) => e === document.activeElement)); i++)
    await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Chosen route' })).toContainText('Changes the installer');
  await answerQuestions(page);
  const chosen = page.url();
  const told = page.getByRole('list', { name: 'What to know of this route' }).getByRole('listitem');
  await expect(told.first()).toBeVisible();
  const toKnow = await told.allInnerTexts();

  // As it came the installer refuses the twin; that start is no evidence for what the plan wants.
  await leader(page, 'p');
  await expect(page.getByRole('heading', { level: 2 }).first()).toHaveText('3 of 4 still to be made.');
  const prepare = page.url();
  const image = page.getByRole('combobox', { name: 'Installer image' });
  await expect(image.locator('option:checked')).toHaveText('tessaly-6-r2.iso');
  await startTwin(page);
  await expect(page.locator('[data-verdict]')).toHaveText('refused');
  await expect(state(page, 'image')).toHaveText('missing');

  await patch(page);
  await page.goto(prepare);
  await expect(state(page, 'image')).toHaveText('ready');
  await expect(page.locator('[data-evidence=setup]')).toContainText('of another image');
  await write(page, 'Stick 2, red');
  await page.goto(prepare);
  await expect(page.getByRole('heading', { level: 2 }).first()).toHaveText('All of it is ready.');
  await expect(image.locator('option:checked')).toHaveText('tessaly-6-r2-gates.iso');
  await startTwin(page);
  await expect(page.locator('[data-verdict]')).toHaveText('accepted');
  await expect(page.locator('li[data-item=image]')).toContainText('Seen in the twin: accepted, as a stick');
  expect(await seriousFaults(page)).toEqual([]);

  // Walked before the work: by reckoning, and for real, whole, on an empty drive in the twin.
  await leader(page, 'v');
  await wholeWay(page);
  expect(await seriousFaults(page)).toEqual([]);

  await page.goto(chosen);
  await press(page, 'Begin the run');
  await expect(page).toHaveURL(/MR-0404\/run/);
  await runOwnsAim(page);
  const region = page.getByRole('region', { name: 'Run' });
  const uses = region.getByRole('list', { name: 'What this step uses' });
  const seen = {
    tried: false,
    typed: false,
    waited: false,
    danger: false,
    held: false,
    proved: false,
    wrong: false,
  };
  for (let step = 0; step < 150; step++) {
    const text = await heading(page).innerText();
    if (text === 'Every step is done.') break;
    if ((await region.getByText('It prints').count()) > 0) seen.typed = true;
    if (!seen.held && text.startsWith('Take Stick 2')) {
      seen.held = true;
      await expect(uses.locator('[data-item=medium]')).toContainText('Stick 2, red');
      // Somebody changes the recipe meanwhile: this page turns it stale by itself, and holds the step.
      const other = await context.newPage();
      await other.goto('/images/2/recipe/tessaly-6-r2-gates');
      const recipe = other.getByLabel('Recipe as JSON');
      await expect(recipe).toHaveValue(/tessaly-6-r2-gates/);
      const book = JSON.parse(await recipe.inputValue()) as { about: string };
      book.about = 'Passes over the gates, as the shop does it since today.';
      await recipe.fill(JSON.stringify(book));
      await expect(other.getByRole('alert')).toHaveCount(0);
      await other.getByRole('button', { name: 'Save the recipe' }).click();
      await expect(uses.locator('[data-item=image]')).toContainText('was changed since');
      await expect(region.getByRole('button', { name: 'As it should be' })).toBeDisabled();
      await other.goto('/machines/MR-0404/prepare');
      await expect(state(other, 'image')).toHaveText('stale');
      await patch(other);
      await other.goto('/machines/MR-0404/prepare');
      await expect(state(other, 'medium')).toHaveText('stale');
      await write(other, 'Stick 2, red');
      await other.close();
      await expect(region.getByRole('button', { name: 'As it should be' })).toBeEnabled();
    }
    // What the step asks is read off its main button, which is there when the step is.
    const main = await region
      .getByRole('button', { name: /^(Done|As it should be|Do it|It has begun|It worked)$/ })
      .first()
      .innerText();
    if (main === 'Do it') {
      seen.danger = true;
      await tabTo(page, 'input[data-scan=field]');
      await scan(page, 'MR-0417');
      await expect(page.getByRole('alert')).toContainText('wants the tag of the machine');
      await expect(page, 'a scan in a danger field only fills the field').toHaveURL(/MR-0404\/run/);
      await page.locator('input[data-scan=field]').press('Control+a');
      await scan(page, 'MR-0404');
    } else if (main === 'It has begun') {
      seen.waited = true;
      await press(page, 'It has begun');
      await expect(page.getByRole('timer')).toHaveText(/^\d+:\d\d$/);
      await endWait(page);
    } else if (main === 'It worked') {
      seen.tried = true;
      // The first of the list does not help, the second does.
      await region.getByRole('button', { name: 'It did not' }).first().press('Enter');
      await expect(region.getByRole('region', { name: 'Trials' })).toContainText('did not help');
      // What others did arrives before the answer to one's own word, and a key on a resting button says nothing.
      const worked = region.getByRole('button', { name: 'It worked' }).first();
      await expect(worked).toBeEnabled();
      await worked.press('Enter');
    } else if ((await region.getByLabel('System on it').count()) > 0) {
      // Another system than the run's is asked about once, and nothing has moved on.
      seen.wrong = true;
      await name(page, 'Tessaly 5');
      await expect(region.getByLabel('Why it goes on without')).toBeVisible();
      await expect(heading(page)).toHaveText(text);
      await name(page, 'Tessaly 6, release 2');
    } else if ((await region.getByRole('button', { name: 'Give the code' }).count()) > 0) {
      seen.proved = true;
      await press(page, 'Give the code');
      const code = await region.getByLabel('Code of this step').innerText();
      await bring(page, known);
      await expect(region.getByRole('status')).toContainText('does not carry this code');
      await expect(region.getByRole('button', { name: 'Done' })).toBeDisabled();
      await bring(page, probeBundle(code));
      await expect(region.getByRole('status')).toContainText('A new bundle with this code is in.');
      await press(page, 'Done');
    } else {
      await press(page, main);
    }
    await expect(heading(page)).not.toHaveText(text);
  }
  expect(seen).toEqual({
    tried: true,
    typed: false,
    waited: true,
    danger: true,
    held: true,
    proved: true,
    wrong: true,
  });
  await expect(page.getByRole('list', { name: 'Acceptance list' }).getByRole('listitem')).toHaveCount(6);
  // Nobody noted whether this desktop has sound: it was looked for, and nothing more is said of it.
  const byHand = page.getByRole('list', { name: 'Seen by hand' });
  await expect(byHand).toContainText('Devices that nobody had listed were looked for');
  await expect(byHand).not.toContainText('Sound comes out');
  await leader(page, 'h');
  await expect(page.getByRole('heading', { name: 'It may leave with Tessaly 6, release 2.' })).toBeVisible();

  // What the route said stands here as it was said, and on the owner's sheet in words that are nobody's trade.
  const leaves = page.getByRole('region', { name: 'Hand-over' });
  await expect(leaves).toContainText('Stick 2, red');
  for (const text of toKnow) await expect(leaves).toContainText(text);
  await tabTo(page, 'a[href="/api/machines/MR-0404/handover?lang=en"]');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(
    'Your computer runs Tessaly 6, release 2.',
  );
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByText('Nothing is left open.')).toBeVisible();
  const sheet = page.locator('body');
  for (const text of [
    'Its memory is small',
    'Its drive is of the slower kind',
    'it asks for a passphrase at every start',
    'they may stop one day',
  ])
    await expect(sheet).toContainText(text);
  for (const text of toKnow.filter((t) => t.startsWith('Runs, but')))
    await expect(sheet).not.toContainText(text);
  expect(await seriousFaults(page)).toEqual([]);
});

/** The machine's aim was another system by the best route; since the run began every page says what is being installed. */
async function runOwnsAim(page: Page) {
  const run = page.url();
  for (const view of ['facts', 'routes', 'prepare']) {
    await page.goto(run.replace(/run.*$/, view));
    await expect(page.getByText('Being installed:')).toContainText('Tessaly 6, release 2');
  }
  await page.goto('/fleet');
  await expect(
    page.getByRole('button', { name: /^MR-0404, Tessaly 6, release 2: .*, being installed$/ }),
  ).toBeVisible();
  await page.goto('/find?q=MR-0404');
  await expect(page.getByRole('link', { name: /MR-0404/ })).toContainText('Tessaly 6, release 2');
  await page.goto(run);
  await expect(heading(page)).toBeVisible();
}

test('a second screen sees each step without being asked, and a step that both take is taken once', async ({
  browser,
}) => {
  const [one, other] = await Promise.all([browser.newPage(), browser.newPage()]);
  await Promise.all([one.goto('/machines/MR-0422/run'), other.goto('/machines/MR-0422/run')]);
  await expect(heading(one)).toContainText('Hold right Ctrl');
  await expect(heading(other)).toContainText('Hold right Ctrl');
  await other.waitForLoadState('load');

  // Nothing was made for this step: it goes on for a reason that stays in the record.
  const worked = one.getByRole('button', { name: 'It worked' }).first();
  await expect(worked).toBeDisabled();
  await one.getByLabel('Why it goes on without').fill('written with the workshop’s old tool');
  await worked.click();
  await expect(heading(other)).not.toContainText('Hold right Ctrl');

  // Both say that it stopped, at the same moment: one is taken, the other is told.
  for (const page of [one, other]) {
    await page.getByRole('button', { name: 'It stopped' }).click();
    await page.getByLabel('What is on the screen?').fill('a black screen');
  }
  // The button of the slower one may be gone before its click: it is held beforehand, and clicked there or not.
  const stops = await Promise.all(
    [one, other].map((page) => page.getByRole('button', { name: 'Stop here' }).elementHandle()),
  );
  await Promise.all(stops.map((stop) => stop?.evaluate((button) => (button as HTMLButtonElement).click())));
  await expect(heading(one)).toContainText('Stopped');
  await expect(heading(other)).toContainText('Stopped');
  const machines = (await (await one.request.get('/api/machines')).json()) as {
    tag: string;
    run: { id: string } | null;
  }[];
  const id = machines.find((m) => m.tag === 'MR-0422')?.run?.id;
  const run = (await (await one.request.get(`/api/runs/${id}`)).json()) as {
    events: { kind: string }[];
    chain: string;
  };
  expect(run.events.filter((e) => e.kind === 'stopped')).toHaveLength(1);
  expect(run.chain).toBe('whole');

  // A way out of the run, with nothing left open; another may begin then.
  await one.getByRole('button', { name: 'give this run up' }).click();
  const way = one.getByRole('form', { name: 'Give the run up' });
  await way.getByLabel('Why it is given up').fill('its graphics are dead');
  await way.getByLabel(/^no: it is marked so/).check();
  // It opened nothing on this machine, so nothing is asked to be closed.
  await expect(way.getByLabel(/^Closed again:/)).toHaveCount(0);
  await way.getByRole('button', { name: 'Give the run up' }).click();
  await expect(one.getByText('No run has begun.')).toBeVisible();
  await expect(other.getByText('No run has begun.')).toBeVisible();
  await Promise.all([one.close(), other.close()]);
});

test('the lamp goes off and stays off, and the overlay tells the keys', async ({ page }) => {
  await page.goto('/');
  await leader(page, 'l');
  await expect(page.locator('html')).toHaveAttribute('data-lamp', 'off');
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-lamp', 'off');
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await page.keyboard.press('.');
  await expect(page.getByRole('dialog')).toContainText('Take a machine in');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toBeHidden();
});
