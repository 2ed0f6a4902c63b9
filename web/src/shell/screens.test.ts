import { expect, test } from 'vitest';

const sources = import.meta.glob<string>(['../**/*.tsx', '../../../tests/e2e/*.ts'], {
  query: '?raw',
  import: 'default',
  eager: true,
});
const read = (file: string) => sources[file] ?? '';
const journeys = Object.keys(sources)
  .filter((file) => file.includes('/e2e/'))
  .map(read)
  .join('\n');

/** The screens of main.tsx that somebody can ask for, without what only leads on. */
const screens = [...read('../main.tsx').matchAll(/\{ path: '([^':*]+)', (?:Component|lazy)/g)].map(
  ([, path]) => path,
);
const ofMachine = [...read('../dossiers/MachinePage.tsx').matchAll(/^ {2}\['(\w+)', '/gm)].map(
  ([, view]) => view,
);
const shelf = [...read('./ShelfNav.tsx').matchAll(/\['(\/[\w/]+)', '/g)].map((m) => m[1] ?? '');
const names = read('./Shell.tsx') + read('../catalogue/Catalogue.tsx') + shelf.map((s) => `to="${s}"`).join();

test('there are screens, and views of a machine among them', () => {
  expect(screens.length).toBeGreaterThan(10);
  expect(ofMachine).toContain('prepare');
  expect(screens).toEqual(expect.arrayContaining(ofMachine));
});

test.each(screens)('the screen %s has a name that leads to it, and a journey that tries it', (screen) => {
  if (ofMachine.includes(screen)) {
    expect(journeys).toMatch(new RegExp(`/machines/[^'"]*/${screen}`));
    expect(read('./keys.tsx')).toContain(`'${screen}'`);
  } else {
    expect(names).toContain(`to="/${screen}"`);
    expect(journeys).toMatch(new RegExp(`['"\`]/${screen}[?'"\`/]`));
  }
});
