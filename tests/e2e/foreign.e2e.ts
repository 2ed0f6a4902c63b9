import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { expect, seriousFaults, startTwin, test } from './app.ts';
import { home } from './server.ts';

// What its installer says when it is past language and keyboard, and looks for a network that the twin does not have.
const past = 'Detecting network hardware';

test('an installer that nobody here made: an image of its kernel and archive, its own answers as a recipe, as far as it gets', { tag: '@long' }, async ({
  page,
}) => {
  test.skip(!process.env.FRESHBOOT_EVERY_START, 'two starts of a minute each: with FRESHBOOT_EVERY_START=1');
  test.setTimeout(1_500_000);
  const folder = execFileSync('sh', [join(home, 'scripts/foreign-installer.sh')], {
    encoding: 'utf8',
  }).trim();

  // The shop enters the system, with what its installer says where it gets on and where it does not.
  const like = (await (await page.request.get('/api/catalogue/systems/wickerwork-26')).json()) as {
    entry: Record<string, unknown>;
  };
  const entered = await page.request.put('/api/catalogue/systems/netboot-12', {
    data: {
      version: 0,
      by: 'Pim',
      reason: 'tried here',
      entry: {
        ...like.entry,
        id: 'netboot-12',
        name: 'Netboot',
        release: '12',
        // Longer than any other here, or the way to it would be one that another beats.
        supportEnds: '2033-06-30',
        installer: { letsIn: past, refuses: 'Kernel panic' },
      },
    },
  });
  expect(entered.ok()).toBe(true);

  await page.goto('/shelf/images');
  await page.getByText('Make one of a kernel and an archive').click();
  const form = page.getByRole('form', { name: 'Make an image' });
  expect(await seriousFaults(page)).toEqual([]);
  await form.getByLabel('Name of the image').fill('netboot-12.iso');
  await form.getByLabel('What the kernel is told').fill('console=ttyS0,115200n8 DEBIAN_FRONTEND=text');
  await form.getByLabel('It installs').selectOption('netboot-12');
  await form.getByLabel('Its build').fill('12');
  // Archive and kernel taken for one another: it says what is wrong, and makes nothing.
  await form.getByLabel('Kernel (bzImage)').setInputFiles(join(folder, 'archive'));
  await form.getByLabel('Archive that it unpacks').setInputFiles(join(folder, 'kernel'));
  await form.getByRole('button', { name: 'Make it' }).click();
  await expect(form.getByRole('alert')).toContainText('It is no kernel');
  await form.getByLabel('Kernel (bzImage)').setInputFiles(join(folder, 'kernel'));
  await form.getByLabel('Archive that it unpacks').setInputFiles(join(folder, 'archive'));
  await form.getByRole('button', { name: 'Make it' }).click();
  await expect(form.getByRole('status')).toHaveText('netboot-12.iso is on the shelf.');
  const row = page.getByRole('row', { name: /^netboot-12\.iso/ });
  await expect(row.getByRole('cell').filter({ hasText: 'yes' })).toHaveCount(5);

  // Its answers, in its own format, are a recipe.
  const written = await page.request.put('/api/recipes/netboot-12-answers', {
    data: {
      version: 0,
      by: 'Pim',
      text: JSON.stringify({
        id: 'netboot-12-answers',
        name: 'Answer language and keyboard',
        about: 'What the installer asks first is answered from a file of its own format.',
        acts: 'image',
        for: {
          system: 'netboot-12',
          builds: ['12'],
          files: [{ path: 'boot/grub/start.cfg', contains: 'setup/answers.cpio' }],
        },
        lifts: [],
        costs: ['Whoever reads the medium reads the answers.'],
        operations: [
          {
            op: 'addArchive',
            path: 'setup/answers.cpio',
            name: 'preseed.cfg',
            text: 'd-i debian-installer/locale string en_GB.UTF-8\nd-i keyboard-configuration/xkb-keymap select gb\n',
          },
        ],
      }),
    },
  });
  expect(written.ok()).toBe(true);
  await row.getByRole('link', { name: 'netboot-12.iso' }).click();
  await page.getByRole('button', { name: 'Answer language and keyboard' }).click();
  await page.getByRole('button', { name: 'Make the patched image' }).click();
  await page.getByRole('link', { name: 'Look at the patched image' }).click();
  await expect(page.getByRole('region', { name: 'Manifest' })).toContainText('setup/answers.cpio');

  // In the twin of a machine that it is to go onto, by both kinds of firmware: past what was answered, up to the network.
  await page.goto('/machines/MR-0404/prepare?aim=netboot-12');
  await expect(page.getByText('For the route: Netboot 12')).toBeVisible();
  await page
    .getByRole('combobox', { name: 'Installer image' })
    .selectOption({ label: 'netboot-12-answers.iso' });
  for (const [as, by] of [
    ['disc', 'bios'],
    ['stick', 'uefi64'],
  ] as const) {
    await page.getByRole('combobox', { name: 'As', exact: true }).selectOption(as);
    await page.getByRole('combobox', { name: 'By', exact: true }).selectOption(by);
    await page.getByRole('combobox', { name: 'For at most' }).selectOption('10 min');
    await startTwin(page, 610_000);
    await expect(page.locator('[data-verdict]'), `${as} by ${by}`).toHaveText('accepted');
    await expect(page.getByLabel('What it sent down the serial line')).toContainText(
      'With the answers of setup/answers.cpio',
    );
  }
});
