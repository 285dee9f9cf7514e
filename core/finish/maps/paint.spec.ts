import { describe, expect, it } from 'vitest';
import { cellular, fractal, hash01, valueNoise } from './noise';
import { RELIEF_M } from '../library';
import { paintMaps, type Point } from './paint';
import { PAINTERS } from './painters';

describe('painting maps', () => {
  it('turns heights into normals: a sine of known slope', () => {
    const size = 256;
    const amplitude = 0.01;
    // One wave along u over 1 m: the steepest slope is 2 pi x amplitude, at the crossings.
    const maps = paintMaps((u, _v, p) => { p.heightM = amplitude * Math.sin(2 * Math.PI * u); }, 1, 1, size); // prettier-ignore
    const tilt = (x: number) => (maps.surface[(10 * size + x) * 4]! - 128) / 127.5;
    const slope = 2 * Math.PI * amplitude;
    // Rising along u: the normal leans back towards -u.
    expect(tilt(0)).toBeCloseTo(-slope / Math.hypot(1, slope), 2);
    expect(tilt(64)).toBeCloseTo(0, 2);
    expect(tilt(128)).toBeCloseTo(slope / Math.hypot(1, slope), 2);
    for (let x = 0; x < size; x += 16) expect(Math.abs(maps.surface[(10 * size + x) * 4 + 1]! - 128)).toBeLessThanOrEqual(1);
  });

  it('halves the slope when the same relief is twice as large', () => {
    const wave = (widthM: number) =>
      paintMaps((u, _v, p) => { p.heightM = 0.01 * Math.sin(2 * Math.PI * u); }, widthM, 1, 64).surface[0]! - 128; // prettier-ignore
    expect(wave(1) / wave(2)).toBeCloseTo(2, 0);
  });

  it('keeps colour, roughness and the whole range of heights', () => {
    const maps = paintMaps((u, v, p) => { Object.assign(p, { r: u, g: v, b: 0.5, roughness: 0.25, heightM: u * 0.002 }); }, 1, 1, 32); // prettier-ignore
    expect(maps.base[(0 * 32 + 31) * 4]).toBe(Math.round((31.5 / 32) * 255));
    expect(maps.surface[2]).toBe(64);
    const heights = Array.from({ length: 32 }, (_, x) => maps.surface[x * 4 + 3]!);
    expect([Math.min(...heights), Math.max(...heights)]).toEqual([0, 255]);
  });
});

describe('relief', () => {
  it('of the finishes that ship is as deep as their maps are painted', () => {
    for (const [name, metres] of Object.entries(RELIEF_M)) {
      const point: Point = { r: 0, g: 0, b: 0, roughness: 1, heightM: 0, opacity: 1 };
      let [low, high] = [Infinity, -Infinity];
      for (let i = 0; i < 200 * 200; i++) {
        PAINTERS[name]!(((i % 200) + 0.5) / 200, (Math.floor(i / 200) + 0.5) / 200, point);
        [low, high] = [Math.min(low, point.heightM), Math.max(high, point.heightM)];
      }
      expect(Math.abs(high - low - metres), name).toBeLessThan(metres * 0.1);
    }
  });
});

describe('noise', () => {
  it('repeats over the unit square without a step', () => {
    for (let i = 0; i < 50; i++) {
      const v = i / 50;
      expect(valueNoise(1, v, 7, 5, 3)).toBeCloseTo(valueNoise(0, v, 7, 5, 3), 9);
      expect(fractal(v, 1, 4, 4, 5, 8)).toBeCloseTo(fractal(v, 0, 4, 4, 5, 8), 9);
      expect(cellular(1, v, 6, 2).near).toBeCloseTo(cellular(0, v, 6, 2).near, 9);
    }
  });

  it('is spread evenly: mean and spread of the hash are those of a uniform draw', () => {
    const n = 20_000;
    const values = Array.from({ length: n }, (_, i) => hash01(i % 173, Math.floor(i / 173), 5));
    const mean = values.reduce((sum, v) => sum + v, 0) / n;
    const variance = values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / n;
    // Four standard errors of 20,000 uniform draws.
    expect(Math.abs(mean - 0.5)).toBeLessThan(4 * Math.sqrt(1 / 12 / n));
    expect(Math.abs(variance - 1 / 12)).toBeLessThan(0.002);
  });

  it('differs from seed to seed, and orders its distances', () => {
    expect(fractal(0.3, 0.4, 4, 4, 4, 1)).not.toBe(fractal(0.3, 0.4, 4, 4, 4, 2));
    for (let i = 0; i < 200; i++) {
      const { near, second, id } = cellular(i / 200, (i * 7) / 200, 9, 4);
      expect(near).toBeLessThanOrEqual(second);
      expect(id).toBeGreaterThanOrEqual(0);
    }
  });
});
