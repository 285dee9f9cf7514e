import { describe, expect, it } from 'vitest';
import { readLength } from './length';

describe('lengths', () => {
  it.each([
    ['2.4', 2.4], ['2,4 m', 2.4], ['240 cm', 2.4], ['35mm', 0.035], ['-0.5 m', -0.5], [`7'10"`, 2.3876], ['7 ft 10 in', 2.3876], ['2 m 40 cm', 2.4],
  ])('are read as they are typed: %s', (text, metres) => {
    expect(readLength(text)).toBeCloseTo(metres, 9);
  }); // prettier-ignore

  it.each(['', 'high', '2.4 yd', '3 4', '2 m 40'])('that are none are not: %s', (text) => {
    expect(readLength(text)).toBeUndefined();
  });
});
