import { describe, expect, it } from 'vitest';
import { hazeOf, USUAL_TURBIDITY } from './atmosphere';
import { extinctionOf } from './fog';
import { moonLux } from './moon';
import { skyOf } from './sky';
import { clearSky, skyHorizontalLux, type SkyInput, type Weather } from './sky-map';

const at = (trueAltitudeDeg: number, weather?: Weather): SkyInput => ({
  trueAltitudeDeg,
  azimuthDeg: 180,
  trueNorthDeg: 0,
  weather,
  coarse: true,
});
const luminance = ([r, g, b]: readonly number[] | Float32Array) => 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;

describe('turbidity', () => {
  it('is 1 for air alone, and what the clear day has where none is set', () => {
    expect(hazeOf(1)).toBe(0);
    expect(hazeOf(USUAL_TURBIDITY)).toBeCloseTo(16, 9);
  });

  it('takes from the sun by the optical depth that it stands for (Beer-Lambert; air alone 0.109 upwards at 549 nm)', () => {
    const sun = (turbidity: number) => clearSky(at(90, { turbidity })).sun.normalLux[1];
    for (const [from, to] of [[2, 4], [3, 8]] as const) expect(Math.abs(Math.log(sun(from) / sun(to)) / ((to - from) * 0.10926) - 1)).toBeLessThan(0.03); // prettier-ignore
  });

  it('gives the sky what it takes from the sun, and whitens it', () => {
    const [clean, hazy] = [2, 7].map((turbidity) => clearSky(at(45, { turbidity })));
    expect(skyHorizontalLux(hazy!)).toBeGreaterThan(1.3 * skyHorizontalLux(clean!));
    const blueness = ({ radiance, width, height }: typeof clean & object) => {
      const o = (Math.floor(height * 0.1) * width + Math.floor(width * 0.02)) * 3;
      return radiance[o + 2]! / radiance[o]!;
    };
    expect(blueness(hazy!)).toBeLessThan(0.75 * blueness(clean!));
  });

  it('has more light with a light ground below it', () => {
    expect(skyHorizontalLux(clearSky(at(45, { groundAlbedo: 0.8 })))).toBeGreaterThan(
      1.05 * skyHorizontalLux(clearSky(at(45, { groundAlbedo: 0.1 }))),
    );
  });
});

describe('clouds', () => {
  const clouds = (cover: number, seed = 3) => ({ clouds: { cover, heightM: 1500, seed, windMs: 10 } });

  it('cover the share that is asked for, and repeat without a seam', () => {
    for (const cover of [0.2, 0.5, 0.8]) {
      const { through, size } = skyOf(at(50, clouds(cover))).clouds!;
      expect(Math.abs(through.filter((t) => t < 1).length / through.length - cover)).toBeLessThan(0.01);
      let [within, across] = [0, 0];
      for (let y = 0; y < size; y++) {
        within = Math.max(within, Math.abs(through[y * size + 100]! - through[y * size + 101]!));
        across = Math.max(across, Math.abs(through[y * size]! - through[y * size + size - 1]!));
      }
      expect(across).toBeLessThan(Math.max(0.3, 2 * within));
    }
  });

  it('are others by another seed, the same by the same, and drift with the wind', () => {
    const [a, again, other] = [3, 3, 4].map((seed) => skyOf(at(50, clouds(0.5, seed))));
    expect(a!.radiance).toEqual(again!.radiance);
    expect(a!.radiance).not.toEqual(other!.radiance);
    const [now, later, back] = [0, 60, 0].map((timeS) => skyOf({ ...at(50, clouds(0.5)), timeS }));
    expect(later!.clouds!.driftM).toEqual([600, 0]);
    expect(later!.radiance).not.toEqual(now!.radiance);
    expect(back!.radiance).toEqual(now!.radiance);
  });

  it('are brighter than the blue behind them by day', () => {
    const [clear, cloudy] = [skyOf({ ...at(50), width: 256 }), skyOf(at(50, clouds(0.5)))];
    let [brighter, changed] = [0, 0];
    for (let i = 0; i < (cloudy.width * cloudy.height * 3) / 4; i += 3) {
      const [now, before] = [luminance(cloudy.radiance.subarray(i, i + 3)), luminance(clear.radiance.subarray(i, i + 3))];
      if (Math.abs(now / before - 1) < 0.02) continue;
      changed++;
      if (now > before) brighter++;
    }
    expect(brighter / changed).toBeGreaterThan(0.7);
  });
});

describe('fog', () => {
  it('has the extinction that Koschmieder’s 2 % give, 3.912 over the visibility', () => {
    expect(extinctionOf(1000)).toBeCloseTo(3.912e-3, 6);
    expect(skyOf(at(30, { fog: { visibilityM: 500, heightM: 40, colour: [1, 1, 1] } })).fog).toMatchObject({ falloff: 1 / 40 });
  });
});

describe('the moon', () => {
  it('gives a third of a lux when it is full, and a tenth of that at the quarter (common values, from memory)', () => {
    expect(moonLux(1)).toBeGreaterThan(0.25);
    expect(moonLux(1)).toBeLessThan(0.36);
    expect(moonLux(0.5) / moonLux(1)).toBeGreaterThan(0.06);
    expect(moonLux(0.5) / moonLux(1)).toBeLessThan(0.12);
  });

  it('lights the night where the sun does not, and the sky about it, in place of the sun', () => {
    const night = (moon?: SkyInput['moon']) => skyOf({ ...at(-30), moon });
    const full = night({ trueAltitudeDeg: 40, azimuthDeg: 150, litShare: 1 });
    expect(luminance(full.sun.normalLux)).toBeGreaterThan(0.12);
    expect(luminance(full.sun.normalLux)).toBeLessThan(0.3);
    expect(skyHorizontalLux(full)).toBeGreaterThan(10 * skyHorizontalLux(night()));
    expect(full.stars).toBe(true);
    expect(full.sun.litFrom).toBeDefined();
    expect(skyOf({ ...at(20), moon: { trueAltitudeDeg: 40, azimuthDeg: 150, litShare: 1 } }).sun.litFrom).toBeUndefined();
    expect(luminance(night({ trueAltitudeDeg: -10, azimuthDeg: 150, litShare: 1 }).sun.normalLux)).toBe(0);
  });
});
