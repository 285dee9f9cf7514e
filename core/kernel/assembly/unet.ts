/**
 * The one operation of the denoising network: a 3x3 convolution with zeros about the picture, a bias and what is negative cut off
 * (ReLU). What goes in may be two pictures side by side, the first at half the size; what comes out may be halved (the greatest of
 * 2 x 2). Pictures are f32, channels within pixels, of even width and height.
 *
 * Computed in tiles of 2 x 2 pixels by Winograd's minimal filtering F(2x2, 3x3) (Lavin & Gray 2016, "Fast Algorithms for
 * Convolutional Neural Networks"): sixteen products in place of thirty-six. Tiles are taken TILES at a time, so that their
 * transformed values stay in the processor's nearer caches.
 */
import {
  LAYER_BIAS,
  LAYER_CHANNELS,
  LAYER_HALVED,
  LAYER_HEIGHT,
  LAYER_LOW,
  LAYER_LOW_CHANNELS,
  LAYER_SOURCE,
  LAYER_SOURCE_CHANNELS,
  LAYER_TARGET,
  LAYER_WEIGHTS,
  LAYER_WIDTH,
  NETWORK_CHANNELS,
  NETWORK_TILES,
} from './layout';

const PLACES: i32 = 16;
/** Output channels that are summed at once. */
const BLOCK: i32 = 8;

/** Zeros, for a pixel outside the picture, and where the sixteen pixels under a tile begin. */
const ZEROS: usize = NETWORK_CHANNELS << 2;
const PATCH: usize = PLACES << 2;
let zeros: usize = 0;
let patch: usize = 0;
/** The sums of a block, [place][tile][BLOCK], and this thread's transformed tiles, [place][tile][channel]. */
let sums: usize = 0;
let transformed: usize = 0;

/** Working memory of this thread: NETWORK_SCRATCH zeroed bytes. */
export function attachNetwork(scratch: usize): void {
  zeros = scratch;
  patch = zeros + ZEROS;
  sums = patch + PATCH;
  transformed = sums + (<usize>(PLACES * NETWORK_TILES * BLOCK) << 2);
}

/** Rows y0 to y1 of tiles of a layer (see LAYER_* in layout.ts). */
export function convolve(layer: usize, y0: i32, y1: i32): void {
  const width = load<i32>(layer, LAYER_WIDTH) >> 1;
  for (let y = y0; y < y1; y++)
    for (let x = 0; x < width; x += NETWORK_TILES) {
      const count = min(NETWORK_TILES, width - x);
      for (let i = 0; i < count; i++) takeTile(layer, x + i, y, i);
      multiply(layer, x, y, count);
    }
}

/** Transforms what lies under a tile, into the place of number `i` among those in hand. */
function takeTile(layer: usize, x: i32, y: i32, i: i32): void {
  const width = load<i32>(layer, LAYER_WIDTH),
    height = load<i32>(layer, LAYER_HEIGHT);
  const low = <usize>load<u32>(layer, LAYER_LOW),
    source = <usize>load<u32>(layer, LAYER_SOURCE);
  const lowChannels = load<i32>(layer, LAYER_LOW_CHANNELS),
    channels = load<i32>(layer, LAYER_SOURCE_CHANNELS);
  const stride = <usize>(lowChannels + channels) << 2;
  const to = transformed + <usize>i * stride;
  if (low) transformPatch(low, lowChannels, width >> 1, x, y, 1, width, height, to, stride);
  if (channels) transformPatch(source, channels, width, x, y, 0, width, height, to + (<usize>lowChannels << 2), stride);
}

