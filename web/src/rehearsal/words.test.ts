import { expect, test } from 'vitest';
import { addMinutes, chanceText, clockNow, doneBy, isClock, timeText } from './words';

test('a chance promises no more digits than anybody knows', () => {
  expect([0, 0.0004, 0.021, 0.117, 0.995, 1].map(chanceText)).toEqual([
    '0 %',
    'under 0.1 %',
    '2.1 %',
    '12 %',
    'over 99 %',
    '100 %',
  ]);
});

test('a time of the clock goes on over midnight, and says that it does', () => {
  expect(clockNow('2026-12-03T14:23:59Z')).toMatch(/^\d\d:[25]0$/);
  expect(addMinutes('15:00', 120)).toBe('17:00');
  expect(addMinutes('23:50', 20)).toBe('00:10 +1 d');
  expect(addMinutes('08:05', 2 * 1440)).toBe('08:05 +2 d');
  expect([timeText(59), timeText(60), timeText(167)]).toEqual(['59 min', '1 h 00', '2 h 47']);
  expect(['7:30', '24:00', '23:59', '', '15:5'].map(isClock)).toEqual([false, false, true, false, false]);
});

test('by when a share of the walks is done is read off the twentieth that reaches it', () => {
  const by = Array.from({ length: 20 }, (_, i) => (i + 1) * 10);
  expect([doneBy(by, 0.05), doneBy(by, 0.8), doneBy(by, 0.81), doneBy(by, 1)]).toEqual([10, 160, 170, 200]);
  expect(doneBy([], 0.8)).toBe(0);
});
