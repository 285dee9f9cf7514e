/**
 * Frames for bundles of long triangles that slant through space, such as bars, rails and cables: their boxes are narrow once
 * space is sheared along them. Woop, Benthin, Wald, Johnson & Tabellion 2014, "Exploiting Local Orientation Similarity for
 * Efficient Ray Traversal of Hair and Fur", turns the boxes; a shear keeps one axis, so that a ray follows in six products.
 * A frame is the direction of the bundle, scaled to 1 along its main axis k and told without it: u, with u_k = 0. A point p
 * goes to p - u p_k.
 */
import { BOUNDS_SIZE } from './layout';

/** A frame: u xyz, then the number of the main axis, 1 to 3. What a node carries at NODE_SHEAR. */
const FRAME_SIZE: usize = 16;
/** Bundles of more are looked at in parts. */
const MOST: i32 = 1024;
/** Longer than so many times their height, triangles are long. */
const LONG: f32 = 4;
/** Cosine within which they go the same way. */
const SAME_WAY: f32 = 0.97;
/** Less of a slant is left to boxes as they are. */
const LEAST_SLANT: f32 = 0.02;
/** Share of the upright box's surface that the sheared one may have at most. */
const WORTH_SHEARING: f32 = 0.6;

let frames: usize = 0;
let frameCount: i32 = 0;
let boxes: usize = 0;
let positions: usize = 0;
let indices: usize = 0;
let pad: f32 = 0;

/** Bytes that `attachSlant` needs for so many references. */
// @ts-ignore: decorator
@inline
export function slantScratchSize(count: i32): usize {
  return (<usize>(count / 4) + 2) * FRAME_SIZE + <usize>min(count, MOST) * BOUNDS_SIZE;
}

/**
 * Before a tree over `count` references is built. `extent`: greatest coordinate of the mesh, either way, metres; `scratch` holds
 * `slantScratchSize`.
 */
export function attachSlant(positionsPointer: usize, indicesPointer: usize, count: i32, extent: f32, scratch: usize): void {
  positions = positionsPointer;
  indices = indicesPointer;
  boxes = scratch;
  frames = boxes + <usize>min(count, MOST) * BOUNDS_SIZE;
  frameCount = 0;
  pad = extent * <f32>2e-6;
}

/** Address of a frame, numbered from 1. */
// @ts-ignore: decorator
@inline
export function frameAt(frame: i32): usize {
  return frames + <usize>(frame - 1) * FRAME_SIZE;
}

// @ts-ignore: decorator
@inline
function corner(triangle: i32, k: usize): usize {
  return positions + <usize>load<u32>(indices + <usize>triangle * 12 + k * 4) * 12;
}

let ex: f32 = 0;
let ey: f32 = 0;
let ez: f32 = 0;

/** Longest side of a triangle into e; its length, or 0 where the triangle is not long. */
function longSide(t: i32): f32 {
  let longest: f32 = 0;
  for (let k: usize = 0; k < 3; k++) {
    const a = corner(t, k),
      b = corner(t, k == 2 ? 0 : k + 1);
    const x = load<f32>(b) - load<f32>(a),
      y = load<f32>(b, 4) - load<f32>(a, 4),
      z = load<f32>(b, 8) - load<f32>(a, 8);
    const l = x * x + y * y + z * z;
    if (l <= longest) continue;
    longest = l;
    ex = x;
    ey = y;
    ez = z;
  }
  const a = corner(t, 0),
    b = corner(t, 1),
    c = corner(t, 2);
  const px = load<f32>(b) - load<f32>(a),
    py = load<f32>(b, 4) - load<f32>(a, 4),
    pz = load<f32>(b, 8) - load<f32>(a, 8);
  const qx = load<f32>(c) - load<f32>(a),
    qy = load<f32>(c, 4) - load<f32>(a, 4),
    qz = load<f32>(c, 8) - load<f32>(a, 8);
  const x = py * qz - pz * qy,
    y = pz * qx - px * qz,
    z = px * qy - py * qx;
  return longest > LONG * sqrt<f32>(x * x + y * y + z * z) ? sqrt<f32>(longest) : 0;
}

let boxLow: v128 = f32x4.splat(0);
let boxHigh: v128 = f32x4.splat(0);

function extend(x: f32, y: f32, z: f32, u: v128, along: f32): void {
  const p = f32x4.sub(f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, x), 1, y), 2, z), f32x4.mul(u, f32x4.splat(along)));
  boxLow = f32x4.pmin(boxLow, p);
  boxHigh = f32x4.pmax(boxHigh, p);
}

