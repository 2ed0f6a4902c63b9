import { expect, test } from 'vitest';
import { along, stretches } from './axis';

const span = (start: string, end: string) => ({ start: `2026-11-${start}Z`, end: `2026-11-${end}Z` });

test('nights take no room, and what lies close together is one stretch', () => {
  const open = stretches([
    span('26T09:10:00', '26T10:00:00'),
    span('26T11:00:00', '26T16:30:00'),
    span('27T09:00:00', '27T12:00:00'),
  ]);
  expect(open.map((s) => (s.to - s.from) / 3_600_000)).toEqual([8, 3]);
  expect(along(Date.parse('2026-11-26T09:00:00Z'), open)).toBe(0);
  expect(along(Date.parse('2026-11-27T12:00:00Z'), open)).toBe(1);
  // All of the night lies at one place.
  const night = along(Date.parse('2026-11-26T23:00:00Z'), open);
  expect(night).toBeCloseTo(8 / 11);
  expect(along(Date.parse('2026-11-27T08:00:00Z'), open)).toBe(night);
});

test('nothing lies nowhere', () => {
  expect(stretches([])).toEqual([]);
  expect(along(5, [])).toBe(0);
});
