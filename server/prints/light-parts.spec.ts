import { describe, expect, it } from 'vitest';
import { addUp, keepEven } from './light-parts';

const rgba = (...values: number[]) => Float32Array.from(values.flatMap((v) => [v, v, v, 1]));

describe('parts of denoised light', () => {
  it('add up to the whole', () => {
    const whole = rgba(10, 500, 3, 4);
    const parts = { direct: rgba(6, 4, 0, 2), indirect: rgba(5, 1, 0, 1), emission: rgba(0, 500, 0, 3) };
    addUp(whole, parts);
    for (let i = 0; i < 16; i++)
      if (i % 4 < 3) expect(parts.direct[i]! + parts.indirect[i]! + parts.emission[i]!).toBeCloseTo(whole[i]!, 4);
    expect(parts.direct[0]! / parts.indirect[0]!).toBeCloseTo(6 / 5, 5);
  });

  it('keep the light of a lamp that is seen, and give none to what lies beside it', () => {
    // A lens five pixels wide in a row of nine; its rim is half covered.
    const row = [0, 0, 250, 500, 500, 500, 250, 0, 0];
    const plain = rgba(...row, ...row, ...row);
    const blurred = rgba(...[...row, ...row, ...row].map((v) => v * 0.97 + 8));
    keepEven(blurred, 9, 0, plain, 9);
    const middle = Array.from({ length: 9 }, (_, x) => blurred[(9 + x) * 4]!);
    expect(middle[4]).toBe(500);
    for (const x of [0, 1, 7, 8]) expect(middle[x]).toBe(0);
    expect(middle[2]).toBeGreaterThan(200);
  });
});
