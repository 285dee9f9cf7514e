import { describe, expect, it } from 'vitest';
import { automaticEv } from './exposure';
import { SCREEN_WHITE } from './white-balance';
import { decodeSrgb, develop, encodeSrgb, evOfCamera, evOfLuminance, exposureScale, toneCurve } from './tone';

describe('exposure', () => {
  it('counts EV as log2(N^2 / t), so "sunny 16" is EV 15 (common practice, no source)', () => {
    expect(evOfCamera(16, 1 / 125)).toBeCloseTo(14.97, 2);
    expect(evOfCamera(16, 1 / 125, 200)).toBeCloseTo(13.97, 2);
    expect(evOfLuminance(2 ** 12 * 0.125)).toBeCloseTo(12, 6);
    // A sunlit grey card under 100 klx: 0.18 x 100000 / pi.
    expect(evOfLuminance((0.18 * 100_000) / Math.PI)).toBeCloseTo(15.5, 1);
  });

  it('brings what a meter reads to middle grey', () => {
    expect(exposureScale(10) * 0.125 * 1024).toBeCloseTo(0.18, 9);
  });

  it('neither burns out nor blackens a picture, by day, at dusk and by lamplight', () => {
    const picture = (low: number, high: number) =>
      Float32Array.from({ length: 4000 }, (_, i) => (i % 4 === 3 ? 1 : low * (high / low) ** ((i >> 2) / 1000)));
    for (const [low, high] of [
      [800, 30_000],
      [20, 900],
      [0.2, 300],
      [5, 200_000],
    ] as const) {
      const radiance = picture(low, high);
      const out = new Uint8ClampedArray(4000);
      develop(radiance, 50, { ev100: automaticEv(radiance), white: SCREEN_WHITE }, out);
      const green = out.filter((_, i) => i % 4 === 1);
      const share = (test: (v: number) => boolean) => green.filter(test).length / green.length;
      expect(share((v) => v > 253)).toBeLessThan(0.12);
      expect(share((v) => v < 3)).toBeLessThan(0.35);
    }
  });

  it('lets night be darker than day', () => {
    const flat = (cd: number) => Float32Array.from({ length: 400 }, (_, i) => (i % 4 === 3 ? 1 : cd));
    const shown = (cd: number) => cd * exposureScale(automaticEv(flat(cd)));
    expect(shown(0.01)).toBeLessThan(shown(3000));
  });
});

describe('colour', () => {
  it('follows IEC 61966-2-1 both ways', () => {
    expect(encodeSrgb(0.18)).toBeCloseTo(0.4613, 3);
    expect(encodeSrgb(0.0031308)).toBeCloseTo(0.04045, 4);
    for (const x of [0, 0.001, 0.2, 0.5, 1]) expect(decodeSrgb(encodeSrgb(x))).toBeCloseTo(x, 6);
  });

  it('keeps colours below the knee, order above it, and white in reach', () => {
    const tone = (r: number, g: number, b: number) => {
      const rgb: [number, number, number] = [r, g, b];
      toneCurve(rgb);
      return rgb;
    };
    expect(tone(0.5, 0.2, 0.1)).toEqual([0.5, 0.2, 0.1]);
    let last = 0;
    for (let x = 0.1; x < 50; x *= 1.3) {
      const [v] = tone(x, x, x);
      expect(v).toBeGreaterThan(last);
      expect(v).toBeLessThan(1);
      last = v;
    }
    const [r, g, b] = tone(3, 1, 0.5);
    expect(r > g && g > b).toBe(true);
  });
});
