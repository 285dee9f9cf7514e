import { describe, expect, it } from 'vitest';
import { adjusted, adjustmentMatrix, hueMatrix, isAdjusted, saturationMatrix } from './adjust';
import { completeFinish, PLAIN_FINISH, type Finish } from './finish';
import { FINISHES } from './library';
import { variationOf } from './variation';

const plain: Finish = { ...PLAIN_FINISH, id: 'x', name: 'X', family: 'wood' };
const vary = (change: Partial<Finish['vary']>): Finish => ({ ...plain, widthM: 2, heightM: 3, vary: { ...plain.vary, ...change } });

describe('the adjustment of a colour', () => {
  it('turns hue by the matrix that W3C Filter Effects Module Level 1 prints for feColorMatrix hueRotate', () => {
    // From its text: for 90 degrees cos = 0 and sin = 1, so the two constant parts add up.
    hueMatrix(0, 1).forEach((value, i) => {
      expect(value).toBeCloseTo([0, 0, 1, 0.356, 0.855, -0.211, -0.574, 1.43, 0.144][i]!, 9);
    });
  });

  it('leaves grey grey, keeps luminance, and comes round after a whole turn', () => {
    for (const deg of [-120, -30, 45, 180]) {
      const m = hueMatrix(Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180));
      const [r, g, b] = [0.5, 0.3, 0.2];
      const turned = [0, 3, 6].map((row) => m[row]! * r + m[row + 1]! * g + m[row + 2]! * b);
      // The matrix itself is printed with three digits.
      expect(0.213 * turned[0]! + 0.715 * turned[1]! + 0.072 * turned[2]!).toBeCloseTo(0.213 * r + 0.715 * g + 0.072 * b, 3);
      [0, 3, 6].forEach((row) => { expect(m[row]! + m[row + 1]! + m[row + 2]!).toBeCloseTo(1, 9); }); // prettier-ignore
    }
    hueMatrix(1, 0).forEach((value, i) => { expect(value).toBeCloseTo(i % 4 === 0 ? 1 : 0, 9); }); // prettier-ignore
  });

  it('makes grey of the luminance without saturation, and is nothing as a finish is at first', () => {
    expect(adjusted([0.5, 0.3, 0.2], saturationMatrix(0), 1)[1]).toBeCloseTo(0.213 * 0.5 + 0.715 * 0.3 + 0.072 * 0.2, 9);
    expect(isAdjusted(plain)).toBe(false);
    adjusted([0.5, 0.3, 0.2], adjustmentMatrix(plain), 1).forEach((value, i) => { expect(value).toBeCloseTo([0.5, 0.3, 0.2][i]!, 9); }); // prettier-ignore
  });

  it('turns contrast about mid grey, and never leaves what a surface can reflect', () => {
    const m = adjustmentMatrix(plain);
    expect(adjusted([0.18, 0.36, 0.09], m, 2)).toEqual([0.18, expect.closeTo(0.72, 9), expect.closeTo(0.045, 9)]);
    for (const contrast of [0.2, 1, 3])
      for (const change of [{ brightness: 3 }, { saturation: 3 }, { hueDeg: 120, saturation: 3, brightness: 2 }])
        for (const c of adjusted([0.9, 0.1, 0.05], adjustmentMatrix({ ...plain, ...change }), contrast)) {
          expect(c).toBeGreaterThanOrEqual(0);
          expect(c).toBeLessThanOrEqual(1);
        }
  });
});

describe('how elements have a finish', () => {
  it('is the same every time, another for each element and each seed, and within its bounds', () => {
    const finish = vary({ offset: true, turn: 'quarter', size: 0.1, hueDeg: 6, brightness: 0.2 });
    const assigned = Array.from({ length: 400 }, (_, i) => variationOf(finish, `board ${String(i)}`)!);
    expect(variationOf(finish, 'board 7')).toEqual(assigned[7]);
    expect(new Set(assigned.map((w) => w.uM)).size).toBe(400);
    expect(variationOf(vary({ offset: true, seed: 2 }), 'board 7')).not.toEqual(variationOf(vary({ offset: true }), 'board 7'));
    expect(new Set(assigned.map((w) => Math.round((w.turnRad * 180) / Math.PI)))).toEqual(new Set([0, 90, 180, 270]));
    const mean = (of: (w: (typeof assigned)[number]) => number) => assigned.reduce((sum, w) => sum + of(w), 0) / assigned.length;
    // Uniform: the mean of 400 lies within four standard errors, spread / sqrt(3 n), of the middle.
    for (const [of, middle, spread] of [[(w) => w.uM, 1, 1], [(w) => w.vM, 1.5, 1.5], [(w) => w.size, 1, 0.1], [(w) => w.hueRad, 0, 0.105], [(w) => w.brightness, 1, 0.2]] as [(w: (typeof assigned)[number]) => number, number, number][]) {
      expect(Math.abs(mean(of) - middle)).toBeLessThan((4 * spread) / Math.sqrt(3 * 400));
      for (const w of assigned) expect(Math.abs(of(w) - middle)).toBeLessThanOrEqual(spread);
    } // prettier-ignore
  });

  it('moves maps by whole steps where the finish says so, as boards and bricks need it', () => {
    const finish = { ...plain, widthM: 0.96, heightM: 2.4, vary: { ...plain.vary, offset: true, stepM: [0.12, 0] as [number, number] } };
    const moved = Array.from({ length: 300 }, (_, i) => variationOf(finish, String(i))!);
    const steps = new Set(moved.map(({ uM }) => Math.round((uM / 0.12) * 1e6) / 1e6));
    expect([...steps].sort()).toEqual([0, 1, 2, 3, 4, 5, 6, 7]);
    expect(new Set(moved.map(({ vM }) => vM)).size).toBe(300);
  });

  it('is as the finish is where nothing is asked for', () => {
    expect(variationOf(plain, 'a')).toBeUndefined();
  });
});

it('a finish that was kept by an earlier version gets what it lacks, once', () => {
  const old = Object.fromEntries(Object.entries(FINISHES[0]!).filter(([field]) => !['vary', 'contrast', 'clearCoat'].includes(field)));
  const whole = completeFinish(old as unknown as Finish);
  expect(whole).toEqual({ ...FINISHES[0], vary: PLAIN_FINISH.vary, contrast: 1, clearCoat: 0 });
  expect(completeFinish(old as unknown as Finish)).toBe(whole);
  expect(completeFinish(FINISHES[0]!)).toBe(FINISHES[0]);
});
