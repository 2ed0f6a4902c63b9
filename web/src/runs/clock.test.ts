import { describe, expect, it } from 'vitest';
import { countdown } from './clock';

describe('what is left of a wait', () => {
  const now = Date.parse('2026-12-03T13:20:00Z');
  it.each([
    ['2026-12-03T13:38:40Z', '18:40'],
    ['2026-12-03T13:20:05Z', '0:05'],
    ['2026-12-03T14:32:05Z', '1:12:05'],
    ['2026-12-03T13:20:00Z', '0:00'],
    ['2026-12-03T13:19:00Z', '+1:00'],
    ['2026-12-03T11:19:59Z', '+2:00:01'],
  ])('until %s is %s', (until, text) => {
    expect(countdown(until, now)).toBe(text);
  });
});
