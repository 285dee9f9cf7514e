/**
 * Cuts the boxes of long slanting triangles into smaller ones before the tree is built, so that their empty corners are
 * not walked: Karras & Aila 2013, "Fast Parallel Construction of High-Quality Bounding Volume Hierarchies", section 4.
 * A reference is a box and the triangle that it holds a part of.
 */
import { BOUNDS_SIZE } from './layout';

/** Planes lie on a grid of this many steps over the mesh, so that neighbours are cut at the same ones. */
const GRID_BITS: i32 = 20;
const MOST_CUTS: i32 = 48;
/** Boxes that waste less than this share of the mesh's own area are left whole. */
const WORTH_CUTTING: f32 = 1e-6;

let positions: usize = 0;
let indices: usize = 0;
let bounds: usize = 0;
let owners: usize = 0;
let count: i32 = 0;
let pad: f32 = 0;
let lowX: f32 = 0;
let lowY: f32 = 0;
let lowZ: f32 = 0;
let sizeX: f32 = 0;
let sizeY: f32 = 0;
let sizeZ: f32 = 0;

/** Most references that `presplit` makes of so many triangles. */
export function referenceCapacity(triangles: i32): i32 {
  return triangles + triangles / 4 + 32;
}

// @ts-ignore: decorator
@inline
function corner(triangle: i32, k: usize): usize {
  return positions + <usize>load<u32>(indices + <usize>triangle * 12 + k * 4) * 12;
}

/** Area that a triangle's box has beyond twice what the triangle covers of its sides; none for one in an axis plane. */
function waste(t: i32): f32 {
  const a = corner(t, 0),
    b = corner(t, 1),
    c = corner(t, 2);
  const ux = load<f32>(b) - load<f32>(a),
    uy = load<f32>(b, 4) - load<f32>(a, 4),
    uz = load<f32>(b, 8) - load<f32>(a, 8);
  const vx = load<f32>(c) - load<f32>(a),
    vy = load<f32>(c, 4) - load<f32>(a, 4),
    vz = load<f32>(c, 8) - load<f32>(a, 8);
  const covered = abs(uy * vz - uz * vy) + abs(uz * vx - ux * vz) + abs(ux * vy - uy * vx);
  const q = bounds + <usize>t * BOUNDS_SIZE;
  const x = load<f32>(q, 16) - load<f32>(q),
    y = load<f32>(q, 20) - load<f32>(q, 4),
    z = load<f32>(q, 24) - load<f32>(q, 8);
  return x * y + y * z + z * x - covered;
}

function cutsOf(t: i32, threshold: f32, scale: f32): i32 {
  const w = waste(t);
  return w > threshold ? min(MOST_CUTS, <i32>(Mathf.cbrt(w) * scale)) : 0;
}

function write(at: i32, owner: i32, x0: f32, y0: f32, z0: f32, x1: f32, y1: f32, z1: f32): void {
  const q = bounds + <usize>at * BOUNDS_SIZE;
  store<f32>(q, x0);
  store<f32>(q, y0, 4);
  store<f32>(q, z0, 8);
  store<f32>(q, 0, 12);
  store<f32>(q, x1, 16);
  store<f32>(q, y1, 20);
  store<f32>(q, z1, 24);
  store<f32>(q, 0, 28);
  store<i32>(owners + <usize>at * 4, owner);
}

/** The coarsest plane of the grid strictly between two places along an axis, or NaN. */
function planeBetween(from: f32, to: f32, low: f32, size: f32): f32 {
  const steps = <f32>(1 << GRID_BITS);
  const a = <i32>(((from - low) / size) * steps),
    b = <i32>(((to - low) / size) * steps);
  if (a == b) return NaN;
  const bit = 31 - clz(a ^ b);
  const plane = low + (<f32>((b >> bit) << bit) / steps) * size;
  return plane > from && plane < to ? plane : NaN;
}

/** Box of the part of a triangle on one side of a plane, within the box it had; left in part*. */
let partX0: f32 = 0;
let partY0: f32 = 0;
let partZ0: f32 = 0;
let partX1: f32 = 0;
let partY1: f32 = 0;
let partZ1: f32 = 0;

function extend(x: f32, y: f32, z: f32): void {
  partX0 = min(partX0, x);
  partY0 = min(partY0, y);
  partZ0 = min(partZ0, z);
  partX1 = max(partX1, x);
  partY1 = max(partY1, y);
  partZ1 = max(partZ1, z);
}

