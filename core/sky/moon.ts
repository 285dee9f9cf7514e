import { EXTRATERRESTRIAL_LUX, refractionDeg, type Rgb } from './atmosphere';
import { clearSky, NIGHT, sunDisc, type Sky, type SkyInput } from './sky-map';
import { directionOf } from './sun';

/** The moon lights what the sun does not: once the sun is so low. */
const SUN_BELOW_DEG = -4;
/** Angular radius of its disc (mean: 0.518 degrees across). */
const RADIUS_RAD = (0.518 / 2) * (Math.PI / 180);
/** Light of a star of magnitude 0, lx, outside the air. */
const MAGNITUDE_0_LUX = 2.54e-6;

/** Illuminance outside the air, lx, for the share of the disc that is lit; magnitude by the angle of phase (Allen, Astrophysical Quantities; from memory). */
export function moonLux(litShare: number): number {
  const phaseDeg = (Math.acos(Math.min(1, Math.max(-1, 2 * litShare - 1))) * 180) / Math.PI;
  const magnitude = -12.73 + 0.026 * phaseDeg + 4e-9 * phaseDeg ** 4;
  return MAGNITUDE_0_LUX * 10 ** (-0.4 * magnitude);
}

/** At night the disc that lights is the moon's; the sky about it is that of a day, as much darker as its light is. */
export function withMoon(sky: Sky, input: SkyInput): Sky {
  const { moon, trueAltitudeDeg, azimuthDeg, trueNorthDeg } = input;
  if (!moon || trueAltitudeDeg > SUN_BELOW_DEG || moon.trueAltitudeDeg < 0.5) return sky;
  const share = moonLux(moon.litShare) / EXTRATERRESTRIAL_LUX;
  const { radiance, sun } = clearSky({ ...input, trueAltitudeDeg: moon.trueAltitudeDeg, azimuthDeg: moon.azimuthDeg, width: sky.width });
  const lit = sky.radiance.map((value, i) => value + Math.max(0, radiance[i]! - NIGHT[i % 3]!) * share);
  const direction = directionOf(moon.trueAltitudeDeg + refractionDeg(moon.trueAltitudeDeg), moon.azimuthDeg, trueNorthDeg);
  return {
    ...sky,
    radiance: lit,
    sun: {
      ...sunDisc(direction, sun.normalLux.map((e) => e * share) as Rgb, RADIUS_RAD),
      litFrom: directionOf(trueAltitudeDeg, azimuthDeg, trueNorthDeg),
    },
  };
}
