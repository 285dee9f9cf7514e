import { describe, expect, it } from 'vitest';
import { halved, halvingsWithin } from './texture-budget';

const MB = 1e6;
const uses = [
  { name: 'near', bytes: 8 * MB, texelsPerPixel: 0.5 },
  { name: 'middle', bytes: 8 * MB, texelsPerPixel: 3 },
  { name: 'far', bytes: 8 * MB, texelsPerPixel: 40 },
];

describe('the budget of map memory', () => {
  it('leaves all maps whole while it holds them', () => {
    expect([...halvingsWithin(uses, 24 * MB).values()]).toEqual([0, 0, 0]);
  });

  it('halves what is farthest first, again and again, and what is near last', () => {
    expect(Object.fromEntries(halvingsWithin(uses, 18 * MB))).toEqual({ near: 0, middle: 0, far: 1 });
    // 40 texels a pixel become 2.5 by four halvings; then the middle's 3 are more.
    expect(Object.fromEntries(halvingsWithin(uses, 15 * MB))).toEqual({ near: 0, middle: 1, far: 4 });
    const total = (budget: number) => uses.reduce((sum, { name, bytes }) => sum + bytes / 4 ** halvingsWithin(uses, budget).get(name)!, 0);
    for (const budget of [20, 12, 6, 2, 0.5]) expect(total(budget * MB)).toBeLessThanOrEqual(budget * MB);
  });

  it('ends where nothing is left to halve', () => {
    expect([...halvingsWithin(uses, 1).values()]).toEqual([5, 5, 5]);
  });

  it('means texels in linear light', () => {
    // Black and white, half and half: 0.5 linear is 188 in sRGB (IEC 61966-2-1).
    const board = { width: 2, height: 2, texels: Uint8Array.from([0, 0, 0, 255, 255, 255, 255, 255, 255, 255, 255, 255, 0, 0, 0, 55]) };
    expect([...halved(board, true).texels]).toEqual([188, 188, 188, 205]);
    expect([...halved(board, false).texels]).toEqual([128, 128, 128, 205]);
  });
});
