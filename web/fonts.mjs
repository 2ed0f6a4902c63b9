// The page for the new owner is drawn by the server and cannot know hashed names: its two fonts get stable ones.
import { copyFileSync, mkdirSync } from 'node:fs';

const from = (family, file) =>
  new URL(`./node_modules/@fontsource-variable/${family}/files/${file}`, import.meta.url);
mkdirSync(new URL('./public/fonts', import.meta.url), { recursive: true });
copyFileSync(
  from('atkinson-hyperlegible-next', 'atkinson-hyperlegible-next-latin-wght-normal.woff2'),
  new URL('./public/fonts/text.woff2', import.meta.url),
);
copyFileSync(
  from('bricolage-grotesque', 'bricolage-grotesque-latin-wght-normal.woff2'),
  new URL('./public/fonts/name.woff2', import.meta.url),
);
