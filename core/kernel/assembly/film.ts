/** Camera rays, and what they bring home, summed into the film. */
import {
  PIXEL_ALBEDO,
  PIXEL_COUNT,
  PIXEL_DEPTH,
  PIXEL_FEATURES,
  PIXEL_NORMAL,
  PIXEL_SIZE,
  CHANNELS_INSTANCE,
  CHANNELS_SIZE,
  PARTS_SIZE,
  PROJECTION_EQUIRECTANGULAR,
  PROJECTION_ORTHOGRAPHIC,
  PROJECTION_PERSPECTIVE,
  SCENE_CAMERA,
  SCENE_EYE,
  SCENE_FILM,
  SCENE_FOCUS,
  SCENE_FULL_HEIGHT,
  SCENE_FULL_WIDTH,
  SCENE_LEFT,
  SCENE_LENS_RADIUS,
  SCENE_NEAR,
  SCENE_PARTS,
  SCENE_PROJECTION,
  SCENE_SEED,
  SCENE_TOP,
  SCENE_WIDTH,
} from './layout';
import * as m from './maths';
import * as g from './features';
import * as p from './path';
import { nextPair, second, startSample } from './sampler';
import * as s from './surface';

/** Where the camera ray begins. */
let eyeX: f32 = 0;
let eyeY: f32 = 0;
let eyeZ: f32 = 0;

/**
 * A ray through a place of the whole picture, in pixels; its direction is left in maths.r*. Camera: origin, forward, right, up, f32x3
 * each. Of a perspective, right and up reach the picture's edges a metre ahead; of a parallel projection they are half its size in
 * metres; of an all-round picture they are of length one. A pair of eyes turns with the ray (Ishiguro and others 1992). Forward has
 * length one along the picture's normal, and leans where the lens is shifted.
 */
function cameraRay(scene: usize, x: f32, y: f32): void {
  const c = scene + SCENE_CAMERA,
    projection = load<i32>(scene, SCENE_PROJECTION);
  const sx: f32 = (2 * x) / <f32>load<i32>(scene, SCENE_FULL_WIDTH) - 1,
    sy: f32 = 1 - (2 * y) / <f32>load<i32>(scene, SCENE_FULL_HEIGHT);
  eyeX = load<f32>(c);
  eyeY = load<f32>(c, 4);
  eyeZ = load<f32>(c, 8);
  if (projection == PROJECTION_PERSPECTIVE) {
    m.normalise(
      load<f32>(c, 12) + load<f32>(c, 24) * sx + load<f32>(c, 36) * sy,
      load<f32>(c, 16) + load<f32>(c, 28) * sx + load<f32>(c, 40) * sy,
      load<f32>(c, 20) + load<f32>(c, 32) * sx + load<f32>(c, 44) * sy,
    );
    return;
  }
  if (projection == PROJECTION_ORTHOGRAPHIC) {
    eyeX += load<f32>(c, 24) * sx + load<f32>(c, 36) * sy;
    eyeY += load<f32>(c, 28) * sx + load<f32>(c, 40) * sy;
    eyeZ += load<f32>(c, 32) * sx + load<f32>(c, 44) * sy;
    m.normalise(load<f32>(c, 12), load<f32>(c, 16), load<f32>(c, 20));
    return;
  }
  const round: f32 = sx * <f32>Math.PI,
    high: f32 = sy * <f32>(Math.PI / 2);
  const cos: f32 = <f32>Math.cos(<f64>round),
    sin: f32 = <f32>Math.sin(<f64>round),
    level: f32 = <f32>Math.cos(<f64>high),
    rise: f32 = <f32>Math.sin(<f64>high);
  const eye = load<f32>(scene, SCENE_EYE);
  eyeX += eye * (cos * load<f32>(c, 24) - sin * load<f32>(c, 12));
  eyeY += eye * (cos * load<f32>(c, 28) - sin * load<f32>(c, 16));
  eyeZ += eye * (cos * load<f32>(c, 32) - sin * load<f32>(c, 20));
  m.normalise(
    level * (cos * load<f32>(c, 12) + sin * load<f32>(c, 24)) + rise * load<f32>(c, 36),
    level * (cos * load<f32>(c, 16) + sin * load<f32>(c, 28)) + rise * load<f32>(c, 40),
    level * (cos * load<f32>(c, 20) + sin * load<f32>(c, 32)) + rise * load<f32>(c, 44),
  );
}

