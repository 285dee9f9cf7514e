import { PIXEL_DEPTH, PIXEL_FEATURES, PIXEL_NORMAL, PIXEL_SIZE } from '../kernel/assembly/layout';
import type { Drawing } from '../project/style';

/** Lines of a picture from the feature buffers of its film: where surfaces end, and where they bend. */

const WORDS = PIXEL_SIZE / 4;
/** A bend from this much on is drawn, and fully from the second value on: 1 - the cosine between neighbours. */
const [BEND, SHARP_BEND] = [0.06, 0.35];
/** The same of a jump in depth, as a share of it beyond what a plane explains. */
const [JUMP, DEEP_JUMP] = [0.012, 0.06];
/** A bend is drawn so much lighter than an outline. */
const BEND_WEIGHT = 0.6;
/** Half the side of the square that is looked at for clutter, and shares of it that lines cover; what is left of them in the thick of it. */
const REACH = 5;
const [CLEAR, CLUTTERED] = [0.25, 0.5];
const LEAST_CLUTTER = 0.12;
export const PAPER: readonly [number, number, number] = [250, 248, 243];
export const INK: readonly [number, number, number] = [38, 36, 33];

/**
 * How much of each pixel a line covers, 0 to 1. On a plane the inverse of depth is linear across the picture, so that what
 * it is off by tells where a surface ends. `film`: as in the kernel's memory.
 */
export function lineMask(film: Float32Array, width: number, height: number): Float32Array {
  const pixels = width * height;
  const [inverse, normals] = [new Float32Array(pixels), new Float32Array(pixels * 3)];
  for (let p = 0; p < pixels; p++) {
    const q = p * WORDS;
    const features = film[q + PIXEL_FEATURES / 4]!;
    const depth = film[q + PIXEL_DEPTH / 4]!;
    if (!(features > 0) || !(depth > 0)) continue;
    const n = q + PIXEL_NORMAL / 4;
    const length = Math.hypot(film[n]!, film[n + 1]!, film[n + 2]!);
    if (!(length > 0)) continue;
    inverse[p] = features / depth;
    for (let c = 0; c < 3; c++) normals[p * 3 + c] = film[n + c]! / length;
  }
  const mask = new Float32Array(pixels);
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const p = y * width + x;
      let [bend, jump] = [0, 0];
      for (const step of [1, width]) {
        const [here, a, b] = [inverse[p]!, inverse[p - step]!, inverse[p + step]!];
        // On the nearer side alone, so that lines are thin.
        if (here > 0) jump = Math.max(jump, (2 * here - a - b) / here);
        const [m, n] = [p * 3, (p + step) * 3];
        if (here > 0 && b > 0) bend = Math.max(bend, 1 - normals[m]! * normals[n]! - normals[m + 1]! * normals[n + 1]! - normals[m + 2]! * normals[n + 2]!); // prettier-ignore
      }
      mask[p] = Math.max(ramp(jump, JUMP, DEEP_JUMP), BEND_WEIGHT * ramp(bend, BEND, SHARP_BEND));
    }
  return withoutClutter(mask, width, height);
}

/** Leaves, grass and waves are nothing but lines: where they are so dense, they are drawn lightly. */
function withoutClutter(mask: Float32Array, width: number, height: number): Float32Array {
  const sums = new Float64Array((width + 1) * (height + 1));
  for (let y = 0; y < height; y++)
    for (let x = 0, row = 0; x < width; x++) {
      row += mask[y * width + x]!;
      sums[(y + 1) * (width + 1) + x + 1] = sums[y * (width + 1) + x + 1]! + row;
    }
  const out = new Float32Array(mask.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = y * width + x;
      if (mask[p] === 0) continue;
      const [l, t, r, b] = [
        Math.max(0, x - REACH),
        Math.max(0, y - REACH),
        Math.min(width, x + REACH + 1),
        Math.min(height, y + REACH + 1),
      ];
      const sum = sums[b * (width + 1) + r]! - sums[t * (width + 1) + r]! - sums[b * (width + 1) + l]! + sums[t * (width + 1) + l]!;
      out[p] = mask[p]! * (1 - (1 - LEAST_CLUTTER) * ramp(sum / ((r - l) * (b - t)), CLEAR, CLUTTERED));
    }
  return out;
}

const ramp = (value: number, from: number, to: number): number => Math.min(1, Math.max(0, (value - from) / (to - from)));

/** Fades a developed picture (sRGB, 8 or 16 bit, four values a pixel) to paper and draws its lines over it. */
export function drawLines(rgba: Uint8ClampedArray | Uint8Array | Uint16Array, mask: Float32Array, { lines, paper }: Drawing): void {
  const scale = rgba instanceof Uint16Array ? 257 : 1;
  for (let p = 0; p < mask.length; p++)
    for (let c = 0; c < 3; c++) {
      const faded = rgba[p * 4 + c]! * (1 - paper) + PAPER[c]! * scale * paper;
      rgba[p * 4 + c] = faded + (INK[c]! * scale - faded) * lines * mask[p]!;
    }
}
