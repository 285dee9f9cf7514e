import { describe, expect, it } from 'vitest';
import { Atmosphere, EXTRATERRESTRIAL_LUX, refractionDeg } from './atmosphere';

const luminance = (rgb: readonly number[]) => 0.2126 * rgb[0]! + 0.7152 * rgb[1]! + 0.0722 * rgb[2]!;
const rad = (degrees: number) => (degrees * Math.PI) / 180;

describe('refraction', () => {
  it('is Bennett’s: about 34 minutes of arc at the horizon, 5.3 at 10 degrees, 1 at 45 (Meeus, chapter 16; from memory)', () => {
    // Saemundsson's form takes true altitudes; an apparent horizon is a true altitude of -0.57 degrees.
    expect(refractionDeg(-0.57) * 60).toBeGreaterThan(30);
    expect(refractionDeg(-0.57) * 60).toBeLessThan(37);
    expect(refractionDeg(10) * 60).toBeCloseTo(5.3, 0);
    expect(refractionDeg(45) * 60).toBeCloseTo(1, 1);
    expect(Math.abs(refractionDeg(90) * 60)).toBeLessThan(0.01);
  });
});

describe('the atmosphere', () => {
  const day = new Atmosphere();

  it('takes from the sun by Rayleigh’s law: blue the most, with optical depths of 0.071, 0.109 and 0.214 at the zenith without haze', () => {
    // 13.558e-3 per km at 550 nm (Hillaire 2020), by the fourth power at 611, 549 and 464 nm, over 8 km; ozone adds a little.
    const clean = new Atmosphere(0).sunTransmittance(6360.01, 1);
    const depths = clean.map((t) => -Math.log(t));
    const rayleigh = [611, 549, 464].map((nm) => 13.558e-3 * (550 / nm) ** 4 * 8);
    depths.forEach((depth, c) => {
      expect(depth).toBeGreaterThan(rayleigh[c]! * 0.98);
      expect(depth - rayleigh[c]!).toBeLessThan(0.04);
    });
  });

  it('lets less through the lower the sun stands, and none from below the horizon', () => {
    let last = Infinity;
    for (const altitude of [80, 60, 40, 20, 10, 5, 2, 0.3]) {
      const lux = luminance(day.directNormalLux(altitude));
      expect(lux).toBeLessThan(last);
      expect(lux).toBeLessThan(EXTRATERRESTRIAL_LUX);
      last = lux;
    }
    expect(day.directNormalLux(-1.5)).toEqual([0, 0, 0]);
    expect(day.sunTransmittance(6360.01, -0.2)).toEqual([0, 0, 0]);
  });

  it('reddens the setting sun', () => {
    const [r, , b] = day.directNormalLux(2);
    const [noonR, , noonB] = day.directNormalLux(60);
    expect(b / r).toBeLessThan((noonB / noonR) * 0.35);
  });

  it('is the same on both sides of the sun, brightest about it, and bright along the horizon', () => {
    const sky = (elevation: number, azimuth: number) => luminance(day.skyRadiance(rad(elevation), rad(azimuth), rad(35)));
    expect(sky(40, 50)).toBeCloseTo(sky(40, -50), 3);
    expect(sky(35, 8)).toBeGreaterThan(4 * sky(60, 120));
    // The darkest part lies about a right angle from the sun, above the horizon's band (CIE clear sky: the same pattern).
    expect(sky(8, 180)).toBeGreaterThan(sky(55, 180));
  });
});