/** Column and row of the whole picture that a pixel of the film is of; all-round pictures go on beyond their sides. */
// @ts-ignore: decorator
@inline
function columnOf(scene: usize, x: i32): i32 {
  const column = x + load<i32>(scene, SCENE_LEFT);
  if (load<i32>(scene, SCENE_PROJECTION) != PROJECTION_EQUIRECTANGULAR) return column;
  const width = load<i32>(scene, SCENE_FULL_WIDTH);
  return column < 0 ? column + width : column >= width ? column - width : column;
}
// @ts-ignore: decorator
@inline
function rowOf(scene: usize, y: i32): i32 {
  return y + load<i32>(scene, SCENE_TOP);
}

// @ts-ignore: decorator
@inline
function accumulate(q: usize, value: f32): void {
  store<f32>(q, load<f32>(q) + value);
}

function addFeatures(q: usize): void {
  if (g.astray || g.shares <= 0) return;
  const share: f32 = 1 / g.shares;
  accumulate(q + PIXEL_ALBEDO, g.albedoR * share);
  accumulate(q + PIXEL_ALBEDO + 4, g.albedoG * share);
  accumulate(q + PIXEL_ALBEDO + 8, g.albedoB * share);
  accumulate(q + PIXEL_NORMAL, g.normalX * share);
  accumulate(q + PIXEL_NORMAL + 4, g.normalY * share);
  accumulate(q + PIXEL_NORMAL + 8, g.normalZ * share);
  accumulate(q + PIXEL_DEPTH, g.distance * share);
  accumulate(q + PIXEL_FEATURES, 1);
}

// @ts-ignore: decorator
@inline
function filmPixel(scene: usize, x: i32, y: i32): usize {
  return <usize>load<u32>(scene, SCENE_FILM) + <usize>(y * load<i32>(scene, SCENE_WIDTH) + x) * PIXEL_SIZE;
}

/**
 * Moves the ray in hand to somewhere on the opening of a thin lens, through the same place of the plane that is sharp: depth of
 * field (Cook, Porter and Carpenter 1984).
 */
function throughLens(scene: usize, x: f32, y: f32): void {
  const c = scene + SCENE_CAMERA;
  const radius = load<f32>(scene, SCENE_LENS_RADIUS),
    focus = load<f32>(scene, SCENE_FOCUS);
  const turn: f32 = nextPair() * <f32>(2 * Math.PI),
    out: f32 = radius * sqrt<f32>(second);
  const rx = load<f32>(c, 24),
    ry = load<f32>(c, 28),
    rz = load<f32>(c, 32),
    ux = load<f32>(c, 36),
    uy = load<f32>(c, 40),
    uz = load<f32>(c, 44);
  const sx: f32 = (2 * x) / <f32>load<i32>(scene, SCENE_FULL_WIDTH) - 1,
    sy: f32 = 1 - (2 * y) / <f32>load<i32>(scene, SCENE_FULL_HEIGHT);
  const a: f32 = (out * <f32>Math.cos(<f64>turn)) / sqrt<f32>(m.dot(rx, ry, rz, rx, ry, rz)),
    b: f32 = (out * <f32>Math.sin(<f64>turn)) / sqrt<f32>(m.dot(ux, uy, uz, ux, uy, uz));
  const ox = a * rx + b * ux,
    oy = a * ry + b * uy,
    oz = a * rz + b * uz;
  eyeX += ox;
  eyeY += oy;
  eyeZ += oz;
  m.normalise(
    focus * (load<f32>(c, 12) + rx * sx + ux * sy) - ox,
    focus * (load<f32>(c, 16) + ry * sx + uy * sy) - oy,
    focus * (load<f32>(c, 20) + rz * sx + uz * sy) - oz,
  );
}

/** Metres from the eye to where the ray in hand begins. */
let aheadM: f32 = 0;

