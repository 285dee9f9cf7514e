/**
 * The radiance map around the scene: equirectangular, row 0 at the zenith, column 0 looking north (+y), turning to the east (+x).
 * Sampled by luminance times solid angle (Pharr, Jakob & Humphreys, "Physically Based Rendering", 12.5).
 * Its texels are constant, so that the density is exactly proportional to what is sampled.
 */
import {
  SCENE_BACKDROP,
  SCENE_BACKDROP_HEIGHT,
  SCENE_BACKDROP_WIDTH,
  SCENE_CLOUDS,
  SCENE_CLOUDS_DRIFT,
  SCENE_CLOUDS_HEIGHT,
  SCENE_CLOUDS_REPEAT,
  SCENE_CLOUDS_SIZE,
  SCENE_MOON_LIT,
  SCENE_SKY,
  SCENE_SKY_COLUMNS,
  SCENE_SKY_HEIGHT,
  SCENE_SKY_NORMALISER,
  SCENE_SKY_ROWS,
  SCENE_SKY_WIDTH,
  SCENE_STARS,
  SCENE_SUN_DIRECTION,
  SCENE_SUN_ON,
  SCENE_SUN_RADIANCE,
  SCENE_SUN_VERSINE,
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
  const backdrop = <usize>load<u32>(scene, SCENE_BACKDROP);
  const texels = backdrop ? backdrop : <usize>load<u32>(scene, SCENE_SKY);
  const width = backdrop ? load<i32>(scene, SCENE_BACKDROP_WIDTH) : load<i32>(scene, SCENE_SKY_WIDTH),
    height = backdrop ? load<i32>(scene, SCENE_BACKDROP_HEIGHT) : load<i32>(scene, SCENE_SKY_HEIGHT);
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
    const p = texels + <usize>((k & 2 ? y1 : y0) * width + (k & 1 ? x1 : x0)) * 12;
    const w: f32 = (k & 1 ? ax : 1 - ax) * (k & 2 ? ay : 1 - ay);
    r += load<f32>(p) * w;
    g += load<f32>(p, 4) * w;
    b += load<f32>(p, 8) * w;
  }
  skyR = r;
  skyG = g;
  skyB = b;
  if (load<i32>(scene, SCENE_STARS)) addStars(scene, dx, dy, dz);
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
  const fall = u1 * load<f32>(scene, SCENE_SUN_VERSINE),
    z: f32 = 1 - fall;
  const r = sqrt<f32>(fall * (2 - fall));
  m.turn(u2);
  const x = r * m.cosine,
    y = r * m.sine;
  m.setFrame(load<f32>(scene, SCENE_SUN_DIRECTION), load<f32>(scene, SCENE_SUN_DIRECTION + 4), load<f32>(scene, SCENE_SUN_DIRECTION + 8));
  m.toWorld(x, y, z);
  return true;
}

/** Density of `sampleSun`, in 1/sr. */
export function sunPdf(scene: usize): f32 {
  return 1 / (2 * PI * load<f32>(scene, SCENE_SUN_VERSINE));
}

/** What clouds let through from a point towards a direction. */
function throughClouds(scene: usize, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32): f32 {
  const texels = <usize>load<u32>(scene, SCENE_CLOUDS);
  if (!texels || dz < <f32>0.01) return 1;
  const size = load<i32>(scene, SCENE_CLOUDS_SIZE);
  const up = (load<f32>(scene, SCENE_CLOUDS_HEIGHT) - z) / dz,
    scale = <f32>size / load<f32>(scene, SCENE_CLOUDS_REPEAT);
  if (up <= 0) return 1;
  const u = (x + dx * up - load<f32>(scene, SCENE_CLOUDS_DRIFT)) * scale - <f32>0.5,
    v = (y + dy * up - load<f32>(scene, SCENE_CLOUDS_DRIFT + 4)) * scale - <f32>0.5;
  const fu = floor<f32>(u),
    fv = floor<f32>(v);
  const a = u - fu,
    b = v - fv;
  const i0 = (((<i32>fu) % size) + size) % size,
    j0 = (((<i32>fv) % size) + size) % size;
  const i1 = (i0 + 1) % size,
    j1 = (j0 + 1) % size;
  const low = load<f32>(texels + (<usize>(j0 * size + i0) << 2)) * (1 - a) + load<f32>(texels + (<usize>(j0 * size + i1) << 2)) * a,
    high = load<f32>(texels + (<usize>(j1 * size + i0) << 2)) * (1 - a) + load<f32>(texels + (<usize>(j1 * size + i1) << 2)) * a;
  return low * (1 - b) + high * b;
}

/** The sun's radiance as it comes to a point through clouds, into sky*. */
export function readSunAt(scene: usize, x: f32, y: f32, z: f32): void {
  const s = scene + SCENE_SUN_DIRECTION;
  const through = throughClouds(scene, x, y, z, load<f32>(s), load<f32>(s, 4), load<f32>(s, 8));
  readSun(scene);
  skyR *= through;
  skyG *= through;
  skyB *= through;
}

