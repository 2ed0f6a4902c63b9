import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Page, test as base } from '@playwright/test';
import { freePort, startServer } from './server.ts';

export { expect, type Page } from '@playwright/test';

/**
 * Every worker has an application of its own with fresh demo data. After a failure the runner starts another worker, so a
 * second try begins where the first one did, and one failure does not bring others with it.
 */
export const test = base.extend<object, { freeze: boolean; address: string }>({
  freeze: [false, { scope: 'worker', option: true }],
  address: [
    async ({ freeze }, use) => {
      const port = await freePort();
      const end = await startServer(port, freeze);
      await use(`http://localhost:${port}`);
      await end();
    },
    { scope: 'worker', timeout: 300_000 },
  ],
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
