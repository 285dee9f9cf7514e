/** Bilinear, repeating lookups in RGBA8 textures. sRGB-coded channels are decoded by a table of 256 values. */
import { SCENE_SRGB, SCENE_TEXTURES, TEXTURE_SIZE } from './layout';

export let texelR: f32 = 0;
export let texelG: f32 = 0;
export let texelB: f32 = 0;
export let texelA: f32 = 0;

export function sampleTexture(scene: usize, texture: i32, u: f32, v: f32): void {
  const t = <usize>load<u32>(scene, SCENE_TEXTURES) + <usize>texture * TEXTURE_SIZE;
  const texels = <usize>load<u32>(t),
    width = load<i32>(t, 4),
    height = load<i32>(t, 8);
  const x = (u - floor<f32>(u)) * <f32>width - 0.5,
    y = (v - floor<f32>(v)) * <f32>height - 0.5;
  const fx = floor<f32>(x),
    fy = floor<f32>(y);
  const ax = x - fx,
    ay = y - fy;
  let x0 = <i32>fx,
    y0 = <i32>fy;
  if (x0 < 0) x0 += width;
  if (y0 < 0) y0 += height;
  if (x0 >= width) x0 = 0;
  if (y0 >= height) y0 = 0;
  const x1 = x0 + 1 == width ? 0 : x0 + 1,
    y1 = y0 + 1 == height ? 0 : y0 + 1;
  const p00 = texels + <usize>(y0 * width + x0) * 4,
    p10 = texels + <usize>(y0 * width + x1) * 4,
    p01 = texels + <usize>(y1 * width + x0) * 4,
    p11 = texels + <usize>(y1 * width + x1) * 4;
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
