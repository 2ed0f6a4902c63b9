import { describe, expect, it } from 'vitest';
import { bytesText, timeText } from './words';

describe('sizes and times', () => {
  it('prints bytes as makers do, and never a thousand of a unit', () => {
    expect(bytesText(512)).toBe('512 bytes');
    expect(bytesText(4_825_088)).toBe('4.8 MB');
    expect(bytesText(999_960_000)).toBe('1.0 GB');
    expect(bytesText(16_008_609_792)).toBe('16.0 GB');
    expect(bytesText(128_000_000_000)).toBe('128 GB');
  });
  it('says times as people do', () => {
    expect(timeText(0)).toBe('at once');
    expect(timeText(45)).toBe('about 45 s');
    expect(timeText(1500)).toBe('about 25 min');
    expect(timeText(9000)).toBe('about 2.5 h');
  });
});
