import { AxeBuilder } from '@axe-core/playwright';
import { type Page, test as base } from '@playwright/test';
import { startServer } from './server.ts';

export { expect, type Page } from '@playwright/test';

/**
 * Every worker has an application of its own with fresh demo data. After a failure the runner starts another worker, so a
 * second try begins where the first one did, and one failure does not bring others with it.
 */
export const test = base.extend<object, { freeze: boolean; address: string }>({
  freeze: [false, { scope: 'worker', option: true }],
  address: [
    async ({ freeze }, use, worker) => {
      const port = 5187 + (worker.workerIndex % 500);
      const end = await startServer(port, freeze);
      await use(`http://localhost:${port}`);
      await end();
    },
    { scope: 'worker', timeout: 90_000 },
  ],
  baseURL: async ({ address }, use) => use(address),
});

/** What axe calls serious or worse, with the place of each. There are no frames, so the quick way through them is enough. */
export async function seriousFaults(page: Page, ...rules: string[]) {
  const axe = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ['violations'] });
  const { violations } = await (rules.length > 0 ? axe.withRules(rules) : axe).analyze();
  return violations
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`);
}
