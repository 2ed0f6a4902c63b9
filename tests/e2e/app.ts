import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Page, test as base } from '@playwright/test';
import { freePort, startServer } from './server.ts';

export { expect, type Page } from '@playwright/test';

/** The application of a worker: begun anew, with fresh demo data, for each file of tests. */
class Host {
  private file = '';
  private address = '';
  private end: () => Promise<void> = () => Promise.resolve();
  private readonly freeze: boolean;
  private readonly hurry: number;

  constructor(freeze: boolean, hurry: number) {
    this.freeze = freeze;
    this.hurry = hurry;
  }

  async of(file: string): Promise<string> {
    if (file !== this.file) {
      await this.stop();
      const port = await freePort();
      this.end = await startServer(port, this.freeze, this.hurry);
      this.address = `http://localhost:${port}`;
      this.file = file;
    }
    return this.address;
  }

  async stop() {
    await this.end();
    this.end = () => Promise.resolve();
    this.file = '';
  }
}

/**
 * Every file of tests has an application of its own with fresh demo data: no test meets what another file left. After a failure the
 * runner starts another worker, so a second try begins where the first one did.
 */
export const test = base.extend<{ address: string }, { freeze: boolean; hurry: number; host: Host }>({
  freeze: [false, { scope: 'worker', option: true }],
  // So many times as fast as the clock on the wall: a wait of six minutes has its end.
  hurry: [1, { scope: 'worker', option: true }],
  host: [
    async ({ freeze, hurry }, use) => {
      const host = new Host(freeze, hurry);
      await use(host);
      await host.stop();
    },
    { scope: 'worker', timeout: 300_000 },
  ],
  address: async ({ host }, use, about) => {
    await use(await host.of(about.file));
  },
  baseURL: async ({ address }, use) => use(address),
});

/** Starts the machine's twin as the page has it, and waits until this start, not an earlier one, has ended. */
export async function startTwin(page: Page, limit?: number) {
  const asked = page.waitForResponse((r) => r.request().method() === 'POST' && r.url().endsWith('/twin'));
  await page.getByRole('button', { name: 'Start the twin' }).click();
  const { id } = (await (await asked).json()) as { id: number };
  await expect(page.locator(`[data-job-id="${id}"][data-job=done]`)).toBeVisible(limit ? { timeout: limit } : {});
}

/** What axe calls serious or worse, with the place of each. There are no frames, so the quick way through them is enough. */
export async function seriousFaults(page: Page, ...rules: string[]) {
  const axe = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ['violations'] });
  const { violations } = await (rules.length > 0 ? axe.withRules(rules) : axe).analyze();
  return violations
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`);
}
