import { type Page, test } from './app.ts';
import { join } from 'node:path';
import { home } from './server.ts';

const picture = async (page: Page, name: string) => {
  await page.waitForLoadState('networkidle');
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
  ['release', '/machines/MR-0412/facts?rung=release'],
  ['key', '/key'],
  ['images', '/shelf/images'],
  ['media', '/shelf/media?medium=2'],
  ['routes', '/machines/MR-0417/routes'],
  ['routes-beside', '/machines/MR-0404/routes?panel=beside&aim=tessaly-6-r2'],
  ['fleet', '/fleet?cell=MR-0417/tessaly-6-r2'],
  ['run-step', '/machines/MR-0422/run'],
  ['run-wait', '/machines/MR-0409/run'],
  ['handover', '/api/machines/MR-0406/handover'],
] as const)
  test(name, async ({ page }) => {
    // One of them with the lamp off: the sheet in a dark workshop.
    if (name === 'run-wait') await page.addInitScript(() => localStorage.setItem('fresh-boot-lamp', 'off'));
    await page.goto(path);
    await picture(page, name);
  });

test('recipe', async ({ page }) => {
  await page.goto('/images/1');
  await page.getByRole('button', { name: 'Lift the gates of Tessaly 6, release 1' }).click();
  await page.getByLabel('Lines of setup/gates.conf').waitFor();
  await picture(page, 'recipe');
});

// The image held against the machine with what a start showed, then the twin's own screen.
test('prepare and twin', async ({ page }) => {
  test.setTimeout(120_000);
  await page.goto('/machines/MR-0409/prepare?aim=tessaly-6-r1');
  await page.getByRole('button', { name: 'Start the twin' }).click();
  await page.locator('[data-verdict]').waitFor({ timeout: 90_000 });
  await page.evaluate(() => window.scrollTo(0, 0));
  await picture(page, 'prepare');
  await page.getByAltText(/^Screen of the twin/).scrollIntoViewIfNeeded();
  await picture(page, 'twin');
});

test('catalogue', async ({ page }) => {
  await page.goto('/catalogue/systems/wickerwork-26');
  await page.locator('[data-at="/supportEnds"]').fill('2028-04-30');
  await page.getByLabel('Why it changes').fill('Their new life-cycle page');
  await page.getByText('Effect on the fleet').waitFor();
  await picture(page, 'catalogue');
});

test('intake-questions', async ({ page }) => {
  await page.goto('/intake');
  await page.getByLabel('Asset tag').fill('MR-0433');
  await page.setInputFiles('input[type=file]', demoSources());
  await page.getByRole('button', { name: 'Take in' }).click();
  await page.getByRole('status').waitFor();
  await picture(page, 'intake-questions');
});

/** Single sources of a made-up machine, as the probe writes them. */
const demoSources = () => [
  {
    name: 'lscpu.json',
    mimeType: 'application/json',
    buffer: Buffer.from(
      JSON.stringify({
        lscpu: [
          { field: 'Architecture:', data: 'x86_64' },
          { field: 'CPU(s):', data: '4' },
          { field: 'Model name:', data: 'Corvane C7-310' },
          { field: 'Core(s) per socket:', data: '4' },
          { field: 'Socket(s):', data: '1' },
          {
            field: 'Flags:',
            data: 'lm cmov cx8 fpu fxsr mmx syscall sse sse2 cx16 lahf_lm popcnt pni sse4_1 sse4_2 ssse3 avx avx2 bmi1 bmi2 f16c fma abm movbe',
          },
        ],
      }),
    ),
  },
  { name: 'meminfo.txt', mimeType: 'text/plain', buffer: Buffer.from('MemTotal:        7987000 kB\n') },
  { name: 'efi.txt', mimeType: 'text/plain', buffer: Buffer.from('folder yes\nword 64\n') },
  {
    name: 'dmi.txt',
    mimeType: 'text/plain',
    buffer: Buffer.from(
      'sys_vendor=Brackwater\nproduct_name=Stile 15\nproduct_serial=BW-15C7-40022\nboard_name=ST15-7\n',
    ),
  },
];
