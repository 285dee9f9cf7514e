import { hash01, smoothstep, valueNoise } from '../finish/maps/noise';

/** Pictures as a hand makes them: lines by pencil, and colours by washes. The same picture is always made the same. */

/** How far a stroke strays, as a share of the picture's width, and how often it changes its mind along that. */
const STRAY = 0.0022;
const STRAYS_ACROSS = 26;
/** Grains of the paper across the picture. */
const GRAINS_ACROSS = 640;
/** A second stroke beside the first is so much lighter. */
const SECOND_STROKE = 0.55;

/** Lines that stray, are drawn twice and break on the grain of the paper, by a share of that from 0 to 1. */
export function byHand(mask: Float32Array, width: number, height: number, share: number): Float32Array {
  const out = new Float32Array(mask.length);
  const most = STRAY * width * share;
  const [across, down] = [STRAYS_ACROSS, Math.max(1, Math.round((STRAYS_ACROSS * height) / width))];
  const grains = Math.round(Math.min(GRAINS_ACROSS, width / 1.5));
  const near = about(mask, width, height, Math.ceil(most) + 1);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (near[y * width + x] === 0) continue;
      const [u, v] = [x / width, y / height];
      const stroke = (seed: number) => {
        const [dx, dy] = [valueNoise(u, v, across, down, seed) * most, valueNoise(u, v, across, down, seed + 1) * most];
        return sampled(mask, width, height, x + dx, y + dy);
      };
      const drawn = Math.max(stroke(11), SECOND_STROKE * share * stroke(23));
      if (drawn === 0) continue;
      const grain = hash01(Math.floor(u * grains), Math.floor((v * grains * height) / width), 5);
      out[y * width + x] = drawn * (1 - share * (0.15 + 0.5 * grain * grain));
    }
  return out;
}

/** 1 where a line lies within so many pixels: nowhere else can a stroke of it stray to. */
function about(mask: Float32Array, width: number, height: number, reach: number): Uint8Array {
  const near = new Uint8Array(mask.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (mask[y * width + x] === 0) continue;
      for (let j = Math.max(0, y - reach); j <= Math.min(height - 1, y + reach); j++)
        near.fill(1, j * width + Math.max(0, x - reach), j * width + Math.min(width, x + reach + 1));
    }
  return near;
}

/** Between pixels. */
function sampled(mask: Float32Array, width: number, height: number, x: number, y: number): number {
  const [left, top] = [Math.floor(x), Math.floor(y)];
  const [fx, fy] = [x - left, y - top];
  const at = (i: number, j: number) => (i < 0 || j < 0 || i >= width || j >= height ? 0 : mask[j * width + i]!);
  const row = (j: number) => at(left, j) * (1 - fx) + at(left + 1, j) * fx;
  return row(top) * (1 - fy) + row(top + 1) * fy;
}

/** Half the side of what one touch of the brush covers, as a share of the picture's width. */
const TOUCH = 1 / 170;
/** Keeps the weight of a wholly even square, which goes by the sixth power of its spread, from being without end. */
const LEAST_SPREAD = 1e-6;
/** How much darker colour dries at the rim of a wash, how far it pools in blotches, and how it settles in the grain. */
const [RIM, POOLS, GRANULATION] = [0.35, 0.07, 0.045];
const POOLS_ACROSS = 9;
/** Rows that are worked on at once. */
const BAND = 192;

type Coded = Uint8ClampedArray | Uint8Array | Uint16Array;

/**
 * Brings a developed picture (four values a pixel) to washes of colour, by a share from 0 to 1. Each pixel becomes the mean of the four
 * squares that meet in it, weighed by how even each is (Kuwahara et al. 1976, in the soft form of Papari et al. 2007), so that surfaces
 * become even and edges stay; colour dries darker at their rims.
 */
export function paint(rgba: Coded, width: number, height: number, share: number): void {
  const whole = rgba instanceof Uint16Array ? 65535 : 255;
  const reach = Math.max(1, Math.round(width * TOUCH));
  const from = rgba.slice();
  for (let top = 0; top < height; top += BAND) {
    // With a row more on either side, whose rims reach in.
    const [first, last] = [Math.max(0, top - 1), Math.min(height, top + BAND + 1)];
    const washed = washes(from, width, height, first, last - first, reach, whole);
    for (let y = top; y < Math.min(height, top + BAND); y++)
      for (let x = 0; x < width; x++) {
        const w = ((y - first) * width + x) * 3;
        const o = (y * width + x) * 4;
        const layer = layerOf(washed, width, last - first, x, y - first) * poolOf(x / width, y / height, width / height);
        for (let c = 0; c < 3; c++) rgba[o + c] = Math.min(whole, from[o + c]! * (1 - share) + washed[w + c]! * layer * whole * share);
      }
  }
}

