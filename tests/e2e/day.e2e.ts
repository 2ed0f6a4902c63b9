import { expect, seriousFaults, test } from './app.ts';
import { leader, press, scan, tabTo } from './keyboard.ts';
import { bundleOf } from './machine.ts';

test('the probe of another machine is refused with what differs, and one of this machine is taken back', async ({
  page,
}) => {
  await page.goto('/intake');
  const file = page.getByLabel(/Drop the probe/);
  const tag = page.getByLabel('Asset tag, typed or scanned');
  await tag.fill('MR-0991');
  await file.setInputFiles({
    name: 'a.tar.gz',
    mimeType: 'application/gzip',
    buffer: bundleOf('BW-13-7001'),
  });
  await page.getByRole('button', { name: 'Take in', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'MR-0991' })).toBeVisible();

  // The same tag once more, with the probe of another machine: first it is asked whether it is a further probe.
  await page.getByRole('button', { name: 'Next machine' }).click();
  await tag.fill('mr-0991');
  await file.setInputFiles({
    name: 'b.tar.gz',
    mimeType: 'application/gzip',
    buffer: bundleOf('BW-13-7002'),
  });
  await page.getByRole('button', { name: 'Take in', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('MR-0991 is here already');
  await page.getByRole('button', { name: 'Add this probe to it' }).click();
  await expect(page.getByRole('alert')).toContainText('BW-13-7002, and it was BW-13-7001');
  expect(await seriousFaults(page)).toEqual([]);

  await file.setInputFiles({
    name: 'c.tar.gz',
    mimeType: 'application/gzip',
    buffer: bundleOf('BW-13-7001', 8_000_000),
  });
  await page.getByRole('button', { name: 'Take in', exact: true }).click();
  await page.getByRole('button', { name: 'Add this probe to it' }).click();
  // Only when it is taken: whoever leaves the page before takes the upload along.
  await expect(page.getByRole('heading', { name: 'MR-0991' })).toBeVisible();
  await page.goto('/machines/MR-0991/facts');
  await page.getByText(/^Probes taken in: 2/).click();
  await page.getByRole('button', { name: 'Take it back' }).first().click();
  await expect(page.getByText(/^taken back by/)).toBeVisible();
});

test('an order is filled by scanner and from the shelf, and says how far it is', async ({ page }) => {
  await page.goto('/orders');
  const machines = page.getByRole('region', { name: 'Machines of Seed Library' });
  await expect(machines.getByRole('listitem').first()).toBeVisible();
  const standing = page.getByRole('button', { name: /^Seed Library/ });
  await expect(standing).toContainText(/\d+ missing/);
  // Other tests of this worker may have set machines aside before.
  const missing = Number(/(\d+) missing/.exec(await standing.innerText())?.[1]);
  const short = (n: number) => (n === 0 ? /set aside(?!.*missing)/ : `${n} missing`);
  const best = machines.getByRole('button', { name: /^Set MR-.* aside for Seed Library$/ }).first();
  const tag = /MR-\d+/.exec((await best.getAttribute('aria-label')) ?? '')?.[0] ?? '';
  await tabTo(page, 'input[data-scan=field]');
  await scan(page, tag);
  await expect(machines.getByRole('button', { name: `Take ${tag} out of Seed Library` })).toBeVisible();
  await expect(standing).toContainText(short(missing - 1));
  await machines.getByRole('button', { name: `Take ${tag} out of Seed Library` }).click();
  await expect(standing).toContainText(short(missing));

  // The same from the machine's own plate, by keyboard.
  await page.goto(`/machines/${tag}/facts`);
  await page.getByRole('button', { name: /nobody’s yet/ }).focus();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('option', { name: /Seed Library/ })).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: /Seed Library/ })).toBeVisible();
});

