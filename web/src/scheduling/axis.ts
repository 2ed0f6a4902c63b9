/** Hours of the shop put end to end: nights and days off take no room. */
export interface Stretch {
  from: number;
  to: number;
}

/** The stretches in which anything lies, each begun and ended on the full hour, with what is closed left out. */
export function stretches(spans: { start: string; end: string }[]): Stretch[] {
  const hour = 3_600_000;
  const all = spans
    .map((s) => ({
      from: Math.floor(Date.parse(s.start) / hour) * hour,
      to: Math.ceil(Date.parse(s.end) / hour) * hour,
    }))
    .sort((a, b) => a.from - b.from);
  const joined: Stretch[] = [];
  for (const one of all) {
    const last = joined.at(-1);
    // An hour in which nothing lies is drawn as it is; a night is not.
    if (last && one.from - last.to <= 2 * hour) last.to = Math.max(last.to, one.to);
    else joined.push({ ...one });
  }
  return joined;
}

/** Where an instant lies along the stretches, 0 to 1; what is closed lies at the end of the stretch before. */
export function along(at: number, open: Stretch[]): number {
  const whole = open.reduce((sum, s) => sum + s.to - s.from, 0);
  const before = open.reduce((sum, s) => sum + Math.min(Math.max(at - s.from, 0), s.to - s.from), 0);
  return whole === 0 ? 0 : before / whole;
}
