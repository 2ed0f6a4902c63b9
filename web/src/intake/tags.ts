/** The form of a tag: letters as A, digits as 0, the rest as it stands. "MR-0417" is "AA-0000". */
const formOf = (tag: string) => tag.trim().toUpperCase().replace(/[A-Z]/g, 'A').replace(/\d/g, '0');

/**
 * Whether a tag looks otherwise than the shop's do: another form, or other letters before the number. Null where it looks like
 * them, or where the shop has too few to tell; else one of theirs, to compare with.
 */
export function oddTag(tag: string, known: readonly string[]): string | null {
  const counts = new Map<string, number>();
  const kind = (one: string) => `${formOf(one)} ${/^\D*/.exec(one.trim().toUpperCase())?.[0] ?? ''}`;
  for (const one of known) counts.set(kind(one), (counts.get(kind(one)) ?? 0) + 1);
  const [usual, most] = [...counts].reduce((a, b) => (b[1] > a[1] ? b : a), ['', 0]);
  if (most < 5 || most * 10 < known.length * 9 || kind(tag) === usual) return null;
  return known.find((one) => kind(one) === usual) ?? null;
}
