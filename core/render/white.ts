import { adaptationDegree, chromaticity, settingOf, whiteOf, type WhiteBalance } from '../image/white-balance';
import { PIXEL_ALBEDO, PIXEL_FEATURES, PIXEL_NORMAL, PIXEL_SIZE } from '../kernel/assembly/layout';

const WORDS = PIXEL_SIZE / 4;
const LEAST_ALBEDO = 0.04;
const MOST_LOOKED_AT = 8000;
/** Cameras find white by themselves between these, kelvin, and so near to glowing and day light (common practice, no source). */
const [WARMEST, COOLEST, FURTHEST_TINT] = [2500, 7000, 8];
/** What surrounds a scene counts as a grey of this reflectance (CIECAM02). */
const SURROUND = 0.2;

/**
 * White by the light that falls on what is seen: light from each surface over the surface's own colour, averaged as the grey-world
 * rule does with what is seen itself (Buchsbaum 1980), the brighter the more (Finlayson & Trezzi 2004), and adapted to as far as
 * eyes adapt at that light (CIECAM02). `radiance` is the film's, f32x4 a pixel; the sky and what glows by itself count nothing.
 */
export function automaticWhite(radiance: Float32Array, film: Float32Array): WhiteBalance {
  const pixels = radiance.length / 4;
  const stride = Math.max(1, Math.floor(pixels / MOST_LOOKED_AT));
  const most = Math.ceil(pixels / stride);
  const [light, lux] = [new Float64Array(most * 3), new Float64Array(most)];
  let seen = 0;
  for (let p = 0; p < pixels; p += stride) {
    const q = p * WORDS;
    const features = film[q + PIXEL_FEATURES / 4]!;
    const n = q + PIXEL_NORMAL / 4;
    if (!(features > 0) || (!film[n] && !film[n + 1] && !film[n + 2])) continue;
    for (let c = 0; c < 3; c++)
      light[seen * 3 + c] = (Math.PI * radiance[p * 4 + c]!) / Math.max(LEAST_ALBEDO, film[q + PIXEL_ALBEDO / 4 + c]! / features);
    lux[seen] = 0.2126 * light[seen * 3]! + 0.7152 * light[seen * 3 + 1]! + 0.0722 * light[seen * 3 + 2]!;
    seen++;
  }
  const bright = lux.slice(0, seen).sort()[Math.floor(seen * 0.9)] ?? 0;
  const sum: [number, number, number] = [0, 0, 0];
  let illuminance = 0;
  for (let i = 0; i < seen; i++) {
    const e = lux[i]!;
    if (!(e > 0)) continue;
    // Each counts by the root of its light; lamps and glints, which shine by themselves, no more than what is well lit.
    const weight = Math.sqrt(Math.min(e, bright)) / e;
    for (let c = 0; c < 3; c++) sum[c] = sum[c]! + light[i * 3 + c]! * weight;
    illuminance += Math.min(e, bright);
  }
  const { kelvin, tint } = settingOf(...chromaticity(sum));
  const white = whiteOf({
    kelvin: Math.min(COOLEST, Math.max(WARMEST, kelvin)),
    tint: Math.min(FURTHEST_TINT, Math.max(-FURTHEST_TINT, tint)),
  });
  return { ...white, degree: adaptationDegree((SURROUND * illuminance) / Math.max(1, seen) / Math.PI) };
}
