/**
 * Bilinear, repeating lookups in RGBA8 textures, which lie in blocks of 4 x 4 texels, a cache line each: paths land anywhere, and what
 * they read then mostly lies in one of them. sRGB-coded channels are decoded by a table of 256 values.
 */
import { SCENE_SRGB, SCENE_TEXTURES, TEXTURE_MEAN, TEXTURE_SIZE } from './layout';

export let texelR: f32 = 0;
export let texelG: f32 = 0;
export let texelB: f32 = 0;
export let texelA: f32 = 0;

/** The four texels about a place, and how far it lies between them; see `locate`. */
let p00: usize = 0;
let p10: usize = 0;
let p01: usize = 0;
let p11: usize = 0;
let ax: f32 = 0;
let ay: f32 = 0;

/** Bytes from the first texel to the first of a row; see `inBlocks`. */
// @ts-ignore: decorator
@inline
function rowOf(y: i32, width: i32): usize {
  return (<usize>(y >> 2) * <usize>((width + 3) >> 2) * 4 + <usize>(y & 3)) * 16;
}

// @ts-ignore: decorator
@inline
function columnOf(x: i32): usize {
  return <usize>(x >> 2) * 64 + <usize>(x & 3) * 4;
}

// @ts-ignore: decorator
@inline
function locate(t: usize, u: f32, v: f32): void {
  const texels = <usize>load<u32>(t),
    width = load<i32>(t, 4),
    height = load<i32>(t, 8);
  const x = (u - floor<f32>(u)) * <f32>width - 0.5,
    y = (v - floor<f32>(v)) * <f32>height - 0.5;
  const fx = floor<f32>(x),
    fy = floor<f32>(y);
  ax = x - fx;
  ay = y - fy;
  let x0 = <i32>fx,
    y0 = <i32>fy;
  if (x0 < 0) x0 += width;
  if (y0 < 0) y0 += height;
  if (x0 >= width) x0 = 0;
  if (y0 >= height) y0 = 0;
  const x1 = x0 + 1 == width ? 0 : x0 + 1,
    y1 = y0 + 1 == height ? 0 : y0 + 1;
  const row0 = texels + rowOf(y0, width),
    row1 = texels + rowOf(y1, width),
    column0 = columnOf(x0),
    column1 = columnOf(x1);
  p00 = row0 + column0;
  p10 = row0 + column1;
  p01 = row1 + column0;
  p11 = row1 + column1;
}

// @ts-ignore: decorator
@inline
function textureAt(scene: usize, texture: i32): usize {
  return <usize>load<u32>(scene, SCENE_TEXTURES) + <usize>texture * TEXTURE_SIZE;
}

function sampleTexture(scene: usize, texture: i32, u: f32, v: f32): void {
  const t = textureAt(scene, texture);
  locate(t, u, v);
  const w00: f32 = (1 - ax) * (1 - ay),
    w10 = ax * (1 - ay),
    w01: f32 = (1 - ax) * ay,
    w11 = ax * ay;
  const table = <usize>load<u32>(scene, SCENE_SRGB) + (load<i32>(t, 12) ? 1024 : 0);
  texelR = blend(table, p00, p10, p01, p11, w00, w10, w01, w11);
  texelG = blend(table, p00 + 1, p10 + 1, p01 + 1, p11 + 1, w00, w10, w01, w11);
  texelB = blend(table, p00 + 2, p10 + 2, p01 + 2, p11 + 2, w00, w10, w01, w11);
  texelA = blend(<usize>load<u32>(scene, SCENE_SRGB), p00 + 3, p10 + 3, p01 + 3, p11 + 3, w00, w10, w01, w11);
}

/** Height of a surface map, 0 to 1. */
export function sampleHeight(scene: usize, texture: i32, patched: bool, u: f32, v: f32): f32 {
  if (patched) {
    samplePatched(scene, texture, u, v);
    return texelA;
  }
  locate(textureAt(scene, texture), u, v);
  const low = <f32>load<u8>(p00, 3) * (1 - ax) + <f32>load<u8>(p10, 3) * ax,
    high = <f32>load<u8>(p01, 3) * (1 - ax) + <f32>load<u8>(p11, 3) * ax;
  return (low * (1 - ay) + high * ay) * <f32>(1.0 / 255);
}

