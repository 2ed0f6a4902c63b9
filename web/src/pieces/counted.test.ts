import { expect, test } from 'vitest';
import { counted } from './counted';

test('one is one, and all else is several', () => {
  expect(counted(1, 'machine')).toBe('1 machine');
  expect(counted(0, 'order')).toBe('0 orders');
  expect(counted(2, 'entry', 'entries')).toBe('2 entries');
});
