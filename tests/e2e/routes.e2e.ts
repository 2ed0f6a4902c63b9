import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, type Page, test } from './app.ts';
import { leader, press, tabTo } from './keyboard.ts';
import { home } from './server.ts';

/** The example of the handbook, as it stands there. */
function example() {
  const text = readFileSync(join(home, 'docs/catalogue.md'), 'utf8');
  const part = text.slice(text.indexOf("## A system of the shop's own"), text.indexOf('## Requirements'));
  const json = /```json\n([\s\S]*?)```/.exec(part)?.[1] ?? '';
  const reason = /Why it changes\*\*: `([^`]+)`/.exec(part)?.[1] ?? '';
  const bold = [...part.matchAll(/\*\*([^*]+)\*\*/g)].map((m) => m[1]!);
  const keys = [...part.matchAll(/Press `\.` and then `(\w)`/g)].map((m) => m[1]!);
  return {
    json,
    reason,
    bold,
    keys,
    entry: JSON.parse(json) as { id: string; name: string; release: string },
  };
}

test('a system of the shop’s own goes in as the handbook says, by keyboard, and the fleet is held against it', async ({
  page,
}) => {
  const { json, reason, bold, keys, entry } = example();
  const [fresh, field, effect, why, add] = bold as [string, string, string, string, string];
  await page.goto('/');

  await leader(page, keys[0]!); // 1
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Catalogue');
  await tabTo(page, `a[href="/catalogue/systems/new"]`); // 2
  await expect(page.locator(':focus')).toHaveText(fresh);
  await page.keyboard.press('Enter');

  await expect(page.getByLabel(field)).toBeVisible(); // 3
  await tabTo(page, 'form textarea[spellcheck=false]:not([data-at])');
  await page.keyboard.press('Control+a');
  await page.keyboard.insertText(json);
  await expect(page.locator('[data-at="/id"]'), 'the form follows').toHaveValue(entry.id);

  const shown = page.getByRole('region', { name: effect }); // 4
  await expect(shown).toContainText('MR-0405');
  await expect(shown).toContainText('not there');

  await page.keyboard.press('Tab'); // 5
  await expect(page.getByLabel(why)).toBeFocused();
  await page.keyboard.type(reason);
  await press(page, add); // 6
  await expect(page).toHaveURL(new RegExp(`/catalogue/systems/${entry.id}$`));
  await expect(page.getByRole('region', { name: 'Versions' })).toContainText(reason);

  await leader(page, keys[1]!); // 7
  await expect(page.getByRole('columnheader', { name: `${entry.name} ${entry.release}` })).toBeVisible();
  const cell = page.getByRole('button', { name: /^MR-0405, Dunnock 2: / });
  await expect(cell).toBeVisible();
});

test('a fault of an edit is named with its place, and the entry cannot be saved', async ({ page }) => {
  await page.goto('/catalogue/cures/tpm-module');
  await page
    .locator('[data-at="/conflicts"]')
    .or(page.getByLabel('Add to the entry'))
    .first()
    .selectOption('conflicts');
  await page.locator('[data-at="/conflicts"]').fill('no-such-cure');
  await page.getByLabel('Why it changes').fill('by mistake');
  await expect(page.getByRole('alert')).toContainText('/conflicts/0');
  await expect(page.getByRole('button', { name: 'Save' })).toBeDisabled();
});

test('the matrix is walked by arrow keys, and a cell says why', async ({ page }) => {
  await page.goto('/fleet?group=none');
  await tabTo(page, 'button[data-at="0,0"]');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  const focused = page.locator(':focus');
  await expect(focused).toHaveAttribute('data-at', '1,1');
  const label = (await focused.getAttribute('aria-label')) ?? '';
  await page.keyboard.press('Enter');
  const explained = page.getByRole('region', { name: 'The cell explained' });
  await expect(explained).toContainText(label.slice(0, 7));
  await expect(explained.getByRole('listitem')).toHaveCount(10);

  // As many as the order has: another test may have set one more aside.
  const all = (await (await page.request.get('/api/machines')).json()) as { order: string | null }[];
  const aside = all.filter((m) => m.order === 'Seed Library').length;
  expect(aside).toBeGreaterThan(5);
  await page.getByLabel('Only those with').fill('seed library');
  await expect(page.getByRole('rowheader')).toHaveCount(aside);
});

const best = (page: Page) =>
  page.getByRole('list', { name: 'Routes, best first' }).getByRole('listitem').first();

test('a slider moves the recommendation at the weight that its notch shows', async ({ page }) => {
  await page.goto('/machines/MR-0417/routes');
  const first = await best(page).innerText();
  const slider = page.getByRole('slider', { name: 'support' });
  const said = await page
    .locator('label', { has: slider })
    .getByText(/^(above|below) \d+: /)
    .innerText();
  const [, side, weight, next] = /^(above|below) (\d+): (.*)$/.exec(said) ?? [];
  const at = Number(weight);
  expect(at).toBeGreaterThan(0);
  // Up to the notch nothing changes; one step beyond it the other one leads. By keyboard.
  await slider.focus();
  const away = side === 'below' ? 'ArrowLeft' : 'ArrowRight';
  const near = side === 'below' ? at + 1 : at - 1;
  while (Number(await slider.inputValue()) !== near) await page.keyboard.press(away);
  await expect(best(page)).toContainText(first.split('\n')[1]!);
  for (let i = 0; i < 2; i++) await page.keyboard.press(away);
  await expect(best(page)).toContainText(next!);
});

test('a choice keeps routes out, and taking parts on paper moves the ladders', async ({ page }) => {
  await page.goto('/machines/MR-0426/routes?panel=choices');
  await page.locator('[data-choice="plan.system=light"]').focus();
  await page.keyboard.press('Enter');
  await expect(page.locator('button[data-route=comply]')).toHaveCount(0);
  await expect(page.locator('button[data-route=lighten]').first()).toBeVisible();

  await page.goto('/machines/MR-0426/routes?panel=whatif');
  const ladders = page.getByRole('list', { name: 'Systems before and after' });
  await expect(ladders).not.toContainText('caveat');
  await page.getByRole('checkbox', { name: 'Switch the firmware TPM on' }).focus();
  await page.keyboard.press('Space');
  await expect(ladders).toContainText('caveat');
});

test('an order is taken, and a machine at the door is checked against it', async ({ page }) => {
  await page.goto('/orders?order=new');
  const form = page.getByRole('form', { name: 'New order' });
  await form.getByLabel('Who ordered').fill('Lock Cottage');
  await form.getByLabel('What it is for').fill('One desk for letters and pictures.');
  await form.getByLabel('drawing', { exact: true }).check();
  await form.getByLabel('drawing: limit or wish').selectOption('limit');
  await form.getByRole('button', { name: 'Take the order' }).click();
  // The new order opens itself when everything that shows it has looked again; only then is the page at rest.
  await expect(page.getByRole('form', { name: 'Order of Lock Cottage' })).toBeVisible();

  await leader(page, 'd');
  await page.getByPlaceholder('Stile 14').fill('till 7');
  const door = page.getByRole('list', { name: 'At the door' });
  await expect(door.getByRole('listitem').filter({ hasText: 'Lock Cottage' })).toContainText('no route');
});
