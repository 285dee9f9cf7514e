import { describe, expect, it } from 'vitest';
import { findCities } from './cities';
import { clearSky, skyHorizontalLux } from './sky-map';

const luminance = (rgb: readonly number[]) => 0.2126 * rgb[0]! + 0.7152 * rgb[1]! + 0.0722 * rgb[2]!;
const sky = (altitude: number) => clearSky({ trueAltitudeDeg: altitude, azimuthDeg: 180, trueNorthDeg: 0, width: 128 });

describe('the clear sky', () => {
  it('gives the direct light of the IES daylight availability, E = 127.5 klx exp(-0.21 m) (from memory), within an eighth from 20 degrees up', () => {
    for (const altitude of [20, 30, 40, 60]) {
      const m = 1 / Math.sin((altitude * Math.PI) / 180);
      expect(Math.abs(luminance(sky(altitude).sun.normalLux) / (127_500 * Math.exp(-0.21 * m)) - 1)).toBeLessThan(0.125);
    }
  });

  it('gives the sky light of the same source, 0.8 + 15.5 sin^0.5 klx, within an eighth from 10 degrees up', () => {
    for (const altitude of [10, 20, 40, 60]) {
      const expected = 800 + 15_500 * Math.sqrt(Math.sin((altitude * Math.PI) / 180));
      expect(Math.abs(skyHorizontalLux(sky(altitude)) / expected - 1)).toBeLessThan(0.125);
    }
  });

  it('brings about 100 klx to level ground at a high summer noon (common practice, no source)', () => {
    const s = sky(62);
    expect(luminance(s.sun.normalLux) * s.sun.direction[2] + skyHorizontalLux(s)).toBeGreaterThan(90_000);
    expect(luminance(s.sun.normalLux) * s.sun.direction[2] + skyHorizontalLux(s)).toBeLessThan(120_000);
  });

  it('is blue overhead, and darkens evenly through twilight to a starlit night', () => {
    const zenith = sky(40).radiance;
    expect(zenith[2]!).toBeGreaterThan(zenith[0]! * 1.5);
    const course = [5, 0, -3, -6, -9, -12, -15, -18].map((a) => skyHorizontalLux(sky(a)));
    for (let i = 1; i < course.length; i++) expect(course[i]!).toBeLessThan(course[i - 1]!);
    // Civil twilight ends at some lux; a moonless night has under 0.002 lx (common values, from memory).
    expect(course[3]!).toBeGreaterThan(1);
    expect(course[3]!).toBeLessThan(40);
    expect(course.at(-1)!).toBeLessThan(0.002);
  });

  it('is brightest about the sun and turns with it', () => {
    const s = clearSky({ trueAltitudeDeg: 30, azimuthDeg: 90, trueNorthDeg: 0, width: 64 });
    const row = Math.floor((60 / 180) * s.height);
    const values = Array.from({ length: s.width }, (_, x) => s.radiance[(row * s.width + x) * 3 + 1]!);
    expect(values.indexOf(Math.max(...values)) / s.width).toBeCloseTo(0.25, 1);
  });
});

describe('cities', () => {
  it('are found without their accents, beginnings first', () => {
    expect(findCities('reyk')[0]?.name).toBe('Reykjavík');
    expect(findCities('zur')[0]?.name).toBe('Zürich');
    expect(findCities('')).toEqual([]);
  });
});

describe('the sky of a moving picture', () => {
  it('has the light of the fine one, to a few per cent', () => {
    for (const trueAltitudeDeg of [-4, 3, 25, 60]) {
      const input = { trueAltitudeDeg, azimuthDeg: 200, trueNorthDeg: 10 };
      const [fine, coarse] = [clearSky(input), clearSky({ ...input, coarse: true })];
      expect(Math.abs(skyHorizontalLux(coarse) / skyHorizontalLux(fine) - 1)).toBeLessThan(0.05);
      expect(coarse.sun).toEqual(fine.sun);
    }
  });
});
