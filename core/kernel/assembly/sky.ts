/**
 * The radiance map around the scene: equirectangular, row 0 at the zenith, column 0 looking north (+y), turning to the east (+x).
 * Sampled by luminance times solid angle (Pharr, Jakob & Humphreys, "Physically Based Rendering", 12.5).
 * Its texels are constant, so that the density is exactly proportional to what is sampled.
 */
import {
  SCENE_SKY,
  SCENE_SKY_COLUMNS,
  SCENE_SKY_HEIGHT,
  SCENE_SKY_NORMALISER,
  SCENE_SKY_ROWS,
  SCENE_SKY_WIDTH,
  SCENE_SUN_COS,
  SCENE_SUN_DIRECTION,
  SCENE_SUN_ON,
  SCENE_SUN_RADIANCE,
} from './layout';
import * as m from './maths';

const PI: f32 = 3.14159265;

export let skyR: f32 = 0;
export let skyG: f32 = 0;
export let skyB: f32 = 0;
export let skyPdf: f32 = 0;

/** Radiance and sampling density (1/sr) towards a unit direction. */
export function lookAtSky(scene: usize, dx: f32, dy: f32, dz: f32): void {
  const width = load<i32>(scene, SCENE_SKY_WIDTH),
    height = load<i32>(scene, SCENE_SKY_HEIGHT);
  let u = Mathf.atan2(dx, dy) / (2 * PI);
  if (u < 0) u += 1;
  const v = Mathf.acos(max<f32>(-1, min<f32>(1, dz))) / PI;
  const x = min<i32>(width - 1, <i32>(u * <f32>width)),
    y = min<i32>(height - 1, <i32>(v * <f32>height));
  readTexel(scene, x, y, width);
}

/** Radiance towards a unit direction, blended between texels: for what is seen directly or in a mirror. */
export function seeSky(scene: usize, dx: f32, dy: f32, dz: f32): void {
  const width = load<i32>(scene, SCENE_SKY_WIDTH),
    height = load<i32>(scene, SCENE_SKY_HEIGHT);
  let u = Mathf.atan2(dx, dy) / (2 * PI);
  if (u < 0) u += 1;
  const x = u * <f32>width - 0.5,
    y = max<f32>(0, min<f32>(<f32>(height - 1), (Mathf.acos(max<f32>(-1, min<f32>(1, dz))) / PI) * <f32>height - 0.5));
  const fx = floor<f32>(x),
    fy = floor<f32>(y);
  const x0 = (<i32>fx + width) % width,
    x1 = (x0 + 1) % width,
    y0 = <i32>fy,
    y1 = min<i32>(height - 1, y0 + 1);
  const ax = x - fx,
    ay = y - fy;
  let r: f32 = 0,
    g: f32 = 0,
    b: f32 = 0;
  for (let k = 0; k < 4; k++) {
    readTexel(scene, k & 1 ? x1 : x0, k & 2 ? y1 : y0, width);
    const w: f32 = (k & 1 ? ax : 1 - ax) * (k & 2 ? ay : 1 - ay);
    r += skyR * w;
    g += skyG * w;
    b += skyB * w;
  }
  skyR = r;
  skyG = g;
  skyB = b;
}

function readTexel(scene: usize, x: i32, y: i32, width: i32): void {
  const p = <usize>load<u32>(scene, SCENE_SKY) + <usize>(y * width + x) * 12;
  skyR = load<f32>(p);
  skyG = load<f32>(p, 4);
  skyB = load<f32>(p, 8);
  skyPdf = m.luminance(skyR, skyG, skyB) * load<f32>(scene, SCENE_SKY_NORMALISER);
}

/** First index whose cumulative value exceeds `u`. */
function search(cdf: usize, count: i32, u: f32): i32 {
  let low = 0,
    high = count - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (load<f32>(cdf + <usize>middle * 4) > u) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** Picks a direction (left in maths.r*), its radiance and density. False when the sky is black. */
export function sampleSky(scene: usize, u1: f32, u2: f32): bool {
  if (load<f32>(scene, SCENE_SKY_NORMALISER) == 0) return false;
  const width = load<i32>(scene, SCENE_SKY_WIDTH),
    height = load<i32>(scene, SCENE_SKY_HEIGHT);
  const rows = <usize>load<u32>(scene, SCENE_SKY_ROWS);
  const y = search(rows, height, u1);
  const rowLow: f32 = y ? load<f32>(rows + <usize>(y - 1) * 4) : 0;
  const fy = (u1 - rowLow) / max<f32>(1e-12, load<f32>(rows + <usize>y * 4) - rowLow);
  const columns = <usize>load<u32>(scene, SCENE_SKY_COLUMNS) + <usize>(y * width) * 4;
  const x = search(columns, width, u2);
  const columnLow: f32 = x ? load<f32>(columns + <usize>(x - 1) * 4) : 0;
  const fx = (u2 - columnLow) / max<f32>(1e-12, load<f32>(columns + <usize>x * 4) - columnLow);
  readTexel(scene, x, y, width);
  const top = Mathf.cos((<f32>y * PI) / <f32>height),
    bottom = Mathf.cos((<f32>(y + 1) * PI) / <f32>height);
  const z = top + (bottom - top) * min<f32>(0.9999, fy);
  const r = sqrt<f32>(max<f32>(0, 1 - z * z));
  m.turn((<f32>x + min<f32>(0.9999, fx)) / <f32>width);
  m.set(r * m.sine, r * m.cosine, z);
  return skyPdf > 0;
}

/** Uniform point of the sun's disc, as a direction in maths.r*. False when the sun is down. */
export function sampleSun(scene: usize, u1: f32, u2: f32): bool {
  if (!load<i32>(scene, SCENE_SUN_ON)) return false;
  const z: f32 = 1 - u1 * (1 - load<f32>(scene, SCENE_SUN_COS));
  const r = sqrt<f32>(max<f32>(0, 1 - z * z));
  m.turn(u2);
  const x = r * m.cosine,
    y = r * m.sine;
  m.setFrame(load<f32>(scene, SCENE_SUN_DIRECTION), load<f32>(scene, SCENE_SUN_DIRECTION + 4), load<f32>(scene, SCENE_SUN_DIRECTION + 8));
  m.toWorld(x, y, z);
  return true;
}

/** Density of `sampleSun`, in 1/sr. */
export function sunPdf(scene: usize): f32 {
  return 1 / (2 * PI * (1 - load<f32>(scene, SCENE_SUN_COS)));
}

/** Whether a direction points into the sun's disc; its radiance is then left in sky*. */
export function lookAtSun(scene: usize, dx: f32, dy: f32, dz: f32): bool {
  if (!load<i32>(scene, SCENE_SUN_ON)) return false;
  const c = m.dot(
    dx,
    dy,
    dz,
    load<f32>(scene, SCENE_SUN_DIRECTION),
    load<f32>(scene, SCENE_SUN_DIRECTION + 4),
    load<f32>(scene, SCENE_SUN_DIRECTION + 8),
  );
  if (c < load<f32>(scene, SCENE_SUN_COS)) return false;
  readSun(scene);
  return true;
}

export function readSun(scene: usize): void {
  skyR = load<f32>(scene, SCENE_SUN_RADIANCE);
  skyG = load<f32>(scene, SCENE_SUN_RADIANCE + 4);
  skyB = load<f32>(scene, SCENE_SUN_RADIANCE + 8);
}
