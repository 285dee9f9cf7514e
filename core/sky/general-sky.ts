import { lampColour } from '../image/colour-temperature';
import { refractionDeg, type Rgb } from './atmosphere';
import { farGround, NIGHT, skyHorizontalLux, sunDisc, type Sky, type SkyInput } from './sky-map';
import { directionOf } from './sun';

/** The fifteen standard general skies of the CIE (ISO 15469:2004 / CIE S 011; parameters from memory). */

interface GeneralSkyType {
  name: string;
  /** Gradation from zenith to horizon: 1 + a exp(b / cos Z). */
  a: number;
  b: number;
  /** Scattering about the sun: 1 + c (exp(d chi) - exp(d pi / 2)) + e cos2 chi. */
  c: number;
  d: number;
  e: number;
  cover: 'overcast' | 'partly' | 'clear';
}

const type = (name: string, cover: GeneralSkyType['cover'], a: number, b: number, c: number, d: number, e: number): GeneralSkyType => ({ name, cover, a, b, c, d, e }); // prettier-ignore
export const GENERAL_SKIES: readonly GeneralSkyType[] = [
  type('Overcast, darker to the horizon', 'overcast', 4, -0.7, 0, -1, 0),
  type('Overcast, darker to the horizon, lighter to the sun', 'overcast', 4, -0.7, 2, -1.5, 0.15),
  type('Overcast, a little darker to the horizon', 'overcast', 1.1, -0.8, 0, -1, 0),
  type('Overcast, a little darker to the horizon, lighter to the sun', 'overcast', 1.1, -0.8, 2, -1.5, 0.15),
  type('Overcast, even', 'overcast', 0, -1, 0, -1, 0),
  type('Partly cloudy, even, lighter to the sun', 'partly', 0, -1, 2, -1.5, 0.15),
  type('Partly cloudy, even, bright about the sun', 'partly', 0, -1, 5, -2.5, 0.3),
  type('Partly cloudy, even, with a corona', 'partly', 0, -1, 10, -3, 0.45),
  type('Partly cloudy, sun hidden', 'partly', -1, -0.55, 2, -1.5, 0.15),
  type('Partly cloudy, bright about the sun', 'partly', -1, -0.55, 5, -2.5, 0.3),
  type('White-blue, with a clear corona', 'clear', -1, -0.55, 10, -3, 0.45),
  type('Clear, clean air', 'clear', -1, -0.32, 10, -3, 0.45),
  type('Clear, polluted air', 'clear', -1, -0.32, 16, -3, 0.3),
  type('Cloudless, hazy, with a broad corona', 'clear', -1, -0.15, 16, -3, 0.3),
  type('White-blue, hazy, with a broad corona', 'clear', -1, -0.15, 24, -2.8, 0.15),
];

/** Colour temperature of a kind of sky, K: common practice, no source. */
const KELVIN = { overcast: 6500, partly: 8000, clear: 12_000 } as const;
const DEG = Math.PI / 180;

/** Luminance against that of the zenith, for a place `zenithRad` from the zenith and `chiRad` from the sun. */
export function relativeLuminance(number: number, zenithRad: number, chiRad: number, sunZenithRad: number): number {
  const { a, b, c, d, e } = GENERAL_SKIES[number - 1]!;
  const gradation = (z: number) => (Math.cos(z) > 1e-4 ? 1 + a * Math.exp(b / Math.cos(z)) : 1);
  const scattering = (chi: number) => 1 + c * (Math.exp(d * chi) - Math.exp((d * Math.PI) / 2)) + e * Math.cos(chi) ** 2;
  return (scattering(chiRad) * gradation(zenithRad)) / (scattering(sunZenithRad) * gradation(0));
}

/** Level illuminance of the sky alone, lux, by the IES daylight availability (from memory): A + B sin^C of the sun's altitude. */
export function usualSkyLux(number: number, altitudeDeg: number): number {
  const sine = Math.sin(Math.max(0, altitudeDeg) * DEG);
  const { cover } = GENERAL_SKIES[number - 1]!;
  if (sine === 0) return 0;
  return 1000 * (cover === 'overcast' ? 0.3 + 21 * sine : cover === 'partly' ? 0.3 + 45 * sine : 0.8 + 15.5 * Math.sqrt(sine));
}

/** Of the sun square to its rays, lux: 127.5 klx exp(-c m), with c of the same source; hidden by an overcast sky, and by type 9. */
function sunLux(number: number, altitudeDeg: number): number {
  const { cover } = GENERAL_SKIES[number - 1]!;
  if (cover === 'overcast' || number === 6 || number === 9 || altitudeDeg <= 0) return 0;
  return 127_500 * Math.exp(-(cover === 'partly' ? 0.8 : 0.21) / Math.sin(altitudeDeg * DEG));
}

/** `lux`: level illuminance of the sky, where it is set by hand. */
export function generalSky({
  trueAltitudeDeg,
  azimuthDeg,
  trueNorthDeg,
  general,
  coarse = false,
  width = coarse ? 128 : 256,
}: SkyInput): Sky {
  const { type: number, lux } = general!;
  const height = width / 2;
  const altitudeDeg = trueAltitudeDeg + refractionDeg(trueAltitudeDeg);
  const sun = directionOf(altitudeDeg, azimuthDeg, trueNorthDeg);
  // Below the horizon the formula has no sun; what twilight is left lies about where it set.
  const sunZenith = Math.acos(Math.max(0, Math.min(1, sun[2])));
  const radiance = new Float32Array(width * height * 3);
  const white = lampColour(KELVIN[GENERAL_SKIES[number - 1]!.cover]);
  for (let y = 0; y < height; y++) {
    const elevation = (0.5 - (y + 0.5) / height) * Math.PI;
    const below = farGround(elevation);
    const above = Math.max(0, elevation);
    for (let x = 0; x < width; x++) {
      const bearing = ((x + 0.5) / width) * 2 * Math.PI;
      const cos = Math.cos(above) * (Math.sin(bearing) * sun[0] + Math.cos(bearing) * sun[1]) + Math.sin(above) * sun[2];
      const share = relativeLuminance(number, Math.PI / 2 - above, Math.acos(Math.max(-1, Math.min(1, cos))), sunZenith) * below;
      for (let k = 0; k < 3; k++) radiance[(y * width + x) * 3 + k] = share * white[k]!;
    }
  }
  const sunIsUp = sunLux(number, trueAltitudeDeg);
  const normalLux = lampColour(5500).map((c) => c * sunIsUp) as Rgb;
  const sky: Sky = { width, height, radiance, sun: sunDisc(sun, normalLux) };
  const scale = (lux ?? usualSkyLux(number, trueAltitudeDeg)) / skyHorizontalLux(sky);
  for (let i = 0; i < radiance.length; i++) radiance[i] = radiance[i]! * scale + NIGHT[i % 3]!;
  return sky;
}