function transformPatch(source: usize, channels: i32, line: i32, tileX: i32, tileY: i32, shift: i32, width: i32, height: i32, to: usize, stride: usize): void {
  for (let j = 0; j < 4; j++)
    for (let i = 0; i < 4; i++) {
      const x = 2 * tileX + i - 1,
        y = 2 * tileY + j - 1;
      const outside = x < 0 || y < 0 || x >= width || y >= height;
      const pixel = outside ? zeros : source + ((<usize>((y >> shift) * line + (x >> shift)) * <usize>channels) << 2);
      store<u32>(patch + (<usize>(4 * j + i) << 2), <u32>pixel);
    }
  const place = stride * NETWORK_TILES;
  const end = <usize>channels << 2;
  for (let c: usize = 0; c < end; c += 16, to += 16) {
    for (let i = 0; i < 4; i++) {
      const d0 = valueAt(i, c),
        d1 = valueAt(4 + i, c),
        d2 = valueAt(8 + i, c),
        d3 = valueAt(12 + i, c);
      v128.store(column(i), f32x4.sub(d0, d2));
      v128.store(column(i), f32x4.add(d1, d2), 64);
      v128.store(column(i), f32x4.sub(d2, d1), 128);
      v128.store(column(i), f32x4.sub(d1, d3), 192);
    }
    let o = to;
    for (let j = 0; j < 4; j++) {
      const row = sums + <usize>(j << 6);
      const e0 = v128.load(row),
        e1 = v128.load(row, 16),
        e2 = v128.load(row, 32),
        e3 = v128.load(row, 48);
      v128.store(o, f32x4.sub(e0, e2));
      o += place;
      v128.store(o, f32x4.add(e1, e2));
      o += place;
      v128.store(o, f32x4.sub(e2, e1));
      o += place;
      v128.store(o, f32x4.sub(e1, e3));
      o += place;
    }
  }
}

// @ts-ignore: decorator
@inline
function valueAt(i: i32, c: usize): v128 {
  return v128.load(<usize>load<u32>(patch + (<usize>i << 2)) + c);
}

/** Half-transformed values lie where the sums come later. */
// @ts-ignore: decorator
@inline
function column(i: i32): usize {
  return sums + <usize>(i << 4);
}

/** Multiplies the tiles in hand with all weights, and writes what comes out. */
function multiply(layer: usize, x: i32, y: i32, count: i32): void {
  const width = load<i32>(layer, LAYER_WIDTH);
  const channels = load<i32>(layer, LAYER_LOW_CHANNELS) + load<i32>(layer, LAYER_SOURCE_CHANNELS);
  const outChannels = load<i32>(layer, LAYER_CHANNELS);
  const target = <usize>load<u32>(layer, LAYER_TARGET);
  const halved = load<i32>(layer, LAYER_HALVED) != 0;
  const stride = <usize>channels << 2;
  const pixel = <usize>outChannels << 2;
  let weights = <usize>load<u32>(layer, LAYER_WEIGHTS);
  for (let c = 0; c < outChannels; c += BLOCK) {
    for (let p = 0; p < PLACES; p++, weights += stride * BLOCK) {
      const values = transformed + <usize>(p * NETWORK_TILES) * stride;
      const to = sums + <usize>(p * NETWORK_TILES * BLOCK << 2);
      for (let i = 0; i < count; i += 4) sumFour(values + <usize>i * stride, weights, stride, to + <usize>(i * BLOCK << 2));
    }
    const bias = <usize>load<u32>(layer, LAYER_BIAS) + (<usize>c << 2);
    for (let i = 0; i < count; i++)
      for (let half: usize = 0; half < 32; half += 16) {
        const from = sums + <usize>(i * BLOCK << 2) + half;
        const b = v128.load(bias + half);
        if (halved) writeGreatest(from, b, target + <usize>(y * (width >> 1) + x + i) * pixel + (<usize>c << 2) + half);
        else writeFour(from, b, target + <usize>(2 * y * width + 2 * (x + i)) * pixel + (<usize>c << 2) + half, pixel, <usize>width * pixel);
      }
  }
}

