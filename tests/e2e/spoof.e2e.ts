import { expect, seriousFaults, startTwin, test } from './app.ts';
import { endWait, press, scan, tabTo } from './keyboard.ts';
import { answerQuestions, bring, bundleOf, heading, name, wholeWay, write } from './walk.ts';

test('a model-locked system refuses a machine, accepts it with an identity and a kit, and runs on it', { tag: '@long' }, async ({
  page,
}) => {
  const tag = 'MR-0408';
  await page.request.put(`/api/machines/${tag}/aim`, {
    data: { system: 'canzona-6', by: 'Pim', why: 'asked for by the order' },
  });

  // As what it is it is refused.
  await page.goto(`/machines/${tag}/prepare?aim=canzona-6`);
  await startTwin(page);
  await expect(page.locator('[data-verdict=refused]').first()).toBeVisible();
  await expect(page.getByText('(Sonata SO-05C) is not on the list').first()).toBeVisible();
  await expect(page.locator('li[data-item=identity]')).toContainText('lets no Sonata SO-05C in');

  // The nearest donor, with what a far one breaks; the choice is made by keyboard.
  await page.locator('li[data-item=identity]').getByRole('link', { name: 'Give it an identity' }).click();
  await expect(page.getByRole('heading', { name: /^Sonata SO-07A: \d+ of 100\.$/ })).toBeVisible();
  await expect(page.getByText('no acceleration without its own patches').first()).toBeVisible();
  await expect(page.getByText('For the owner’s own machine only.')).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByRole('radio', { name: /^maker, model and the name of the board/i }).focus();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('radio', { name: /^model, board, serial number and id/i })).toBeChecked();
  await page.getByRole('button', { name: /^Give it this identity/ }).press('Enter');
  const given = page.getByRole('article', { name: /^Identity \d+$/ });
  await expect(given).toContainText('Sonata SO-07A, serial S7');
  await given.getByText(/fields of its table differ/).click();
  await expect(given.getByRole('row', { name: /Serial number of the casing/ })).toBeVisible();
  const number = ((await given.getAttribute('aria-label')) ?? '').replace(/\D/g, '');
  const givenText = await given.innerText();

  // What the steps depend on is answered before anything is made.
  await page.goto(`/machines/${tag}/routes?aim=canzona-6`);
  await page.locator('button[data-route=spoof]').first().press('Enter');
  await answerQuestions(page);

  // The kit that carries it.
  await page.goto(`/machines/${tag}/kit?aim=canzona-6`);
  await expect(page.getByRole('heading', { name: '4 components, in this order.' })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Components' })).toContainText('Underlay base shim needs it.');
  await page.getByRole('button', { name: 'Build the kit' }).press('Enter');
  const kit = page.getByRole('article', { name: /^Kit \d+$/ });
  await expect(kit).toContainText('The check finds nothing.');
  expect(await seriousFaults(page)).toEqual([]);
  await kit.getByRole('button', { name: 'Start it in the twin' }).press('Enter');
  await expect(kit.getByRole('status')).toContainText('It starts: every file of its list was found');

  await kit.getByRole('button', { name: 'Put the kit on it' }).press('Enter');
  await expect(kit.locator('[data-job=done]').filter({ hasText: 'read again and equal' })).toBeVisible();

  // With the identity it is accepted, and that start is evidence for this identity.
  await page.goto(`/machines/${tag}/prepare?aim=canzona-6`);
  await expect(page.locator('li[data-item=kit]')).toContainText('with the installer on');
  await page.getByLabel('It says it is').selectOption(number);
  await startTwin(page);
  await expect(page.locator('[data-verdict=letIn]').first()).toBeVisible();

  // The whole way under that identity: installed, started from its drive, read by the probe.
  await page.goto(`/machines/${tag}/rehearse?aim=canzona-6`);
  await wholeWay(page);
  await page.goto(`/machines/${tag}/prepare?aim=canzona-6`);

  // Its stick, and the sheet step by step: kit, restarts with the stick in, patches, loader onto the drive.
  await write(page, 'Stick 1, blue');
  await page.goto(`/machines/${tag}/routes?aim=canzona-6`);
  await page.locator('button[data-route=spoof]').first().press('Enter');
  await press(page, 'Begin the run');
  await expect(page).toHaveURL(new RegExp(`${tag}/run`));
  const region = page.getByRole('region', { name: 'Run' });
  const serial = /serial (S7\w+)/.exec(givenText)?.[1] ?? '';
  const read: string[] = [];
  for (let step = 0; step < 150; step++) {
    const text = await heading(page).innerText();
    if (text === 'Every step is done.') break;
    read.push(text);
    const main = await region
      .getByRole('button', { name: /^(Done|As it should be|Do it|It has begun|It worked)$/ })
      .first()
      .innerText();
    if (main === 'Do it') {
      await tabTo(page, 'input[data-scan=field]');
      await scan(page, tag);
    } else if (main === 'It has begun') {
      await press(page, 'It has begun');
      await endWait(page);
    } else if (main === 'It worked') {
      const worked = region.getByRole('button', { name: 'It worked' }).first();
      await expect(worked).toBeEnabled();
      await worked.press('Enter');
    } else if ((await region.getByLabel('System on it').count()) > 0) {
      await name(page, 'Canzona 6');
    } else if ((await region.getByRole('button', { name: 'Give the code' }).count()) > 0) {
      await press(page, 'Give the code');
      const code = await region.getByLabel('Code of this step').innerText();
      // The machine says what it took; by the serial number of its board it is still this one.
      await bring(
        page,
        bundleOf(
          `sys_vendor=Ottavine\nproduct_name=Sonata SO-07A\nproduct_serial=${serial}\nboard_name=OT-SONATA-7\nboard_serial=BS5C8K20P\n`,
          code,
          8_053_000,
        ),
      );
      await expect(region.getByRole('status')).toContainText('A new bundle with this code is in.');
      await press(page, 'Done');
    } else await press(page, main);
    await expect(heading(page)).not.toHaveText(text);
  }
  const told = read.join('\n');
  expect(told).toContain(`The kit of ${tag} was written with the installer`);
  expect(told).toContain('Run the second part of the changes');
  expect(told).toContain('has to see the old model');
  expect(told).toContain('Copy the loader from Stick 1, blue');
  await expect(page.getByRole('list', { name: 'Acceptance list' })).toContainText('the same serial numbers');
  await page.goto(`/machines/${tag}/handover`);
  await expect(page.getByRole('heading', { name: 'It may leave with Canzona 6.' })).toBeVisible();
  // Both names stay on record.
  await page.goto(`/machines/${tag}/facts`);
  await expect(page.getByText('Ottavine Sonata SO-05C').first()).toBeVisible();
  const facts = (await (await page.request.get(`/api/machines/${tag}`)).json()) as {
    facts: { key: string; value: unknown }[];
  };
  const value = (key: string) => facts.facts.find((f) => f.key === key)?.value;
  expect([value('identity.model'), value('identity.taken'), value('identity.takenSerial')]).toEqual([
    'Sonata SO-05C',
    'Sonata SO-07A',
    serial,
  ]);
});

