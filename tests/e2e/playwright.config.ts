import { defineConfig } from '@playwright/test';

// Debian's Chromium, no sandbox inside a container, and nothing that looks for a network.
const args = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

const every = process.env['FRESHBOOT_EVERY_START'] !== undefined;

export default defineConfig({
  testDir: '.',
  testMatch: '*.e2e.ts',
  // Whole installations and the like are walked before a change lands, and by whoever sets FRESHBOOT_EVERY_START.
  ...(every ? {} : { grepInvert: /@long/ }),
  // Each worker has an application of its own with data of its own, and waits for it most of the time.
  workers: process.env['CI'] ? 1 : 2,
  // A busy machine is slow, not wrong: these only end what hangs. No test says a time of its own.
  timeout: 600_000,
  expect: { timeout: 120_000 },
  // A second try is for finding out why, with a trace of it: what needed one is named at the end, and is mended first.
  retries: 1,
  reporter: [['list']],
  forbidOnly: true,
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium', args },
    actionTimeout: 120_000,
    screenshot: 'only-on-failure',
    // A trace takes as long again as the test: only a second try has one.
    trace: 'on-first-retry',
  },
});