/** Four tiles, eight output channels. */
function sumFour(values: usize, weights: usize, stride: usize, to: usize): void {
  const zero = f32x4.splat(0);
  let p0 = zero, q0 = zero, p1 = zero, q1 = zero, p2 = zero, q2 = zero, p3 = zero, q3 = zero; // prettier-ignore
  let w = weights;
  const second = values + stride,
    third = second + stride,
    fourth = third + stride;
  for (let c: usize = 0; c < stride; c += 4, w += 32) {
    const w0 = v128.load(w),
      w1 = v128.load(w, 16);
    const i0 = v128.load32_splat(values + c),
      i1 = v128.load32_splat(second + c),
      i2 = v128.load32_splat(third + c),
      i3 = v128.load32_splat(fourth + c);
    p0 = f32x4.add(p0, f32x4.mul(i0, w0));
    q0 = f32x4.add(q0, f32x4.mul(i0, w1));
    p1 = f32x4.add(p1, f32x4.mul(i1, w0));
    q1 = f32x4.add(q1, f32x4.mul(i1, w1));
    p2 = f32x4.add(p2, f32x4.mul(i2, w0));
    q2 = f32x4.add(q2, f32x4.mul(i2, w1));
    p3 = f32x4.add(p3, f32x4.mul(i3, w0));
    q3 = f32x4.add(q3, f32x4.mul(i3, w1));
  }
  v128.store(to, p0);
  v128.store(to, q0, 16);
  v128.store(to, p1, 32);
  v128.store(to, q1, 48);
  v128.store(to, p2, 64);
  v128.store(to, q2, 80);
  v128.store(to, p3, 96);
  v128.store(to, q3, 112);
}

/** The four pixels of a tile, left in these. */
let upLeft: v128 = f32x4.splat(0);
let upRight: v128 = f32x4.splat(0);
let downLeft: v128 = f32x4.splat(0);
let downRight: v128 = f32x4.splat(0);

const NEXT: usize = NETWORK_TILES * BLOCK << 2;

// @ts-ignore: decorator
@inline
function upper(from: usize): v128 {
  return f32x4.add(f32x4.add(v128.load(from), v128.load(from + 4 * NEXT)), v128.load(from + 8 * NEXT));
}

// @ts-ignore: decorator
@inline
function lower(from: usize): v128 {
  return f32x4.sub(f32x4.sub(v128.load(from + 4 * NEXT), v128.load(from + 8 * NEXT)), v128.load(from + 12 * NEXT));
}

function transformBack(from: usize, bias: v128): void {
  const zero = f32x4.splat(0);
  const a0 = upper(from),
    a1 = upper(from + NEXT),
    a2 = upper(from + 2 * NEXT),
    a3 = upper(from + 3 * NEXT);
  const b0 = lower(from),
    b1 = lower(from + NEXT),
    b2 = lower(from + 2 * NEXT),
    b3 = lower(from + 3 * NEXT);
  upLeft = f32x4.max(f32x4.add(f32x4.add(f32x4.add(a0, a1), a2), bias), zero);
  upRight = f32x4.max(f32x4.add(f32x4.sub(f32x4.sub(a1, a2), a3), bias), zero);
  downLeft = f32x4.max(f32x4.add(f32x4.add(f32x4.add(b0, b1), b2), bias), zero);
  downRight = f32x4.max(f32x4.add(f32x4.sub(f32x4.sub(b1, b2), b3), bias), zero);
}

function writeFour(from: usize, bias: v128, to: usize, pixel: usize, line: usize): void {
  transformBack(from, bias);
  v128.store(to, upLeft);
  v128.store(to + pixel, upRight);
  v128.store(to + line, downLeft);
  v128.store(to + line + pixel, downRight);
}

function writeGreatest(from: usize, bias: v128, to: usize): void {
  transformBack(from, bias);
  v128.store(to, f32x4.max(f32x4.max(upLeft, upRight), f32x4.max(downLeft, downRight)));
}
