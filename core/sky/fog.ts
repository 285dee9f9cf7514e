import type { Rgb } from './atmosphere';
import type { Sky } from './sky-map';

/** Haze and fog as a person sets them. */
export interface Fog {
  /** Metres at which dark things are lost against the sky, at the height of the lowest ground. */
  visibilityM: number;
  /** Metres up in which it thins to a third (1/e). */
  heightM: number;
  /** sRGB, 0 to 1: what it scatters of each colour. */
  colour: [number, number, number];
}

/** As light meets it. */
export interface FogInSky {
  /** At the lowest ground, 1/m; and by how much it thins a metre up, 1/m. */
  extinction: number;
  falloff: number;
  /** Linear Rec.709: what is scattered of each colour. */
  albedo: Rgb;
  /** Mean radiance of all but the sun about it, cd/m2. */
  glow: Rgb;
}

/** Extinction for a visibility by Koschmieder 1924: contrast falls to 2 %. */
export const extinctionOf = (visibilityM: number): number => -Math.log(0.02) / visibilityM;

export function fogInSky({ visibilityM, heightM, colour }: Fog, sky: Sky): FogInSky {
  const decode = (c: number) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
  return {
    extinction: extinctionOf(visibilityM),
    falloff: 1 / heightM,
    albedo: colour.map((c) => Math.min(0.999, decode(c))) as Rgb,
    glow: meanRadiance(sky),
  };
}

/** Over all directions; the ground counts as the map has it. */
function meanRadiance({ width, height, radiance }: Sky): Rgb {
  const sum: Rgb = [0, 0, 0];
  for (let y = 0; y < height; y++) {
    const weight = (Math.cos((y * Math.PI) / height) - Math.cos(((y + 1) * Math.PI) / height)) / 2 / width;
    for (let x = 0; x < width; x++) for (let c = 0; c < 3; c++) sum[c] = sum[c]! + radiance[(y * width + x) * 3 + c]! * weight;
  }
  return sum;
}
