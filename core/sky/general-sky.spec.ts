import { describe, expect, it } from 'vitest';
import { GENERAL_SKIES, generalSky, relativeLuminance, usualSkyLux } from './general-sky';
import { skyHorizontalLux } from './sky-map';

const DEG = Math.PI / 180;
const input = { trueAltitudeDeg: 40, azimuthDeg: 180, trueNorthDeg: 0 };
const chi = (zenith: number, azimuth: number, sunZenith: number) =>
  Math.acos(Math.cos(sunZenith) * Math.cos(zenith) + Math.sin(sunZenith) * Math.sin(zenith) * Math.cos(azimuth));

describe('the fifteen general skies', () => {
  it('are 1 in the zenith, whatever the sun', () => {
    for (let type = 1; type <= 15; type++)
      for (const sun of [10, 45, 70]) expect(relativeLuminance(type, 0, sun * DEG, sun * DEG)).toBeCloseTo(1, 12);
  });

  it('of type 1 is the overcast sky of Moon and Spencer, (1 + 2 sin g) / 3, down to 30 degrees and at the horizon; type 5 is even', () => {
    for (const zenith of [0, 30, 60, 90]) {
      const moon = (1 + 2 * Math.cos(zenith * DEG)) / 3;
      expect(Math.abs(relativeLuminance(1, zenith * DEG, 1, 0.9) / moon - 1)).toBeLessThan(0.03);
      expect(relativeLuminance(5, zenith * DEG, 1, 0.9)).toBe(1);
    }
  });

  it('of the clear type 12 follows the older clear sky of the CIE (Kittler 1967, CIE 22): 0.91 + 10 exp(-3 chi) + 0.45 cos2 chi, by 1 - exp(-0.32 / cos Z)', () => {
    const kittler = (z: number, x: number) =>
      (0.91 + 10 * Math.exp(-3 * x) + 0.45 * Math.cos(x) ** 2) * (1 - Math.exp(-0.32 / Math.cos(z)));
    for (const sun of [30, 60])
      for (const [zenith, azimuth] of [[20, 0], [60, 90], [75, 180]] as const) {
        const x = chi(zenith * DEG, azimuth * DEG, sun * DEG);
        const expected = kittler(zenith * DEG, x) / kittler(0, sun * DEG);
        expect(Math.abs(relativeLuminance(12, zenith * DEG, x, sun * DEG) / expected - 1)).toBeLessThan(0.01);
      } // prettier-ignore
  });

  it('give the level illuminance of the IES daylight availability, or the one that is set', () => {
    for (let type = 1; type <= 15; type++) {
      expect(Math.abs(skyHorizontalLux(generalSky({ ...input, general: { type } })) / usualSkyLux(type, 40) - 1)).toBeLessThan(0.001);
      expect(Math.abs(skyHorizontalLux(generalSky({ ...input, general: { type, lux: 8000 } })) / 8000 - 1)).toBeLessThan(0.001);
    }
    // Overcast, the sun at 30 degrees: 0.3 + 21 / 2 klx.
    expect(usualSkyLux(1, 30)).toBeCloseTo(10_800, 6);
  });

  it('hide the sun where they are overcast, weaken it by clouds, and are as dark as any other at night', () => {
    const normal = (type: number) => generalSky({ ...input, general: { type } }).sun.normalLux[1];
    expect([1, 2, 3, 4, 5, 6, 9].map(normal)).toEqual([0, 0, 0, 0, 0, 0, 0]);
    expect(normal(8)).toBeGreaterThan(10_000);
    expect(normal(12)).toBeGreaterThan(2 * normal(8));
    const night = generalSky({ ...input, trueAltitudeDeg: -20, general: { type: 3 } });
    expect(skyHorizontalLux(night)).toBeGreaterThan(0);
    expect(skyHorizontalLux(night)).toBeLessThan(0.002);
    expect(GENERAL_SKIES).toHaveLength(15);
  });
});
