import { expect, test } from 'vitest';
import { clockTime, dayAndTime, dayOf, learnZone } from './time';

test('every time is the one of the wall clock in the workshop', () => {
  learnZone('2026-11-26T18:40:00+01:00');
  expect(clockTime('2026-11-26T17:40:12.5Z')).toBe('18:40');
  expect(dayAndTime('2026-11-26T23:30:00Z')).toBe('2026-11-27 00:30');
  learnZone('2026-11-26T10:10:00-07:30');
  expect(dayOf('2026-11-26T02:00:00Z')).toBe('2026-11-25');
  learnZone('2026-11-26T17:40:00Z');
  expect(clockTime('2026-11-26T18:40:00+01:00')).toBe('17:40');
});
