import { expect, test } from 'vitest';
import { oddTag } from './tags';

const shop = ['MR-0401', 'MR-0402', 'MR-0403', 'MR-0404', 'MR-0405', 'MR-0406'];

test('a tag that looks like none of the shop’s is asked about', () => {
  expect(oddTag('mr-0990', shop)).toBeNull();
  expect(oddTag('MR-990', shop)).toBe('MR-0401');
  expect(oddTag('RM-0990', shop)).toBe('MR-0401');
  expect(oddTag('BW-14C8-20931', shop)).toBe('MR-0401');
});

test('a shop with few tags, or with many forms of them, is asked nothing', () => {
  expect(oddTag('X', shop.slice(0, 3))).toBeNull();
  expect(oddTag('X', [...shop, 'A1', 'B-2', 'C/3'])).toBeNull();
});
