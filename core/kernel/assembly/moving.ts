/**
 * The picture while something moves: light of few pixels, without its noise, is carried to the many pixels of what is seen, by
 * nearness, colour, normal and distance (joint bilateral upsampling, Kopf and others 2007); and to that comes what earlier pictures
 * knew of the same places (reverse reprojection, Nehab and others 2007).
 */
import {
  KEPT_SIZE,
  LIT_SIZE,
  MOVING_BEFORE,
  MOVING_BEFORE_HEIGHT,
  MOVING_BEFORE_WIDTH,
  MOVING_CAMERA,
  MOVING_CLEAN,
  MOVING_HEIGHT,
  MOVING_KEPT,
  MOVING_LIGHT,
  MOVING_LIGHT_HEIGHT,
  MOVING_LIGHT_WIDTH,
  MOVING_LIT,
  MOVING_OUT,
  MOVING_SEEN,
  MOVING_WIDTH,
  PIXEL_ALBEDO,
  PIXEL_DEPTH,
  PIXEL_FEATURES,
  PIXEL_NORMAL,
  PIXEL_SIZE,
  SCENE_CAMERA,
} from './layout';
import * as fog from './fog';
import { isFoggy } from './fog';
import * as m from './maths';

const LEAST_ALBEDO: f32 = 0.02;
/** Weight of a pixel of light that nothing speaks for but its nearness. */
const LEAST_WEIGHT: f32 = 1e-5;
/** So many pictures at most are averaged: light may change. */
const MOST_KEPT: f32 = 6;
/** Another distance, as a share, or another normal than this is another surface. */
const SAME_DISTANCE: f32 = 0.03;
const SAME_NORMAL: f32 = 0.9;

let albedoR: f32 = 0;
let albedoG: f32 = 0;
let albedoB: f32 = 0;
let normalX: f32 = 0;
let normalY: f32 = 0;
let normalZ: f32 = 0;
let distance: f32 = 0;

function readFeatures(q: usize): bool {
  const features = load<f32>(q, PIXEL_FEATURES);
  if (features <= 0) return false;
  const share: f32 = 1 / features;
  albedoR = load<f32>(q, PIXEL_ALBEDO) * share;
  albedoG = load<f32>(q, PIXEL_ALBEDO + 4) * share;
  albedoB = load<f32>(q, PIXEL_ALBEDO + 8) * share;
  normalX = load<f32>(q, PIXEL_NORMAL) * share;
  normalY = load<f32>(q, PIXEL_NORMAL + 4) * share;
  normalZ = load<f32>(q, PIXEL_NORMAL + 8) * share;
  distance = load<f32>(q, PIXEL_DEPTH) * share;
  return true;
}

let lightR: f32 = 0;
let lightG: f32 = 0;
let lightB: f32 = 0;

/** Rows y0 to y1 of the light, put together for `joinMoving`: light over colour, and 1, or 0 where nothing is known; normal and distance; colour. */
export function prepareMoving(job: usize, y0: i32, y1: i32): void {
  const width = load<i32>(job, MOVING_LIGHT_WIDTH);
  for (let i = y0 * width; i < y1 * width; i++) {
    const to = <usize>load<u32>(job, MOVING_LIT) + <usize>i * LIT_SIZE,
      l = <usize>load<u32>(job, MOVING_CLEAN) + (<usize>i << 4);
    const known = readFeatures(<usize>load<u32>(job, MOVING_LIGHT) + <usize>i * PIXEL_SIZE);
    store<f32>(to, load<f32>(l) / max<f32>(LEAST_ALBEDO, albedoR));
    store<f32>(to, load<f32>(l, 4) / max<f32>(LEAST_ALBEDO, albedoG), 4);
    store<f32>(to, load<f32>(l, 8) / max<f32>(LEAST_ALBEDO, albedoB), 8);
    store<f32>(to, known ? 1 : 0, 12);
    store<f32>(to, normalX, 16);
    store<f32>(to, normalY, 20);
    store<f32>(to, normalZ, 24);
    store<f32>(to, distance, 28);
    store<f32>(to, albedoR, 32);
    store<f32>(to, albedoG, 36);
    store<f32>(to, albedoB, 40);
  }
}

/** exp(-x) to about a tenth, for weights: (1 + x/8)^-8. */
// @ts-ignore: decorator
@inline
function fallOff(x: f32): f32 {
  let a: f32 = 1 + x * <f32>0.125;
  a *= a;
  a *= a;
  return 1 / (a * a);
}