/** Sheared box of the part of a triangle between two planes across axis k, into boxLow and boxHigh. */
function shearedBox(t: i32, k: usize, from: f32, to: f32, u: v128): void {
  boxLow = f32x4.splat(Infinity);
  boxHigh = f32x4.splat(-Infinity);
  for (let i: usize = 0; i < 3; i++) {
    const a = corner(t, i),
      b = corner(t, i == 2 ? 0 : i + 1);
    const ka = load<f32>(a + k),
      kb = load<f32>(b + k);
    const ax = load<f32>(a),
      ay = load<f32>(a, 4),
      az = load<f32>(a, 8);
    if (ka >= from && ka <= to) extend(ax, ay, az, u, ka);
    for (let side = 0; side < 2; side++) {
      const plane = side ? to : from;
      if (!((ka < plane && kb > plane) || (ka > plane && kb < plane))) continue;
      const s = (plane - ka) / (kb - ka);
      extend(ax + (load<f32>(b) - ax) * s, ay + (load<f32>(b, 4) - ay) * s, az + (load<f32>(b, 8) - az) * s, u, plane);
    }
  }
}

/** Half the surface of a sheared box of such sides, as it is in space. */
// @ts-ignore: decorator
@inline
function halfSurface(extent: v128, weights: v128): f32 {
  const x = f32x4.extract_lane(extent, 0),
    y = f32x4.extract_lane(extent, 1),
    z = f32x4.extract_lane(extent, 2);
  return y * z * f32x4.extract_lane(weights, 0) + z * x * f32x4.extract_lane(weights, 1) + x * y * f32x4.extract_lane(weights, 2);
}

/** By how much the shear of u stretches the faces across x, y and z. */
// @ts-ignore: decorator
@inline
export function stretchOf(u: v128): v128 {
  return f32x4.sqrt(f32x4.add(f32x4.splat(1), f32x4.mul(u, u)));
}

/**
 * The frame in which references `first` and on, whose upright boxes lie within low and high, have much smaller boxes; these then
 * replace the upright ones. 0: there is none. `bounds`, `order`, `owners`: of the tree that is being built.
 */
export function slantOf(bounds: usize, order: usize, owners: usize, first: i32, count: i32, low: v128, high: v128): i32 {
  if (count > MOST) return 0;
  let sx: f32 = 0,
    sy: f32 = 0,
    sz: f32 = 0;
  let strays = 0;
  const allowed = count / 8;
  for (let i = 0; i < count; i++) {
    const l = longSide(load<i32>(owners + <usize>load<i32>(order + <usize>(first + i) * 4) * 4));
    const d = ex * sx + ey * sy + ez * sz;
    if (l == 0 || (sx * sx + sy * sy + sz * sz > 0 && abs(d) < SAME_WAY * l * sqrt<f32>(sx * sx + sy * sy + sz * sz))) {
      if (++strays > allowed) return 0;
      continue;
    }
    const sign: f32 = d < 0 ? -1 : 1;
    sx += ex * sign;
    sy += ey * sign;
    sz += ez * sign;
  }
  const k: usize = abs(sx) >= abs(sy) && abs(sx) >= abs(sz) ? 0 : abs(sy) >= abs(sz) ? 1 : 2;
  const main = k == 0 ? sx : k == 1 ? sy : sz;
  if (main == 0) return 0;
  const ux: f32 = k == 0 ? 0 : sx / main,
    uy: f32 = k == 1 ? 0 : sy / main,
    uz: f32 = k == 2 ? 0 : sz / main;
  if (abs(ux) < LEAST_SLANT && abs(uy) < LEAST_SLANT && abs(uz) < LEAST_SLANT) return 0;
  const u = f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, ux), 1, uy), 2, uz);
  const about = f32x4.replace_lane(f32x4.splat(pad), 3, 0);
  let allLow = f32x4.splat(Infinity),
    allHigh = f32x4.splat(-Infinity);
  for (let i = 0; i < count; i++) {
    const upright = bounds + <usize>(first + i) * BOUNDS_SIZE;
    shearedBox(
      load<i32>(owners + <usize>load<i32>(order + <usize>(first + i) * 4) * 4),
      k * 4,
      load<f32>(upright + k * 4) - pad,
      load<f32>(upright + k * 4, 16) + pad,
      u,
    );
    const a = f32x4.sub(boxLow, about),
      b = f32x4.add(boxHigh, about);
    v128.store(boxes + <usize>i * BOUNDS_SIZE, a);
    v128.store(boxes + <usize>i * BOUNDS_SIZE, b, 16);
    allLow = f32x4.pmin(allLow, a);
    allHigh = f32x4.pmax(allHigh, b);
  }
  const sheared = halfSurface(f32x4.sub(allHigh, allLow), stretchOf(u)),
    upright = halfSurface(f32x4.sub(high, low), f32x4.splat(1));
  if (!(sheared < upright * WORTH_SHEARING)) return 0;
  memory.copy(bounds + <usize>first * BOUNDS_SIZE, boxes, <usize>count * BOUNDS_SIZE);
  const frame = ++frameCount;
  v128.store(frameAt(frame), u);
  store<i32>(frameAt(frame), <i32>k + 1, 12);
  return frame;
}
