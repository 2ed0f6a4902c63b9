import { expect, test } from './app.ts';

test('the run of a machine that came in before a thousand others opens', { tag: '@long' }, async ({ page }) => {
  const all = (await (await page.request.get('/api/machines')).json()) as {
    tag: string;
    bay: number | null;
    run: { finishedAt: string | null } | null;
  }[];
  // One that is through and on the shelf: nothing puts it among the latest.
  const old = all.find((m) => m.bay === null && m.run !== null && m.run.finishedAt !== null);
  expect(old).toBeDefined();
  const rows = Array.from({ length: 1000 }, (_, i) => `NW-${String(i).padStart(4, '0')},Stile 14`);
  const answer = await page.request.post('/api/machines/csv?by=Pim', {
    headers: { 'content-type': 'text/csv' },
    data: `tag,model\n${rows.join('\n')}\n`,
  });
  expect(answer.ok()).toBe(true);
  const list = (await (await page.request.get('/api/machines?take=300')).json()) as { tag: string }[];
  expect(list.map((m) => m.tag)).not.toContain(old?.tag);

  await page.goto(`/machines/${old?.tag}/run`);
  await expect(page.getByRole('region', { name: 'Run' })).toBeVisible();
  // It is found by its tag, wherever one is typed.
  await page.goto(`/machines/${old?.tag}`);
  await expect(page).toHaveURL(new RegExp(`machines/${old?.tag}/systems`));
});