/** Light over colour for a place in the film of light, in its pixels, for the surface in hand. */
function carryLight(job: usize, x: f32, y: f32): void {
  const width = load<i32>(job, MOVING_LIGHT_WIDTH),
    height = load<i32>(job, MOVING_LIGHT_HEIGHT);
  const lit = <usize>load<u32>(job, MOVING_LIT);
  const column = <i32>Mathf.floor(x),
    row = <i32>Mathf.floor(y);
  const nearer: f32 = 20 / max<f32>(distance, <f32>0.1);
  let sum = f32x4.splat(0);
  for (let j = max(0, row - 1); j <= min(height - 1, row + 1); j++) {
    const dy: f32 = <f32>j + <f32>0.5 - y;
    const nearY: f32 = <f32>2.25 - dy * dy;
    for (let i = max(0, column - 1); i <= min(width - 1, column + 1); i++) {
      const l = lit + <usize>(j * width + i) * LIT_SIZE;
      const dx: f32 = <f32>i + <f32>0.5 - x;
      const nx = normalX - load<f32>(l, 16),
        ny = normalY - load<f32>(l, 20),
        nz = normalZ - load<f32>(l, 24);
      let facing = max<f32>(0, 1 - <f32>0.5 * m.dot(nx, ny, nz, nx, ny, nz));
      facing *= facing;
      facing *= facing;
      const unlike = nearer * abs(distance - load<f32>(l, 28))
        + 6 * (abs(albedoR - load<f32>(l, 32)) + abs(albedoG - load<f32>(l, 36)) + abs(albedoB - load<f32>(l, 40)));
      const weight = nearY * (<f32>2.25 - dx * dx) * load<f32>(l, 12) * (facing * fallOff(unlike) + LEAST_WEIGHT);
      sum = f32x4.add(sum, f32x4.mul(f32x4.replace_lane(v128.load(l), 3, 1), f32x4.splat(weight)));
    }
  }
  const weights = f32x4.extract_lane(sum, 3);
  const inverse: f32 = weights > 0 ? 1 / weights : 0;
  lightR = f32x4.extract_lane(sum, 0) * inverse;
  lightG = f32x4.extract_lane(sum, 1) * inverse;
  lightB = f32x4.extract_lane(sum, 2) * inverse;
}

/**
 * One ray a pixel meets joints and grain of maps by chance: a colour that stands alone is brought to the second darkest or second
 * brightest of those about it. Channels of colour and features, f32x4; not at the picture's rim.
 */
function steadyAlbedo(q: usize, x: i32, y: i32, width: i32, height: i32): void {
  if (x == 0 || y == 0 || x == width - 1 || y == height - 1) return;
  const line = <usize>width * PIXEL_SIZE;
  let low = f32x4.splat(1e9),
    nextLow = low,
    high = f32x4.splat(-1e9),
    nextHigh = high;
  for (let j: usize = 0; j < 3; j++)
    for (let i: usize = 0; i < 3; i++) {
      if (i == 1 && j == 1) continue;
      const a = v128.load(q + j * line + i * PIXEL_SIZE - line - PIXEL_SIZE, PIXEL_ALBEDO);
      nextLow = f32x4.min(nextLow, f32x4.max(low, a));
      low = f32x4.min(low, a);
      nextHigh = f32x4.max(nextHigh, f32x4.min(high, a));
      high = f32x4.max(high, a);
    }
  albedoR = max(f32x4.extract_lane(nextLow, 0), min(f32x4.extract_lane(nextHigh, 0), albedoR));
  albedoG = max(f32x4.extract_lane(nextLow, 1), min(f32x4.extract_lane(nextHigh, 1), albedoG));
  albedoB = max(f32x4.extract_lane(nextLow, 2), min(f32x4.extract_lane(nextHigh, 2), albedoB));
}

/** Where what was kept of the surface in hand lies, seen along a direction from `eye`; 0: it was not seen. */
function keptOf(job: usize, eye: usize, dx: f32, dy: f32, dz: f32): usize {
  const before = <usize>load<u32>(job, MOVING_BEFORE);
  if (!before) return 0;
  const c = job + MOVING_CAMERA;
  const vx = load<f32>(eye) + dx * distance - load<f32>(c),
    vy = load<f32>(eye, 4) + dy * distance - load<f32>(c, 4),
    vz = load<f32>(eye, 8) + dz * distance - load<f32>(c, 8);
  const rx = load<f32>(c, 24),
    ry = load<f32>(c, 28),
    rz = load<f32>(c, 32),
    ux = load<f32>(c, 36),
    uy = load<f32>(c, 40),
    uz = load<f32>(c, 44);
  const fx = load<f32>(c, 12),
    fy = load<f32>(c, 16),
    fz = load<f32>(c, 20);
  // Along the picture's normal, from which a shifted lens leans.
  m.normalise(uy * rz - uz * ry, uz * rx - ux * rz, ux * ry - uy * rx);
  const ahead = m.dot(vx, vy, vz, m.rx, m.ry, m.rz);
  if (ahead <= 0) return 0;
  const sx: f32 = (m.dot(vx, vy, vz, rx, ry, rz) / ahead - m.dot(fx, fy, fz, rx, ry, rz)) / lengthSquared(c + 24),
    sy: f32 = (m.dot(vx, vy, vz, ux, uy, uz) / ahead - m.dot(fx, fy, fz, ux, uy, uz)) / lengthSquared(c + 36);
  if (abs(sx) >= 1 || abs(sy) >= 1) return 0;
  const width = load<i32>(job, MOVING_BEFORE_WIDTH),
    height = load<i32>(job, MOVING_BEFORE_HEIGHT);
  const i = <i32>((sx + <f32>1) * <f32>0.5 * <f32>width),
    j = <i32>((<f32>1 - sy) * <f32>0.5 * <f32>height);
  const k = before + <usize>(min(height - 1, j) * width + min(width - 1, i)) * KEPT_SIZE;
  const away = sqrt<f32>(vx * vx + vy * vy + vz * vz);
  if (abs(load<f32>(k, 28) - away) > SAME_DISTANCE * away) return 0;
  if (m.dot(normalX, normalY, normalZ, load<f32>(k, 16), load<f32>(k, 20), load<f32>(k, 24)) < SAME_NORMAL) return 0;
  return k;
}