// @ts-ignore: decorator
@inline
function blend(table: usize, a: usize, b: usize, c: usize, d: usize, wa: f32, wb: f32, wc: f32, wd: f32): f32 {
  return (
    load<f32>(table + <usize>load<u8>(a) * 4) * wa +
    load<f32>(table + <usize>load<u8>(b) * 4) * wb +
    load<f32>(table + <usize>load<u8>(c) * 4) * wc +
    load<f32>(table + <usize>load<u8>(d) * 4) * wd
  );
}

/** 2 sqrt(3), 1 / sqrt(3), 2 / sqrt(3): see core/finish/hex-tiling.ts, which says what is done here. */
const GRID: f32 = 3.4641016;
const SKEW: f32 = 0.57735027;
const RISE: f32 = 1.15470054;

let sumR: f32 = 0;
let sumG: f32 = 0;
let sumB: f32 = 0;
let sumA: f32 = 0;

/** Looks a map up as the finish has it laid: as it is, or in moved patches. */
export function sampleMap(scene: usize, texture: i32, patched: bool, u: f32, v: f32): void {
  if (patched) samplePatched(scene, texture, u, v);
  else sampleTexture(scene, texture, u, v);
}

/** The same lookup with the repeat broken. */
function samplePatched(scene: usize, texture: i32, u: f32, v: f32): void {
  const x = GRID * (u - v * SKEW),
    y = GRID * v * RISE;
  const cx = floor<f32>(x),
    cy = floor<f32>(y);
  const fx = x - cx,
    fy = y - cy,
    z: f32 = 1 - fx - fy;
  const i = <i32>cx,
    j = <i32>cy,
    lower = z > 0;
  let w1 = lower ? z : -z,
    w2: f32 = lower ? fy : 1 - fy,
    w3: f32 = lower ? fx : 1 - fx;
  w1 *= w1 * w1;
  w2 *= w2 * w2;
  w3 *= w3 * w3;
  const total = w1 + w2 + w3;
  w1 /= total;
  w2 /= total;
  w3 /= total;
  const mean = textureAt(scene, texture) + TEXTURE_MEAN;
  sumR = sumG = sumB = sumA = 0;
  if (lower) addPatch(scene, texture, u, v, i, j, w1, mean);
  else addPatch(scene, texture, u, v, i + 1, j + 1, w1, mean);
  addPatch(scene, texture, u, v, lower ? i : i + 1, lower ? j + 1 : j, w2, mean);
  addPatch(scene, texture, u, v, lower ? i + 1 : i, lower ? j : j + 1, w3, mean);
  const scale: f32 = 1 / sqrt<f32>(w1 * w1 + w2 * w2 + w3 * w3);
  texelR = unit(load<f32>(mean) + sumR * scale);
  texelG = unit(load<f32>(mean, 4) + sumG * scale);
  texelB = unit(load<f32>(mean, 8) + sumB * scale);
  texelA = unit(load<f32>(mean, 12) + sumA * scale);
}

// @ts-ignore: decorator
@inline
function unit(x: f32): f32 {
  return min<f32>(1, max<f32>(0, x));
}

function addPatch(scene: usize, texture: i32, u: f32, v: f32, i: i32, j: i32, weight: f32, mean: usize): void {
  let x = <u32>i * 1664525 + 1013904223,
    y = <u32>j * 1664525 + 1013904223;
  x += y * 1664525;
  y += x * 1664525;
  x ^= x >> 16;
  y ^= y >> 16;
  x += y * 1664525;
  y += x * 1664525;
  x ^= x >> 16;
  y ^= y >> 16;
  sampleTexture(scene, texture, u + <f32>(x >> 8) / 16777216, v + <f32>(y >> 8) / 16777216);
  sumR += weight * (texelR - load<f32>(mean));
  sumG += weight * (texelG - load<f32>(mean, 4));
  sumB += weight * (texelB - load<f32>(mean, 8));
  sumA += weight * (texelA - load<f32>(mean, 12));
}
