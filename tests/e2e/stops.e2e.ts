import { expect, seriousFaults, test } from './app.ts';
import { endWait, press, scan, tabTo } from './keyboard.ts';
import { bring, bundleOf, heading, name } from './walk.ts';

const tag = 'MR-0417';

test('a clean installation has at most thirty stops, each gone through by keyboard alone', async ({ page }) => {
  const routes = (await (await page.request.get(`/api/machines/${tag}/routes`)).json()) as {
    id: string;
    system: string | null;
    school: string;
  }[];
  const routeId = routes.find((r) => r.system === 'wickerwork-26' && r.school === 'comply')?.id;
  const begun = await page.request.post(`/api/machines/${tag}/runs`, {
    data: { routeId, by: 'Odalys Brandt' },
  });
  expect(begun.status()).toBe(201);
  const run = (await begun.json()) as { stops: { steps: string[] }[]; steps: { on: unknown }[] };
  const lines = run.stops.reduce((sum, stop) => sum + stop.steps.length, 0);
  expect(run.stops.length).toBeLessThanOrEqual(30);
  expect(lines, 'every line of the main way is in a stop').toBe(run.steps.filter((s) => s.on === null).length);

  await page.goto(`/machines/${tag}/run`);
  const region = page.getByRole('region', { name: 'Run', exact: true });
  const seen = { list: false, ticked: 0, pressed: 0 };
  const began = Date.now();
  for (let line = 0; line < 150; line++) {
    const text = await heading(page).innerText();
    if (text === 'Every step is done.') break;
    const main = await region
      .getByRole('button', { name: /^(Done|As it should be|Do it|It has begun|It worked|Give the code)$/ })
      .first()
      .innerText();
    if ((await region.getByRole('list', { name: 'Also in this stop' }).count()) > 0) {
      if (!seen.list) expect(await seriousFaults(page)).toEqual([]);
      seen.list = true;
    }
    const why = region.getByLabel('Why it goes on without');
    if ((await region.getByText(/^Enter:/).count()) > 0) {
      seen.ticked++;
      // A hand comes after the heading has the focus: before, the key would go to the line that is over.
      await expect(heading(page)).toBeFocused();
      await page.waitForTimeout(150);
      await page.keyboard.press('Enter');
    } else {
      seen.pressed++;
      if ((await why.count()) > 0) {
        await tabTo(page, 'input[aria-label="Why it goes on without"]');
        await page.keyboard.type('a trial of the sheet');
      }
      if (main === 'Do it') {
        await tabTo(page, 'input[data-scan=field]');
        await scan(page, tag);
      } else if (main === 'It has begun') {
        await press(page, main);
        await endWait(page);
      } else if (main === 'It worked') {
        await region.getByRole('button', { name: 'It worked' }).first().press('Enter');
      } else if ((await region.getByLabel('System on it').count()) > 0) {
        await name(page, 'Wickerwork 26');
      } else if (main === 'Give the code') {
        await press(page, main);
        const code = await region.getByLabel('Code of this step').innerText();
        await bring(
          page,
          bundleOf(
            'sys_vendor=Brackwater\nproduct_name=Stile 14\nproduct_serial=BW-14C8-20931\nboard_name=ST14\n',
            code,
            3_987_000,
          ),
        );
        await expect(region.getByRole('status')).toContainText('A new bundle with this code is in.');
        await press(page, 'Done');
      } else await press(page, main);
    }
    await expect(heading(page)).not.toHaveText(text);
  }
  await expect(heading(page)).toHaveText('Every step is done.');
  expect(seen.list).toBe(true);
  expect(seen.ticked, 'most lines are one key').toBeGreaterThan(lines / 2);
  // What it took is told, and holds nothing up: another machine has another pace.
  const seconds = (Date.now() - began) / 1000;
  test.info().annotations.push({
    type: 'pace',
    description: `${String(run.stops.length)} stops, ${String(lines)} lines, ${seconds.toFixed(0)} s: ${(seconds / run.stops.length).toFixed(1)} s a stop`,
  });
  console.log(test.info().annotations.at(-1)?.description);
});