function lengthSquared(v: usize): f32 {
  return m.dot(load<f32>(v), load<f32>(v, 4), load<f32>(v, 8), load<f32>(v), load<f32>(v, 4), load<f32>(v, 8));
}

/** Rows y0 to y1 of the moving picture (see MOVING_* in layout.ts), seen by the scene's camera. */
export function joinMoving(scene: usize, job: usize, y0: i32, y1: i32): void {
  const width = load<i32>(job, MOVING_WIDTH),
    height = load<i32>(job, MOVING_HEIGHT);
  const scaleX = <f32>load<i32>(job, MOVING_LIGHT_WIDTH) / <f32>width,
    scaleY = <f32>load<i32>(job, MOVING_LIGHT_HEIGHT) / <f32>height;
  const c = scene + SCENE_CAMERA;
  for (let y = y0; y < y1; y++)
    for (let x = 0; x < width; x++) {
      const at = <usize>(y * width + x);
      const q = <usize>load<u32>(job, MOVING_SEEN) + at * PIXEL_SIZE,
        kept = <usize>load<u32>(job, MOVING_KEPT) + at * KEPT_SIZE,
        out = <usize>load<u32>(job, MOVING_OUT) + (at << 4);
      let r = load<f32>(q),
        g = load<f32>(q, 4),
        b = load<f32>(q, 8);
      let pictures: f32 = 0;
      if (readFeatures(q)) {
        steadyAlbedo(q, x, y, width, height);
        carryLight(job, (<f32>x + <f32>0.5) * scaleX, (<f32>y + <f32>0.5) * scaleY);
        const sx: f32 = (2 * <f32>x + 1) / <f32>width - 1,
          sy: f32 = 1 - (2 * <f32>y + 1) / <f32>height;
        m.normalise(
          load<f32>(c, 12) + load<f32>(c, 24) * sx + load<f32>(c, 36) * sy,
          load<f32>(c, 16) + load<f32>(c, 28) * sx + load<f32>(c, 40) * sy,
          load<f32>(c, 20) + load<f32>(c, 32) * sx + load<f32>(c, 44) * sy,
        );
        const k = keptOf(job, c, m.rx, m.ry, m.rz);
        if (k) {
          pictures = min(MOST_KEPT - 1, load<f32>(k, 12));
          const share: f32 = 1 / (pictures + 1);
          lightR = load<f32>(k) + (lightR - load<f32>(k)) * share;
          lightG = load<f32>(k, 4) + (lightG - load<f32>(k, 4)) * share;
          lightB = load<f32>(k, 8) + (lightB - load<f32>(k, 8)) * share;
        }
        r += lightR * albedoR;
        g += lightG * albedoG;
        b += lightB * albedoB;
      } else {
        lightR = lightG = lightB = 0;
        normalX = normalY = normalZ = 0;
        distance = -1;
      }
      if (isFoggy(scene)) {
        const far = distance < 0 ? <f32>1e5 : distance;
        const sx: f32 = (2 * <f32>x + 1) / <f32>width - 1,
          sy: f32 = 1 - (2 * <f32>y + 1) / <f32>height;
        m.normalise(
          load<f32>(c, 12) + load<f32>(c, 24) * sx + load<f32>(c, 36) * sy,
          load<f32>(c, 16) + load<f32>(c, 28) * sx + load<f32>(c, 40) * sy,
          load<f32>(c, 20) + load<f32>(c, 32) * sx + load<f32>(c, 44) * sy,
        );
        fog.veil(scene, load<f32>(c, 8), m.rx, m.ry, m.rz, far);
        r = r * fog.left + fog.veilR;
        g = g * fog.left + fog.veilG;
        b = b * fog.left + fog.veilB;
      }
      store<f32>(kept, lightR);
      store<f32>(kept, lightG, 4);
      store<f32>(kept, lightB, 8);
      store<f32>(kept, pictures + 1, 12);
      store<f32>(kept, normalX, 16);
      store<f32>(kept, normalY, 20);
      store<f32>(kept, normalZ, 24);
      store<f32>(kept, distance, 28);
      store<f32>(out, r);
      store<f32>(out, g, 4);
      store<f32>(out, b, 8);
      store<f32>(out, 1, 12);
    }
}