/** Begins the ray in hand where what is to be seen begins. */
function startAhead(scene: usize, x: f32, y: f32): void {
  const near = load<f32>(scene, SCENE_NEAR),
    projection = load<i32>(scene, SCENE_PROJECTION);
  aheadM = 0;
  if (near <= 0 || projection == PROJECTION_EQUIRECTANGULAR) return;
  let along: f32 = near;
  if (projection == PROJECTION_PERSPECTIVE) {
    const c = scene + SCENE_CAMERA;
    const sx: f32 = (2 * x) / <f32>load<i32>(scene, SCENE_FULL_WIDTH) - 1,
      sy: f32 = 1 - (2 * y) / <f32>load<i32>(scene, SCENE_FULL_HEIGHT);
    const dx: f32 = load<f32>(c, 12) + load<f32>(c, 24) * sx + load<f32>(c, 36) * sy,
      dy: f32 = load<f32>(c, 16) + load<f32>(c, 28) * sx + load<f32>(c, 40) * sy,
      dz: f32 = load<f32>(c, 20) + load<f32>(c, 32) * sx + load<f32>(c, 44) * sy;
    along *= sqrt<f32>(m.dot(dx, dy, dz, dx, dy, dz));
  }
  aheadM = along;
  eyeX += m.rx * along;
  eyeY += m.ry * along;
  eyeZ += m.rz * along;
}

/** A camera ray somewhere in the pixel, left in maths.r*. */
function jitteredRay(scene: usize, x: i32, y: i32, sample: i32): void {
  const column = columnOf(scene, x),
    row = rowOf(scene, y);
  startSample(column, row, sample, load<u32>(scene, SCENE_SEED));
  const px: f32 = <f32>column + nextPair(),
    py: f32 = <f32>row + second;
  cameraRay(scene, px, py);
  if (load<f32>(scene, SCENE_LENS_RADIUS) > 0 && load<i32>(scene, SCENE_PROJECTION) == PROJECTION_PERSPECTIVE) throughLens(scene, px, py);
  startAhead(scene, px, py);
}

function samplePixel(scene: usize, x: i32, y: i32, sample: i32): void {
  jitteredRay(scene, x, y, sample);
  p.tracePath(scene, eyeX, eyeY, eyeZ, m.rx, m.ry, m.rz, aheadM);
  const q = filmPixel(scene, x, y);
  accumulate(q, p.radianceR);
  accumulate(q + 4, p.radianceG);
  accumulate(q + 8, p.radianceB);
  accumulate(q + PIXEL_COUNT, 1);
  addFeatures(q);
  const parts = <usize>load<u32>(scene, SCENE_PARTS);
  if (!parts) return;
  const to = parts + <usize>(y * load<i32>(scene, SCENE_WIDTH) + x) * PARTS_SIZE;
  accumulate(to, p.shiningR);
  accumulate(to + 4, p.shiningG);
  accumulate(to + 8, p.shiningB);
  accumulate(to + 16, p.directR);
  accumulate(to + 20, p.directG);
  accumulate(to + 24, p.directB);
}

/**
 * Adds samples `first` to `first + count - 1` to the pixels of a rectangle. The result does not depend on how a picture is cut
 * into rectangles.
 */
export function renderTile(scene: usize, x0: i32, y0: i32, x1: i32, y1: i32, first: i32, count: i32): void {
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) for (let i = 0; i < count; i++) samplePixel(scene, x, y, first + i);
}

/** Features are sought through other places of a pixel than its first samples. */
const FEATURES_FIRST: i32 = 1 << 16;

/** Adds so many more features (albedo, normal, depth) to every pixel of a rectangle, without any light. */
export function renderFeatures(scene: usize, x0: i32, y0: i32, x1: i32, y1: i32, first: i32, count: i32): void {
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++)
      for (let i = 0; i < count; i++) {
        jitteredRay(scene, x, y, FEATURES_FIRST + first + i);
        p.traceFeatures(scene, eyeX, eyeY, eyeZ, m.rx, m.ry, m.rz, aheadM);
        addFeatures(filmPixel(scene, x, y));
      }
}

/**
 * What a rectangle shows without being lit: features through the middle of every pixel, and as its radiance what shines by itself there,
 * the sky among it. The film must be empty.
 */