test('one that is too old is a wall with its reason', async ({ page }) => {
  await page.goto('/machines/MR-0410/kit?aim=canzona-6');
  await expect(page.getByRole('heading', { name: 'No kit.' })).toBeVisible();
  await expect(page.getByText('Its graphics are of class 0')).toBeVisible();
  await page.goto('/machines/MR-0410/identity?aim=wickerwork-26');
  await expect(page.getByRole('heading', { name: 'No model to pass for.' })).toBeVisible();
});

test('a kit from elsewhere is checked, mended with a click and edited', async ({ page }) => {
  const built = (await (
    await page.request.post('/api/machines/MR-0418/kit', { data: { system: 'canzona-6', by: 'Pim' } })
  ).json()) as { id: number; config: string };
  // As somebody would hand it on: with an older graphics shim, and without what the firmware needs.
  const bent = (await (
    await page.request.put(`/api/kits/${built.id}/config`, {
      data: {
        text: built.config.replace('1.6.7', '1.6.2').replace('<key>keepMap</key>', '<key>other</key>'),
        by: 'Pim',
      },
    })
  ).json()) as { id: number };

  await page.goto(`/shelf/kits?kit=${bent.id}`);
  await expect(page.getByRole('heading', { name: '2 faults.' })).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Take version 1.6.7' }).press('Enter');
  await expect(page.getByRole('heading', { name: 'One fault.' })).toBeVisible();
  await page.getByRole('button', { name: 'Set it' }).press('Enter');
  await expect(page.getByRole('heading', { name: 'The check finds nothing.' })).toBeVisible();
  const config = page.getByLabel('kit/config.plist');
  await config.fill((await config.inputValue()).replace('2612', '2100'));
  await page.getByRole('button', { name: 'Keep it as a new kit' }).press('Enter');
  await expect(page.getByText('fits builds from 2200, and the kit is for 2100')).toBeVisible();
  await page.getByLabel('Bring a kit as a ZIP').setInputFiles({
    name: 'none.zip',
    mimeType: 'application/zip',
    buffer: Buffer.from('no archive'),
  });
  await expect(page.getByRole('alert')).toContainText('It is no ZIP archive');
});

test('a small board says what feeds it, and its settings are checked while they are written', async ({
  page,
}) => {
  await page.goto('/machines/MR-0419/board');
  await expect(page.getByRole('heading', { name: '3 A at 5 V.' })).toBeVisible();
  await expect(page.getByText('Capped at 6 GiB from the factory.')).toBeVisible();
  expect(await seriousFaults(page)).toEqual([]);
  await page.getByLabel(/^Value/).fill('2150');
  await page.getByLabel(/^Value/).press('Enter');
  const lines = page.getByRole('list', { name: 'What to know of its lines' });
  await expect(lines).toContainText('it gets hot');
  await expect(lines).toContainText('5000 mA');
  const text = page.getByLabel('config.txt on its first partition');
  await text.fill(`${await text.inputValue()}\n[other-board]\ncpu.clock=900\n[all]\ncpu.clock=9000\n`);
  await expect(lines).toContainText('under [other-board], which is not for this board');
  await expect(lines).toContainText('out of range: 600 to 2400 MHz');
  await expect(page.getByRole('button', { name: 'Keep these settings' })).toBeDisabled();
  await text.fill((await text.inputValue()).replace('9000', '2000'));
  await expect(page.getByRole('row', { name: /cpu\.clock 2000/ })).toBeVisible();
  await page.getByRole('button', { name: 'Keep these settings' }).press('Enter');
  await expect(page.getByText('Written for this machine.')).toBeVisible();
});