/** The washed colours of some rows, 0 to 1, three a pixel. */
function washes(rgba: Coded, width: number, height: number, top: number, rows: number, reach: number, whole: number): Float32Array {
  const [first, last] = [Math.max(0, top - reach), Math.min(height, top + rows + reach)];
  const sums = summed(rgba, width, first, last, whole);
  const line = (width + 1) * 4;
  const out = new Float32Array(rows * width * 3);
  for (let y = top; y < top + rows; y++)
    for (let x = 0; x < width; x++) {
      let weights = 0;
      let [red, green, blue] = [0, 0, 0];
      for (let square = 0; square < 4; square++) {
        const left = square & 1 ? x : Math.max(0, x - reach);
        const right = square & 1 ? Math.min(width, x + reach + 1) : x + 1;
        const upper = square & 2 ? y : Math.max(first, y - reach);
        const lower = square & 2 ? Math.min(last, y + reach + 1) : y + 1;
        const count = (right - left) * (lower - upper);
        const a = (upper - first) * line + left * 4;
        const b = (upper - first) * line + right * 4;
        const c = (lower - first) * line + left * 4;
        const d = (lower - first) * line + right * 4;
        const r = (sums[d]! - sums[b]! - sums[c]! + sums[a]!) / count;
        const g = (sums[d + 1]! - sums[b + 1]! - sums[c + 1]! + sums[a + 1]!) / count;
        const u = (sums[d + 2]! - sums[b + 2]! - sums[c + 2]! + sums[a + 2]!) / count;
        const light = (r + g + u) / 3;
        const variance = Math.max(0, (sums[d + 3]! - sums[b + 3]! - sums[c + 3]! + sums[a + 3]!) / count - light * light);
        const weight = 1 / (LEAST_SPREAD + variance * variance * variance);
        weights += weight;
        red += r * weight;
        green += g * weight;
        blue += u * weight;
      }
      const o = ((y - top) * width + x) * 3;
      out[o] = red / weights;
      out[o + 1] = green / weights;
      out[o + 2] = blue / weights;
    }
  return out;
}

/** Sums of all pixels above and to the left: of three colours, and of the square of their mean. */
function summed(rgba: Coded, width: number, first: number, last: number, whole: number): Float64Array {
  const line = (width + 1) * 4;
  const sums = new Float64Array((last - first + 1) * line);
  for (let y = first; y < last; y++) {
    let [red, green, blue, square] = [0, 0, 0, 0];
    for (let x = 0; x < width; x++) {
      const o = (y * width + x) * 4;
      const [r, g, b] = [rgba[o]! / whole, rgba[o + 1]! / whole, rgba[o + 2]! / whole];
      const light = (r + g + b) / 3;
      red += r;
      green += g;
      blue += b;
      square += light * light;
      const to = (y - first + 1) * line + (x + 1) * 4;
      sums[to] = sums[to - line]! + red;
      sums[to + 1] = sums[to + 1 - line]! + green;
      sums[to + 2] = sums[to + 2 - line]! + blue;
      sums[to + 3] = sums[to + 3 - line]! + square;
    }
  }
  return sums;
}

/** Darker where one wash meets another. */
function layerOf(washed: Float32Array, width: number, rows: number, x: number, y: number): number {
  const light = (i: number, j: number) => {
    const at = (Math.min(rows - 1, Math.max(0, j)) * width + Math.min(width - 1, Math.max(0, i))) * 3;
    return washed[at]! + washed[at + 1]! + washed[at + 2]!;
  };
  const across = light(x + 1, y) - light(x - 1, y);
  const down = light(x, y + 1) - light(x, y - 1);
  return 1 - RIM * smoothstep(0.06, 0.6, Math.sqrt(across * across + down * down));
}

/** How colour has pooled and settled, about 1. */
function poolOf(u: number, v: number, aspect: number): number {
  const down = Math.max(1, Math.round(POOLS_ACROSS / aspect));
  const pool = valueNoise(u, v, POOLS_ACROSS, down, 31) + 0.5 * valueNoise(u, v, POOLS_ACROSS * 3, down * 3, 37);
  const grain = hash01(Math.floor(u * GRAINS_ACROSS), Math.floor((v * GRAINS_ACROSS) / aspect), 41) - 0.5;
  return 1 + POOLS * pool + GRANULATION * grain;
}