test('bays change places, an aim is chosen with its reason, and a wrong answer is taken back', async ({
  page,
}) => {
  await page.goto('/machines/MR-0417/facts');
  await page.getByRole('button', { name: /Bay 3/ }).click();
  await page.getByRole('option', { name: /Bay 2.*MR-0423/ }).click();
  await expect(page.getByRole('button', { name: /Bay 2/ })).toBeVisible();
  await page.goto('/machines/MR-0423/facts');
  await expect(page.getByRole('button', { name: /Bay 3/ })).toBeVisible();

  await page.goto('/machines/MR-0424/systems?aim=driftway');
  await expect(page.getByText('Looking at')).toBeVisible();
  await page.getByRole('button', { name: 'Set as aim' }).click();
  await page.getByLabel(/^Why Driftway/).fill('the school uses it');
  await page.getByRole('button', { name: 'Make it the aim' }).click();
  await expect(page.getByText(', chosen')).toBeVisible();
  await page.goto('/');
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();

  await page.goto('/machines/MR-0415/facts?rung=release');
  await page.getByRole('button', { name: 'Leave given' }).click();
  await expect(page.getByText('Said last:')).toContainText('leave given');
  await page.getByRole('button', { name: 'Not so, take it back' }).click();
  await expect(page.getByRole('button', { name: 'Leave given' })).toBeVisible();
});

test('a finished machine leaves, and is nowhere in the way any more', { tag: '@long' }, async ({ page }) => {
  await page.goto('/machines/MR-0406/handover');
  await press(page, 'It has left');
  await expect(page.getByRole('status')).toHaveText('It has left the shop.');
  await leader(page, 'b');
  await expect(page.getByRole('heading', { name: /^Door/ })).toHaveText('Door · 0 done');
  await page.goto('/find?q=left');
  await expect(page.getByRole('link', { name: /MR-0406/ })).toBeVisible();

  // It is looked after: what falls due of it, and whom a change of the catalogue touches, with a letter.
  await page.goto('/');
  await leader(page, '8');
  await expect(page.getByRole('link', { name: 'Wickerwork 26 on MR-0406 ends' })).toBeVisible();
  expect(await (await page.request.get('/api/calendar.ics')).text()).toContain(
    'UID:MR-0406-support-wickerwork-26',
  );
  await page.goto('/catalogue/systems/wickerwork-26');
  const json = page.getByLabel('The same as JSON');
  await json.fill((await json.inputValue()).replace('"2031-04-30"', '"2027-01-31"'));
  const touched = page.getByRole('region', { name: 'Machines that have left' });
  await expect(touched).toContainText('updates end on 31 Jan 2027');
  await touched.getByText('Letter to its owner').first().click();
  await expect(touched).toContainText('To the owner of Brackwater Stile 15');

  await page.goto('/machines/MR-0406/handover');
  const record = page.waitForEvent('download');
  await page.getByRole('link', { name: 'The whole record, as ZIP' }).click();
  expect((await record).suggestedFilename()).toBe('MR-0406.zip');

  // It comes back: what it left with stands first, and nobody goes by the leave that was given before.
  await page.goto('/machines/MR-0406/facts');
  const away = page.getByRole('region', { name: 'It was away' });
  await expect(away).toContainText('Wickerwork 26');
  await press(page, 'It came back');
  await expect(away.getByRole('heading', { level: 2 })).toHaveText('It is back, the same day.');
  await expect(away).toContainText('The owner\'s data');
  expect(await seriousFaults(page)).toEqual([]);
  await away.getByRole('link', { name: 'It leaves again as it is' }).press('Enter');
  await expect(page.getByRole('button', { name: 'It has left' })).toBeVisible();
});

test('a back-up is made while everything goes on, checked, laid ready, and laid away again', { tag: '@long' }, async ({
  page,
}) => {
  await page.goto('/');
  await leader(page, '9');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Nothing is backed up yet.');
  await press(page, 'Back up now');
  const list = page.getByRole('list', { name: 'Back-ups' });
  await expect(list.getByRole('listitem')).toHaveCount(1);
  // Other tests of this worker may have taken machines in before.
  const { length } = (await (await page.request.get('/api/machines')).json()) as unknown[];
  await expect(list).toContainText(`${length} machines, `);
  await press(page, 'Give it back');
  await press(page, 'Check it, and take it at the next start');
  await expect(page.getByRole('status').first()).toContainText('At the next start of the application');
  expect(await seriousFaults(page)).toEqual([]);
  await press(page, 'No, the present data stay');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Backed up');
});
