import { describe, expect, it } from 'vitest';
import { random as randomFrom } from '../random';
import { byHand, paint } from './by-hand';
import { drawOver } from './drawing';

const [WIDTH, HEIGHT] = [400, 300];
const at = (x: number, y: number) => y * WIDTH + x;

describe('lines by hand', () => {
  const line = new Float32Array(WIDTH * HEIGHT);
  for (let x = 20; x < 380; x++) line[at(x, 150)] = 1;

  it('stray no farther than a stroke may, break on the paper, and are the same each time', () => {
    const drawn = byHand(line, WIDTH, HEIGHT, 1);
    const rows = new Set<number>();
    drawn.forEach((value, p) => value > 0.2 && rows.add(Math.floor(p / WIDTH)));
    // 0.22 % of 400 pixels, and one between pixels.
    expect([...rows].every((y) => Math.abs(y - 150) <= 2)).toBe(true);
    expect(rows.size).toBeGreaterThan(1);
    const ink = (mask: Float32Array) => mask.reduce((sum, value) => sum + value, 0);
    expect(ink(drawn) / ink(line)).toBeGreaterThan(0.6);
    expect(ink(drawn) / ink(line)).toBeLessThan(1.8);
    expect(byHand(line, WIDTH, HEIGHT, 1)).toEqual(drawn);
    expect(byHand(line, WIDTH, HEIGHT, 0)).toEqual(line);
  });
});

describe('a painted picture', () => {
  /** Dark at the left, light at the right, and noisy. */
  function noisy(whole: 255 | 65535): Uint8ClampedArray | Uint16Array {
    const random = randomFrom(7);
    const rgba = whole === 255 ? new Uint8ClampedArray(WIDTH * HEIGHT * 4) : new Uint16Array(WIDTH * HEIGHT * 4);
    for (let p = 0; p < WIDTH * HEIGHT; p++) {
      const value = (p % WIDTH < 200 ? 0.3 : 0.7) + (random() - 0.5) * 0.2;
      rgba.set([value * whole, value * whole, value * whole, whole], p * 4);
    }
    return rgba;
  }
  const spread = (rgba: ArrayLike<number>, from: number, to: number, whole: number) => {
    const values: number[] = [];
    for (let y = 100; y < 110; y++) for (let x = from; x < to; x++) values.push(rgba[at(x, y) * 4]! / whole);
    const mean = values.reduce((a, b) => a + b) / values.length;
    return { mean, deviation: Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length) };
  };

  it.each([255, 65535] as const)('has even washes and keeps edges where they are (of %i)', (whole) => {
    const before = noisy(whole);
    const after = before.slice();
    paint(after, WIDTH, HEIGHT, 1);
    for (const [from, to, value] of [
      [150, 195, 0.3],
      [205, 250, 0.7],
    ] as const) {
      const washed = spread(after, from, to, whole);
      expect(washed.deviation).toBeLessThan(spread(before, from, to, whole).deviation / 2);
      // Pools of colour are a tenth of it at most.
      expect(Math.abs(washed.mean / value - 1)).toBeLessThan(0.12);
    }
    expect(after[at(203, 105) * 4]! - after[at(196, 105) * 4]!).toBeGreaterThan(0.25 * whole);
    expect(after[3]).toBe(whole);
  });

  it('has no seams where one band of rows ends, and is as it was without any share of it', () => {
    const flat = new Uint8ClampedArray(WIDTH * HEIGHT * 4).fill(128);
    const painted = flat.slice();
    paint(painted, WIDTH, HEIGHT, 1);
    const step = (y: number) => Array.from({ length: WIDTH }, (_, x) => Math.abs(painted[at(x, y) * 4]! - painted[at(x, y - 1) * 4]!)).reduce((a, b) => a + b) / WIDTH; // prettier-ignore
    expect(step(192)).toBeLessThan(step(150) + step(151));
    const same = flat.slice();
    drawOver(same, { width: WIDTH, height: HEIGHT }, undefined, { lines: 0, paper: 0 });
    expect(same).toEqual(flat);
  });
});
