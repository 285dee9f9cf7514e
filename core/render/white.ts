import { adaptationDegree, chromaticity, settingOf, whiteOf, type WhiteBalance } from '../image/white-balance';
import { PIXEL_ALBEDO, PIXEL_GUIDES, PIXEL_NORMAL, PIXEL_SIZE } from '../kernel/assembly/layout';

const WORDS = PIXEL_SIZE / 4;
const LEAST_ALBEDO = 0.04;
const MOST_LOOKED_AT = 20_000;
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
  const seen: [number, number, number][] = [];
  for (let p = 0; p < pixels; p += stride) {
    const q = p * WORDS;
    const guides = film[q + PIXEL_GUIDES / 4]!;
    if (!(guides > 0) || (!film[q + PIXEL_NORMAL / 4] && !film[q + PIXEL_NORMAL / 4 + 1] && !film[q + PIXEL_NORMAL / 4 + 2])) continue;
    seen.push([0, 1, 2].map((c) => (Math.PI * radiance[p * 4 + c]!) / Math.max(LEAST_ALBEDO, film[q + PIXEL_ALBEDO / 4 + c]! / guides)) as [number, number, number]); // prettier-ignore
  }
  const lux = ([r, g, b]: readonly number[]) => 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
  const ordered = seen.map(lux).sort((a, b) => a - b);
  const bright = ordered[Math.floor(ordered.length * 0.9)] ?? 0;
  const sum: [number, number, number] = [0, 0, 0];
  let illuminance = 0;
  for (const light of seen) {
    const e = lux(light);
    if (!(e > 0)) continue;
    // Each counts by the root of its light; lamps and glints, which shine by themselves, no more than what is well lit.
    const weight = Math.sqrt(Math.min(e, bright)) / e;
    for (let c = 0; c < 3; c++) sum[c] = sum[c]! + light[c]! * weight;
    illuminance += Math.min(e, bright);
  }
  const { kelvin, tint } = settingOf(...chromaticity(sum));
  const white = whiteOf({
    kelvin: Math.min(COOLEST, Math.max(WARMEST, kelvin)),
    tint: Math.min(FURTHEST_TINT, Math.max(-FURTHEST_TINT, tint)),
  });
  return { ...white, degree: adaptationDegree((SURROUND * illuminance) / Math.max(1, seen.length) / Math.PI) };
}
