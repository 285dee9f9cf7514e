import { describe, expect, it } from 'vitest';
import { FINISHES } from './library';
import { GRAVITY, ownMeanSquareSlope, waveAt, WAVE_COUNT, WAVE_FLOATS, wavesOf } from './waves';

const sea = { heightM: 0.4, lengthM: 6, towardsDeg: 30, windMs: 0 };
const one = (table: Float32Array, i: number) => table.slice(i * WAVE_FLOATS, (i + 1) * WAVE_FLOATS);

describe('waves', () => {
  const waves = wavesOf(sea);

  it('are as high as they are said to be: four standard deviations over place and time', () => {
    let [sum, squares, n] = [0, 0, 0];
    for (let t = 0; t < 12; t++)
      for (let y = 0; y < 40; y++)
        for (let x = 0; x < 40; x++) {
          const { height } = waveAt(waves, x * 3.7, y * 4.1, t * 7.3);
          sum += height;
          squares += height * height;
          n++;
        }
    expect(Math.abs(sum / n)).toBeLessThan(0.01);
    expect(4 * Math.sqrt(squares / n)).toBeGreaterThan(0.4 * 0.95);
    expect(4 * Math.sqrt(squares / n)).toBeLessThan(0.4 * 1.05);
  });

  it('each run at the speed of deep water, sqrt(g / k), the way that they look (Lamb 1932, art. 229)', () => {
    for (let i = 0; i < WAVE_COUNT; i++) {
      const alone = one(waves, i);
      const [kx, ky] = [alone[0]!, alone[1]!];
      const k = Math.hypot(kx, ky);
      const speed = Math.sqrt(GRAVITY / k);
      for (const t of [0.7, 3.1]) {
        const moved = waveAt(alone, 1 + (kx / k) * speed * t, 2 + (ky / k) * speed * t, t).height;
        expect(moved).toBeCloseTo(waveAt(alone, 1, 2, 0).height, 5);
      }
    }
    // Six metres from crest to crest: 3.06 m/s, by the same formula worked out by hand.
    expect(Math.sqrt((GRAVITY * 6) / (2 * Math.PI))).toBeCloseTo(3.061, 3);
  });

  it('have the slopes of their height', () => {
    const d = 1e-3;
    for (const [x, y, t] of [[0, 0, 0], [3.3, -8.1, 2.5], [120.4, 55.2, 40]] as const) {
      const { alongX, alongY } = waveAt(waves, x, y, t);
      const rise = (dx: number, dy: number) => (waveAt(waves, x + dx, y + dy, t).height - waveAt(waves, x - dx, y - dy, t).height) / 2 / d;
      expect(alongX).toBeCloseTo(rise(d, 0), 3);
      expect(alongY).toBeCloseTo(rise(0, d), 3);
    }
  }); // prettier-ignore

  it('run mostly where the wind blows, and are the same every time', () => {
    let [x, y] = [0, 0];
    for (let i = 0; i < WAVE_COUNT; i++) {
      const [kx, ky, amplitude] = one(waves, i) as unknown as [number, number, number];
      x += (kx / Math.hypot(kx, ky)) * amplitude;
      y += (ky / Math.hypot(kx, ky)) * amplitude;
    }
    expect(Math.abs((Math.atan2(y, x) * 180) / Math.PI - 30)).toBeLessThan(12);
    expect(wavesOf(sea)).toEqual(waves);
  });

  it('and what is finer than they are have the slopes of a clean sea, by the wind (Cox & Munk 1954: 0.003 + 0.00512 W)', () => {
    for (const windMs of [3, 8]) {
      const table = wavesOf({ heightM: 0.07, lengthM: 2.4, towardsDeg: 25, windMs });
      expect(ownMeanSquareSlope(table) + table[5]!).toBeCloseTo(0.003 + 0.00512 * windMs, 4);
    }
  });

  it('of the finishes that ship never stand so steep that they would break: 1 in 7 (Michell 1893)', () => {
    const waters = FINISHES.filter((f) => f.waves);
    expect(waters.length).toBeGreaterThanOrEqual(3);
    for (const { waves: w } of waters) expect(w!.heightM / w!.lengthM).toBeLessThan(1 / 7);
  });
});
