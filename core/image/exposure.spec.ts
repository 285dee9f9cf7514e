import { describe, expect, it } from 'vitest';
import { automaticEv, evenlyRound, meteredEv } from './exposure';
import { evOfLuminance, exposureScale } from './tone';

const even = (cdM2: number, count = 500) => Float32Array.from({ length: count * 4 }, (_, i) => (i % 4 === 3 ? 1 : cdM2));

describe('a picture all round', () => {
  it('is metered by directions, not by the pixels that crowd at its poles', () => {
    // Ten degrees about the zenith are bright: a ninth of the rows, 0.8 % of all directions.
    const [width, height] = [180, 90];
    const picture = new Float32Array(width * height * 4).fill(1);
    for (let i = 0; i < picture.length; i++) if (i % 4 < 3) picture[i] = i < width * 4 * 5 ? 1e6 : 100;
    const even = evenlyRound(picture, width);
    const bright = even.filter((value) => value === 1e6).length / 3;
    expect(bright / (even.length / 4)).toBeCloseTo((1 - Math.cos((10 * Math.PI) / 180)) / 2, 3);
    const pair = evenlyRound(Float32Array.from([...picture, ...picture]), width, 2);
    expect(pair.length).toBe(2 * even.length);
    expect(evenlyRound(new Float32Array(2048 * 1024 * 4), 2048).length / 4).toBeLessThan(100_000);
  });
});

describe('automatic exposure', () => {
  it('opens one stop for each halving by day', () => {
    expect(automaticEv(even(8000)) - automaticEv(even(4000))).toBeCloseTo(1, 5);
  });

  it('brings an even sunlit scene to the middle of the scale', () => {
    const shown = 4000 * exposureScale(automaticEv(even(4000)));
    expect(shown).toBeGreaterThan(0.1);
    expect(shown).toBeLessThan(0.3);
  });

  it('stays within what eyes and cameras meet, whatever the picture holds', () => {
    for (const cdM2 of [0, 1e-9, 1e-3, 1, 1e4, 1e9, 1e30]) {
      const ev = automaticEv(even(cdM2));
      expect(ev).toBeGreaterThanOrEqual(-7);
      expect(ev).toBeLessThanOrEqual(17);
    }
    expect(automaticEv(new Float32Array(0))).toBe(12);
    const broken = even(100);
    broken[0] = NaN;
    broken[5] = Infinity;
    expect(Number.isFinite(automaticEv(broken))).toBe(true);
  });

  it('gives way to highlights by two stops at most: a lit window in a dark room', () => {
    const room = (windowShare: number) => {
      const picture = even(20, 1000);
      for (let i = 0; i < 1000 * windowShare; i++) for (let c = 0; c < 3; c++) picture[i * 4 + c] = 20_000;
      return automaticEv(picture);
    };
    expect(room(0.1)).toBeGreaterThan(room(0) + 0.5);
    expect(room(0.1)).toBeLessThan(room(0) + 4);
  });

  it('exposes for what is lit at night, not for the sky about it', () => {
    const night = Float32Array.from({ length: 4000 }, (_, i) => (i % 4 === 3 ? 1 : i < 2200 ? 2e-4 : i < 3200 ? 0.5 : 50));
    const lit = 50 * exposureScale(automaticEv(night));
    expect(lit).toBeLessThan(6);
    expect(lit).toBeGreaterThan(1);
  });

  it('leaves out pixels that have not been drawn yet', () => {
    const half = even(1000, 100);
    for (let i = 0; i < 50; i++) half.set([0, 0, 0, 0], i * 4);
    expect(automaticEv(half)).toBeCloseTo(automaticEv(even(1000, 50)), 6);
  });
});

describe('metering', () => {
  const [width, height] = [64, 36];
  /** A bright middle in a dark frame, and one lamp in a corner. */
  const picture = Float32Array.from({ length: width * height * 4 }, (_, i) => {
    const [x, y] = [(i >> 2) % width, Math.floor((i >> 2) / width)];
    if (i % 4 === 3) return 1;
    if (x < 4 && y < 4) return 50_000;
    return Math.hypot((x - 32) / 16, (y - 18) / 9) < 1 ? 4000 : 40;
  });

  it('over the middle leaves out what is about it', () => {
    expect(meteredEv(picture, width, 'middle')).toBeCloseTo(automaticEv(even(4000)), 1);
    expect(meteredEv(picture, width, 'all')).toBeLessThan(meteredEv(picture, width, 'middle') - 1);
  });

  it('of a spot is what a reflected-light meter reads there (ISO 2720)', () => {
    expect(meteredEv(picture, width, { x: 0.5, y: 0.5 })).toBeCloseTo(evOfLuminance(4000), 6);
    expect(meteredEv(picture, width, { x: 0.9, y: 0.1 })).toBeCloseTo(evOfLuminance(40), 6);
    expect(Number.isFinite(meteredEv(picture, width, { x: 1, y: 1 }))).toBe(true);
  });

  it('for highlights codes next to nothing white', () => {
    const ev = meteredEv(picture, width, 'highlights');
    expect(50_000 * exposureScale(ev)).toBeLessThanOrEqual(1.001);
  });
});