function clip(t: i32, axis: usize, plane: f32, upper: bool, x0: f32, y0: f32, z0: f32, x1: f32, y1: f32, z1: f32): void {
  partX0 = partY0 = partZ0 = Infinity;
  partX1 = partY1 = partZ1 = -Infinity;
  for (let k: usize = 0; k < 3; k++) {
    const a = corner(t, k),
      b = corner(t, k == 2 ? 0 : k + 1);
    const da = load<f32>(a + axis * 4) - plane,
      db = load<f32>(b + axis * 4) - plane;
    if (upper ? da >= 0 : da <= 0) extend(load<f32>(a), load<f32>(a, 4), load<f32>(a, 8));
    if ((da < 0 && db > 0) || (da > 0 && db < 0)) {
      const s = da / (da - db);
      extend(
        load<f32>(a) + (load<f32>(b) - load<f32>(a)) * s,
        load<f32>(a, 4) + (load<f32>(b, 4) - load<f32>(a, 4)) * s,
        load<f32>(a, 8) + (load<f32>(b, 8) - load<f32>(a, 8)) * s,
      );
    }
  }
  partX0 = max(x0, partX0 - pad);
  partY0 = max(y0, partY0 - pad);
  partZ0 = max(z0, partZ0 - pad);
  partX1 = min(x1, partX1 + pad);
  partY1 = min(y1, partY1 + pad);
  partZ1 = min(z1, partZ1 + pad);
}

/** Cuts the reference at `at` up to `cuts` times; new parts go to the end. */
function cut(at: i32, t: i32, cuts: i32): void {
  if (cuts <= 0) return;
  const q = bounds + <usize>at * BOUNDS_SIZE;
  const x0 = load<f32>(q),
    y0 = load<f32>(q, 4),
    z0 = load<f32>(q, 8),
    x1 = load<f32>(q, 16),
    y1 = load<f32>(q, 20),
    z1 = load<f32>(q, 24);
  const x = x1 - x0,
    y = y1 - y0,
    z = z1 - z0;
  const axis: usize = x >= y && x >= z ? 0 : y >= z ? 1 : 2;
  const plane = axis == 0 ? planeBetween(x0, x1, lowX, sizeX) : axis == 1 ? planeBetween(y0, y1, lowY, sizeY) : planeBetween(z0, z1, lowZ, sizeZ);
  if (isNaN(plane)) return;
  clip(t, axis, plane, true, x0, y0, z0, x1, y1, z1);
  const ux0 = partX0,
    uy0 = partY0,
    uz0 = partZ0,
    ux1 = partX1,
    uy1 = partY1,
    uz1 = partZ1;
  const upper = max(ux1 - ux0, max(uy1 - uy0, uz1 - uz0));
  clip(t, axis, plane, false, x0, y0, z0, x1, y1, z1);
  const lower = max(partX1 - partX0, max(partY1 - partY0, partZ1 - partZ0));
  if (!(upper > 0) || !(lower > 0)) return;
  write(at, t, partX0, partY0, partZ0, partX1, partY1, partZ1);
  const other = count++;
  write(other, t, ux0, uy0, uz0, ux1, uy1, uz1);
  const left = <i32>((<f32>(cuts - 1) * lower) / (lower + upper) + <f32>0.5);
  cut(at, t, left);
  cut(other, t, cuts - 1 - left);
}

/**
 * References for all triangles: boxes into `outBounds`, 32 bytes each, their triangles into `outOwners`, u32 each; both
 * hold `referenceCapacity`. The first ones must already be there, one whole box a triangle. Returns their number.
 */
export function presplit(positionsPointer: usize, indicesPointer: usize, triangles: i32, outBounds: usize, outOwners: usize): i32 {
  positions = positionsPointer;
  indices = indicesPointer;
  bounds = outBounds;
  owners = outOwners;
  count = triangles;
  let low = f32x4.splat(Infinity),
    high = f32x4.splat(-Infinity);
  for (let t = 0; t < triangles; t++) {
    const q = bounds + <usize>t * BOUNDS_SIZE;
    low = f32x4.pmin(low, v128.load(q));
    high = f32x4.pmax(high, v128.load(q, 16));
    store<i32>(owners + <usize>t * 4, t);
  }
  lowX = f32x4.extract_lane(low, 0);
  lowY = f32x4.extract_lane(low, 1);
  lowZ = f32x4.extract_lane(low, 2);
  sizeX = max<f32>(f32x4.extract_lane(high, 0) - lowX, 1e-6);
  sizeY = max<f32>(f32x4.extract_lane(high, 1) - lowY, 1e-6);
  sizeZ = max<f32>(f32x4.extract_lane(high, 2) - lowZ, 1e-6);
  pad = max(sizeX, max(sizeY, sizeZ)) * <f32>1e-6;
  const threshold = (sizeX * sizeY + sizeY * sizeZ + sizeZ * sizeX) * WORTH_CUTTING;
  let sum: f64 = 0;
  for (let t = 0; t < triangles; t++) {
    const w = waste(t);
    if (w > threshold) sum += Mathf.cbrt(w);
  }
  if (sum == 0) return triangles;
  const scale = <f32>(<f64>(referenceCapacity(triangles) - triangles) / sum);
  for (let t = 0; t < triangles; t++) cut(t, t, cutsOf(t, threshold, scale));
  return count;
}