/** Brightest and faintest are so rare and so common: tenfold for two magnitudes (star counts; from memory). Light of one of magnitude 0, lx. */
const FAINTEST: f32 = 7.2;
const MAGNITUDE_0_LUX: f32 = 2.54e-6;
/** Radius that a star is drawn with, and solid angle of its disc. */
const STAR_RAD: f32 = 4e-4;
const STAR_SR: f32 = 5.027e-7;

function hash(i: i32, j: i32): u32 {
  let h: u32 = <u32>i * 0x9e3779b1 ^ <u32>j * 0x85ebca77;
  h = (h ^ (h >> 15)) * 0x2c1b3c6d;
  h = (h ^ (h >> 12)) * 0x297a2d39;
  return h ^ (h >> 15);
}

/** Stars at random places, about as many of each magnitude as there are; added to sky*. */
function addStars(scene: usize, dx: f32, dy: f32, dz: f32): void {
  if (dz <= <f32>0.02) return;
  const row = <i32>((Mathf.acos(min<f32>(1, dz)) * 180) / PI);
  const cells = max<i32>(3, <i32>(<f32>360 * Mathf.sin(((<f32>row + <f32>0.5) * PI) / 180)));
  let u = Mathf.atan2(dx, dy) / (2 * PI);
  if (u < 0) u += 1;
  const column = min<i32>(cells - 1, <i32>(u * <f32>cells));
  const h = hash(row, column);
  // Kept from the cell's rim, so that none is cut.
  const theta = ((<f32>row + <f32>0.1 + <f32>0.8 * (<f32>(h & 0x3ff) / 1024)) * PI) / 180,
    phi = ((<f32>column + <f32>0.1 + <f32>0.8 * (<f32>((h >> 10) & 0x3ff) / 1024)) * 2 * PI) / <f32>cells;
  const s = Mathf.sin(theta);
  const ex = dx - s * Mathf.sin(phi),
    ey = dy - s * Mathf.cos(phi),
    ez = dz - Mathf.cos(theta);
  if (m.dot(ex, ey, ez, ex, ey, ez) > STAR_RAD * STAR_RAD) return;
  const rank = (<f32>(hash(row + 977, column) & 0xffff) + 1) / 65536;
  // Light of a magnitude of FAINTEST + 2 log10(rank): rank to the power of -0.8.
  const lux = MAGNITUDE_0_LUX * Mathf.pow(10, <f32>-0.4 * FAINTEST) * Mathf.pow(rank, <f32>-0.8);
  const light = (lux / STAR_SR) * throughClouds(scene, 0, 0, 0, dx, dy, dz) * min<f32>(1, dz * 4);
  skyR += light;
  skyG += light;
  skyB += light;
}

/** Whether the lit part of the moon lies in a direction within its disc, whose middle is at a cosine from it. */
function isLitMoon(scene: usize, dx: f32, dy: f32, dz: f32, cosine: f32): bool {
  const s = scene + SCENE_SUN_DIRECTION,
    cx = load<f32>(s),
    cy = load<f32>(s, 4),
    cz = load<f32>(s, 8);
  const fall = load<f32>(scene, SCENE_SUN_VERSINE);
  const inverse: f32 = 1 / sqrt<f32>(max<f32>(<f32>1e-12, fall * (2 - fall)));
  const px = (dx - cx * cosine) * inverse,
    py = (dy - cy * cosine) * inverse,
    pz = (dz - cz * cosine) * inverse;
  const near = sqrt<f32>(max<f32>(0, 1 - m.dot(px, py, pz, px, py, pz)));
  const from = scene + SCENE_MOON_LIT;
  return m.dot(px - cx * near, py - cy * near, pz - cz * near, load<f32>(from), load<f32>(from, 4), load<f32>(from, 8)) > 0;
}

/** Whether a direction points into the sun's disc; its radiance is then left in sky*. */
export function lookAtSun(scene: usize, dx: f32, dy: f32, dz: f32): bool {
  if (!load<i32>(scene, SCENE_SUN_ON)) return false;
  const s = scene + SCENE_SUN_DIRECTION,
    ex = dx - load<f32>(s),
    ey = dy - load<f32>(s, 4),
    ez = dz - load<f32>(s, 8),
    fall: f32 = m.dot(ex, ey, ez, ex, ey, ez) / 2;
  if (fall > load<f32>(scene, SCENE_SUN_VERSINE)) return false;
  readSunAt(scene, 0, 0, 0);
  const from = scene + SCENE_MOON_LIT;
  if (load<f32>(from) == 0 && load<f32>(from, 4) == 0 && load<f32>(from, 8) == 0) return true;
  if (!isLitMoon(scene, dx, dy, dz, 1 - fall)) return false;
  // Its light is known for the whole disc.
  const lit: f32 = max<f32>(<f32>0.02, <f32>0.5 - <f32>0.5 * m.dot(load<f32>(s), load<f32>(s, 4), load<f32>(s, 8), load<f32>(from), load<f32>(from, 4), load<f32>(from, 8)));
  skyR /= lit;
  skyG /= lit;
  skyB /= lit;
  return true;
}

export function readSun(scene: usize): void {
  skyR = load<f32>(scene, SCENE_SUN_RADIANCE);
  skyG = load<f32>(scene, SCENE_SUN_RADIANCE + 4);
  skyB = load<f32>(scene, SCENE_SUN_RADIANCE + 8);
}
