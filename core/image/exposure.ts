import { evOfLuminance, exposureScale } from './tone';

/** Stops by which the middle of a picture lies above a meter's grey: buildings are light. */
const BRIGHTER = 0.3;
/** Share of the picture that may lie above white before the exposure gives way. */
const HIGHLIGHT_SHARE = 0.97;
const HIGHLIGHT_LIMIT = 2.2;
/** So many pixels tell how light a picture is. */
const MOST_LOOKED_AT = 8000;
const DARKEST_EV = -7;
const BRIGHTEST_EV = 17;

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
    const y = 0.2126 * radiance[i]! + 0.7152 * radiance[i + 1]! + 0.0722 * radiance[i + 2]!;
    if (Number.isFinite(y)) found[count++] = Math.max(1e-5, y);
  }
  if (count === 0) return 12;
  const luminances = found.subarray(0, count).sort();
  const trimmed = luminances.slice(Math.floor(luminances.length * 0.05), Math.ceil(luminances.length * 0.98));
  const mean = Math.exp(trimmed.reduce((sum, y) => sum + Math.log(y), 0) / trimmed.length);
  const highlight = luminances[Math.min(luminances.length - 1, Math.floor(luminances.length * HIGHLIGHT_SHARE))]!;
  const forMean = evOfLuminance(mean) - BRIGHTER;
  const forHighlights = Math.log2((highlight * exposureScale(0)) / HIGHLIGHT_LIMIT);
  // Dim scenes are kept a little dim: a stop for every six stops below daylight.
  const adapted = forMean + Math.max(0, (12 - forMean) / 6) * 0.5;
  return Math.min(BRIGHTEST_EV, Math.max(DARKEST_EV, Math.max(adapted, Math.min(forHighlights, adapted + 2))));
}
