import { evOfLuminance, exposureScale } from './tone';

/** Stops by which the middle of a picture lies above a meter's grey: buildings are light. */
const BRIGHTER = 0.3;
/** Share of the picture that may lie above white before the exposure gives way. */
const HIGHLIGHT_SHARE = 0.97;
const HIGHLIGHT_LIMIT = 2.2;
/** What is so much darker than the highlights is black at any exposure, and says nothing of it: the sky over lit windows at night. */
const BLACK = 2 ** -11;
/** So many pixels tell how light a picture is. */
const MOST_LOOKED_AT = 8000;
const MOST_ROUND = 100_000;
const DARKEST_EV = -7;
const BRIGHTEST_EV = 17;

/** What of the picture its exposure is taken from: all of it, its middle, a place in it (parts of its width and height), or its highlights. */
export type Metering = 'all' | 'middle' | 'highlights' | { x: number; y: number };

/** Parts of the width and of the height that the middle has, and of the height that a place's circle has about it. */
const MIDDLE = 0.25;
const SPOT = 0.03;
/** Share of the picture that may be coded white where highlights are protected. */
const PROTECTED = 0.995;

/** EV100 as it is metered, from the radiance of a picture `width` pixels wide (f32x4 a pixel, cd/m2). */
export function meteredEv(radiance: Float32Array, width: number, metering: Metering): number {
  if (metering === 'all') return automaticEv(radiance);
  if (metering === 'highlights') return protectingEv(radiance);
  const height = radiance.length / 4 / width;
  if (metering === 'middle') return automaticEv(cut(radiance, width, height / 2, width / 2, MIDDLE * width, MIDDLE * height));
  const reach = Math.max(1, SPOT * height);
  const spot = cut(radiance, width, metering.y * height, metering.x * width, reach, reach);
  let sum = 0;
  for (let i = 0; i < spot.length; i += 4) sum += luminance(spot, i);
  const mean = sum / (spot.length / 4);
  return mean > 0 && Number.isFinite(mean) ? held(evOfLuminance(mean)) : automaticEv(radiance);
}

/**
 * Of pictures that go all round, one over the other, pixels that lie evenly over all directions: near the poles a row has as many more
 * of them than there are directions.
 */
export function evenlyRound(radiance: Float32Array, width: number, stacked = 1): Float32Array {
  const height = radiance.length / 4 / width;
  const rows = height / stacked;
  const out: number[] = [];
  // A large picture has more of them than tell anything.
  const step = Math.max(1, Math.floor(Math.sqrt((width * height) / MOST_ROUND)));
  for (let y = step >> 1; y < height; y += step) {
    const count = Math.max(1, Math.round((width / step) * Math.sin((((y % rows) + 0.5) / rows) * Math.PI)));
    for (let k = 0; k < count; k++) {
      const i = (y * width + Math.floor(((k + 0.5) * width) / count)) * 4;
      out.push(radiance[i]!, radiance[i + 1]!, radiance[i + 2]!, radiance[i + 3]!);
    }
  }
  return Float32Array.from(out);
}

/** The pixels of an ellipse. */
function cut(radiance: Float32Array, width: number, cy: number, cx: number, rx: number, ry: number): Float32Array {
  const height = radiance.length / 4 / width;
  const out: number[] = [];
  for (let y = Math.max(0, Math.floor(cy - ry)); y < Math.min(height, cy + ry); y++)
    for (let x = Math.max(0, Math.floor(cx - rx)); x < Math.min(width, cx + rx); x++)
      if (((x + 0.5 - cx) / rx) ** 2 + ((y + 0.5 - cy) / ry) ** 2 <= 1)
        out.push(...radiance.subarray((y * width + x) * 4, (y * width + x) * 4 + 4));
  return Float32Array.from(out);
}

const luminance = (radiance: Float32Array, i: number) => 0.2126 * radiance[i]! + 0.7152 * radiance[i + 1]! + 0.0722 * radiance[i + 2]!;
const held = (ev100: number) => Math.min(BRIGHTEST_EV, Math.max(DARKEST_EV, ev100));

/** As all of the picture asks, but dark enough that next to nothing is burnt out. */
function protectingEv(radiance: Float32Array): number {
  const bright = Float64Array.from({ length: radiance.length / 4 }, (_, i) => luminance(radiance, i * 4))
    .filter(Number.isFinite)
    .sort();
  const highlight = bright[Math.floor(bright.length * PROTECTED)] ?? 0;
  return held(Math.max(automaticEv(radiance), highlight > 0 ? Math.log2(highlight * exposureScale(0)) : DARKEST_EV));
}

/**
 * EV100 that brings a picture's geometric mean to a little above middle grey and holds its highlights, from its radiance (f32x4 a pixel, cd/m2).
 * At night it stops where a dark street still looks dark.
 */
export function automaticEv(radiance: Float32Array): number {
  const pixels = radiance.length / 4;
  const stride = Math.max(1, Math.floor(pixels / MOST_LOOKED_AT)) * 4;
  const found = new Float64Array(Math.ceil(radiance.length / stride));
  let count = 0;
  for (let i = 0; i < radiance.length; i += stride) {
    if (!(radiance[i + 3]! > 0)) continue;
    const y = luminance(radiance, i);
    if (Number.isFinite(y)) found[count++] = Math.max(1e-5, y);
  }
  if (count === 0) return 12;
  const luminances = found.subarray(0, count).sort();
  const highlight = luminances[Math.min(luminances.length - 1, Math.floor(luminances.length * HIGHLIGHT_SHARE))]!;
  const trimmed = luminances.slice(Math.floor(luminances.length * 0.05), Math.ceil(luminances.length * 0.98));
  const mean = Math.exp(trimmed.reduce((sum, y) => sum + Math.log(Math.max(y, highlight * BLACK)), 0) / trimmed.length);
  const forMean = evOfLuminance(mean) - BRIGHTER;
  const forHighlights = Math.log2((highlight * exposureScale(0)) / HIGHLIGHT_LIMIT);
  // Dim scenes are kept a little dim: a stop for every six stops below daylight.
  const adapted = forMean + Math.max(0, (12 - forMean) / 6) * 0.5;
  return held(Math.max(adapted, Math.min(forHighlights, adapted + 2)));
}
