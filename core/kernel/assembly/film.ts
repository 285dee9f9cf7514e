/** Camera rays, and what they bring home, summed into the film. */
import {
  PIXEL_ALBEDO,
  PIXEL_COUNT,
  PIXEL_DEPTH,
  PIXEL_FEATURES,
  PIXEL_NORMAL,
  PIXEL_SIZE,
  SCENE_CAMERA,
  SCENE_FILM,
  SCENE_HEIGHT,
  SCENE_SEED,
  SCENE_WIDTH,
} from './layout';
import * as m from './maths';
import * as g from './features';
import * as p from './path';
import { nextPair, second, startSample } from './sampler';

/** Camera: origin, forward, right (times tan of half the width's angle), up (same for the height); f32x3 each. */
function cameraRay(scene: usize, x: f32, y: f32): void {
  const c = scene + SCENE_CAMERA;
  const sx: f32 = (2 * x) / <f32>load<i32>(scene, SCENE_WIDTH) - 1,
    sy: f32 = 1 - (2 * y) / <f32>load<i32>(scene, SCENE_HEIGHT);
  m.normalise(
    load<f32>(c, 12) + load<f32>(c, 24) * sx + load<f32>(c, 36) * sy,
    load<f32>(c, 16) + load<f32>(c, 28) * sx + load<f32>(c, 40) * sy,
    load<f32>(c, 20) + load<f32>(c, 32) * sx + load<f32>(c, 44) * sy,
  );
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

/** A camera ray somewhere in the pixel, left in maths.r*. */
function jitteredRay(scene: usize, x: i32, y: i32, sample: i32): void {
  startSample(x, y, sample, load<u32>(scene, SCENE_SEED));
  const jitter = nextPair();
  cameraRay(scene, <f32>x + jitter, <f32>y + second);
}

function samplePixel(scene: usize, x: i32, y: i32, sample: i32): void {
  const c = scene + SCENE_CAMERA;
  jitteredRay(scene, x, y, sample);
  p.tracePath(scene, load<f32>(c), load<f32>(c, 4), load<f32>(c, 8), m.rx, m.ry, m.rz);
  const q = filmPixel(scene, x, y);
  accumulate(q, p.radianceR);
  accumulate(q + 4, p.radianceG);
  accumulate(q + 8, p.radianceB);
  accumulate(q + PIXEL_COUNT, 1);
  addFeatures(q);
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
  const c = scene + SCENE_CAMERA;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++)
      for (let i = 0; i < count; i++) {
        jitteredRay(scene, x, y, FEATURES_FIRST + first + i);
        p.traceFeatures(scene, load<f32>(c), load<f32>(c, 4), load<f32>(c, 8), m.rx, m.ry, m.rz);
        addFeatures(filmPixel(scene, x, y));
      }
}

/**
 * What a rectangle shows without being lit: features through the middle of every pixel, and as its radiance what shines by itself there,
 * the sky among it. The film must be empty.
 */
export function renderSeen(scene: usize, x0: i32, y0: i32, x1: i32, y1: i32): void {
  const c = scene + SCENE_CAMERA;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      startSample(x, y, 0, load<u32>(scene, SCENE_SEED));
      cameraRay(scene, <f32>x + 0.5, <f32>y + 0.5);
      p.traceFeatures(scene, load<f32>(c), load<f32>(c, 4), load<f32>(c, 8), m.rx, m.ry, m.rz);
      const q = filmPixel(scene, x, y);
      accumulate(q, p.radianceR);
      accumulate(q + 4, p.radianceG);
      accumulate(q + 8, p.radianceB);
      addFeatures(q);
    }
}

/** Mean illuminance (lux, luminance-weighted) at a point over `count` samples. */
export function measureIlluminance(
  scene: usize, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32, count: i32, seed: u32,
): f64 {
  let sum: f64 = 0;
  for (let i = 0; i < count; i++) {
    startSample(0, 0, i, seed);
    p.sampleIlluminance(scene, x, y, z, nx, ny, nz);
    sum += <f64>m.luminance(p.radianceR, p.radianceG, p.radianceB);
  }
  return sum / <f64>count;
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
