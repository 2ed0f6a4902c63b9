import { HtmlValidate } from 'html-validate';
import { expect, test } from './app.ts';

// Papers are printed and handed on: whoever reads them with another program gets what the standard says.
const html = new HtmlValidate({ extends: ['html-validate:standard', 'html-validate:document'] });

test('every paper of every machine is HTML as the standard has it', { tag: '@long' }, async ({ request }) => {
  const machines = (await (await request.get('/api/machines')).json()) as { tag: string }[];
  const languages = (await (await request.get('/api/languages')).json()) as { code: string }[];
  const paths = ['/api/figures/report', '/api/machines/NO-SUCH/handover'];
  paths.push(`/api/labels?${machines.map((m) => `tag=${m.tag}`).join('&')}`);
  for (const { tag } of machines) {
    const routes = (await (await request.get(`/api/machines/${tag}/routes`)).json()) as { id: string }[];
    for (const { id } of routes.slice(0, 2)) {
      paths.push(`/api/machines/${tag}/routes/${id}/sheet`, `/api/machines/${tag}/firmware-plan?route=${id}`);
    }
    for (const { code } of languages)
      paths.push(
        `/api/machines/${tag}/handover?lang=${code}`,
        `/api/machines/${tag}/data-treatment?lang=${code}`,
      );
  }
  const faults: string[] = [];
  const seen = new Map<string, number>();
  for (const path of paths) {
    const answer = await request.get(path, { headers: { accept: 'text/html' } });
    expect(answer.headers()['content-type'], path).toContain('text/html');
    const kind = `${answer.ok() ? 'paper' : 'refusal'} ${path.split('?')[0]!.split('/').at(-1)!}`;
    seen.set(kind, (seen.get(kind) ?? 0) + 1);
    const report = await html.validateString(await answer.text());
    for (const { messages } of report.results)
      for (const m of messages) faults.push(`${path.slice(0, 60)}:${m.line}: ${m.ruleId} ${m.message}`);
  }
  expect(faults).toEqual([]);
  // Nothing was passed over: of each kind of paper there was one.
  for (const kind of ['report', 'labels', 'sheet', 'handover', 'data-treatment', 'firmware-plan'])
    expect(seen.get(`paper ${kind}`), `${kind}: ${JSON.stringify([...seen])}`).toBeGreaterThan(0);
  expect(seen.get('refusal handover')).toBeGreaterThan(0);
});