export function renderSeen(scene: usize, x0: i32, y0: i32, x1: i32, y1: i32): void {
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      middleRay(scene, x, y);
      p.traceFeatures(scene, eyeX, eyeY, eyeZ, m.rx, m.ry, m.rz, aheadM);
      const q = filmPixel(scene, x, y);
      accumulate(q, p.radianceR);
      accumulate(q + 4, p.radianceG);
      accumulate(q + 8, p.radianceB);
      addFeatures(q);
    }
}

/** A camera ray through the middle of a pixel, left in maths.r*. */
function middleRay(scene: usize, x: i32, y: i32): void {
  const column = columnOf(scene, x),
    row = rowOf(scene, y);
  startSample(column, row, 0, load<u32>(scene, SCENE_SEED));
  cameraRay(scene, <f32>column + 0.5, <f32>row + 0.5);
  startAhead(scene, <f32>column + 0.5, <f32>row + 0.5);
}

/** What the middle of every pixel of a rectangle shows first, panes included, into `out` (see CHANNELS_SIZE), laid out as the film. */
export function renderChannels(scene: usize, x0: i32, y0: i32, x1: i32, y1: i32, out: usize): void {
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      middleRay(scene, x, y);
      const to = out + <usize>(y * load<i32>(scene, SCENE_WIDTH) + x) * CHANNELS_SIZE;
      const distance = p.firstSurface(scene, eyeX, eyeY, eyeZ, m.rx, m.ry, m.rz);
      store<i32>(to, distance < 0 ? -1 : s.instance, CHANNELS_INSTANCE);
      if (distance < 0) {
        store<f32>(to, Infinity);
        for (let i: usize = 4; i < CHANNELS_INSTANCE; i += 4) store<f32>(to + i, 0);
        continue;
      }
      store<f32>(to, aheadM + distance);
      store<f32>(to, s.px, 4);
      store<f32>(to, s.py, 8);
      store<f32>(to, s.pz, 12);
      store<f32>(to, s.nx, 16);
      store<f32>(to, s.ny, 20);
      store<f32>(to, s.nz, 24);
      store<f32>(to, s.baseR, 28);
      store<f32>(to, s.baseG, 32);
      store<f32>(to, s.baseB, 36);
    }
}

/** Mean illuminance (lux, luminance-weighted) at a point over `count` samples. */
export function measureIlluminance(
  scene: usize, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32, count: i32, seed: u32,
): f64 {
  let sum: f64 = 0;
  for (let i = 0; i < count; i++) {
    startSample(0, 0, i, seed);
    p.sampleIlluminance(scene, x, y, z, nx, ny, nz, false);
    sum += <f64>m.luminance(p.radianceR, p.radianceG, p.radianceB);
  }
  return sum / <f64>count;
}

/**
 * Mean illuminance (lux, rgb) over `count` samples at points (place and normal, f32x6) `from` to `to - 1`, without what the sun's own rays
 * bring; into `out`, f32x3 a point.
 */
export function bakeLight(scene: usize, points: usize, from: i32, to: i32, count: i32, out: usize): void {
  for (let i = from; i < to; i++) {
    const q = points + <usize>i * 24,
      o = out + <usize>i * 12;
    let r: f64 = 0,
      g: f64 = 0,
      b: f64 = 0;
    for (let k = 0; k < count; k++) {
      startSample(i & 4095, i >> 12, k, load<u32>(scene, SCENE_SEED));
      p.sampleIlluminance(scene, load<f32>(q), load<f32>(q, 4), load<f32>(q, 8), load<f32>(q, 12), load<f32>(q, 16), load<f32>(q, 20), true);
      r += <f64>p.radianceR;
      g += <f64>p.radianceG;
      b += <f64>p.radianceB;
    }
    store<f32>(o, <f32>(r / <f64>count));
    store<f32>(o, <f32>(g / <f64>count), 4);
    store<f32>(o, <f32>(b / <f64>count), 8);
  }
}

/** Mean radiance (luminance, cd/m2) along one ray over `count` samples. */
export function measureRadiance(
  scene: usize, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, count: i32, seed: u32,
): f64 {
  let sum: f64 = 0;
  for (let i = 0; i < count; i++) {
    startSample(0, 0, i, seed);
    p.tracePath(scene, x, y, z, dx, dy, dz);
    sum += <f64>m.luminance(p.radianceR, p.radianceG, p.radianceB);
  }
  return sum / <f64>count;
}
