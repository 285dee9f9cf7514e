/** Surfaces with relief, see core/finish/relief.ts: where rays meet it, and whether they leave it again. */
import { sampleHeight } from './texture';

const STEP: f32 = 256;
const LEAST: i32 = 8;
const MOST: i32 = 48;
const HALVINGS: i32 = 5;
/** A ray that leaves starts so much above the place, as a share of the depth, or it would stop where it stands. */
const FREE: f32 = 0.02;

/** The last surface that was resolved: whether it has relief, its height map, metres to its ground, and how map coordinates grow along a world vector. */
export let on: bool = false;
let map: i32 = -1;
let patched: bool = false;
let depth: f32 = 0;
let gx: f32 = 0;
let gy: f32 = 0;
let gz: f32 = 0;
let sx: f32 = 0;
let sy: f32 = 0;
let sz: f32 = 0;
let tx: f32 = 0;
let ty: f32 = 0;
let tz: f32 = 0;
/** Map coordinates and level of the place on it. */
export let s: f32 = 0;
export let t: f32 = 0;
let level: f32 = 1;
/** Metres along the ray from where it was to where it is now, or to where it leaves. */
export let length: f32 = 0;

/** The place that a path stands on, kept while other surfaces are looked at. */
export let heldOn: bool = false;
let heldS: f32 = 0;
let heldT: f32 = 0;
let heldLevel: f32 = 1;
let heldMap: i32 = -1;
let heldPatched: bool = false;
let heldDepth: f32 = 0;
let heldG0: f32 = 0;
let heldG1: f32 = 0;
let heldG2: f32 = 0;
let heldS0: f32 = 0;
let heldS1: f32 = 0;
let heldS2: f32 = 0;
let heldT0: f32 = 0;
let heldT1: f32 = 0;
let heldT2: f32 = 0;

export function none(): void {
  on = false;
}

/** The relief of a face: its normal towards the ray, and the gradients of its map coordinates in the world. */
export function begin(
  texture: i32, isPatched: bool, metres: f32, nx: f32, ny: f32, nz: f32, ax: f32, ay: f32, az: f32, bx: f32, by: f32, bz: f32,
): void {
  on = true;
  map = texture;
  patched = isPatched;
  depth = metres;
  gx = nx;
  gy = ny;
  gz = nz;
  sx = ax;
  sy = ay;
  sz = az;
  tx = bx;
  ty = by;
  tz = bz;
}

/** Puts the present place where a ray that stays in the relief has met it; see `rise`. */
export function pin(atS: f32, atT: f32): void {
  s = atS;
  t = atT;
  level = pinnedLevel;
  length = 0;
}

let pinnedLevel: f32 = 1;

// @ts-ignore: decorator
@inline
function stepsFor(ds: f32, dt: f32): i32 {
  return min(MOST, max(LEAST, <i32>ceil<f32>(sqrt<f32>(ds * ds + dt * dt) * STEP)));
}

/** From the face at (s, t) into the relief; leaves s, t and length. */
export function descend(scene: usize, atS: f32, atT: f32, dx: f32, dy: f32, dz: f32): void {
  const down = max<f32>(<f32>1e-3, -(dx * gx + dy * gy + dz * gz));
  const way = depth / down;
  const ds = (dx * sx + dy * sy + dz * sz) * way,
    dt = (dx * tx + dy * ty + dz * tz) * way;
  const steps = stepsFor(ds, dt);
  let before: f32 = 0,
    after: f32 = 1;
  for (let i = 1; i <= steps; i++) {
    after = <f32>i / <f32>steps;
    if (1 - after <= sampleHeight(scene, map, patched, atS + ds * after, atT + dt * after)) break;
    before = after;
  }
  for (let i = 0; i < HALVINGS; i++) {
    const middle = (before + after) * 0.5;
    if (1 - middle <= sampleHeight(scene, map, patched, atS + ds * middle, atT + dt * middle)) after = middle;
    else before = middle;
  }
  s = atS + ds * after;
  t = atT + dt * after;
  level = 1 - after;
  length = way * after;
}

/** Metres that the place lies below its face. */
export function below(): f32 {
  return (1 - level) * depth;
}

export function hold(): void {
  heldOn = on;
  if (!on) return;
  heldS = s;
  heldT = t;
  heldLevel = level;
  heldMap = map;
  heldPatched = patched;
  heldDepth = depth;
  heldG0 = gx;
  heldG1 = gy;
  heldG2 = gz;
  heldS0 = sx;
  heldS1 = sy;
  heldS2 = sz;
  heldT0 = tx;
  heldT1 = ty;
  heldT2 = tz;
}

export function release(): void {
  heldOn = false;
}

/** From the held place outwards. True: the way to the face is free, `length` metres long. False: met at s, t after `length`. */
export function rises(scene: usize, dx: f32, dy: f32, dz: f32): bool {
  const up = max<f32>(<f32>1e-3, dx * heldG0 + dy * heldG1 + dz * heldG2);
  const rest: f32 = 1 - heldLevel;
  const way = (rest * heldDepth) / up;
  length = way;
  if (rest <= FREE) return true;
  const ds = (dx * heldS0 + dy * heldS1 + dz * heldS2) * way,
    dt = (dx * heldT0 + dy * heldT1 + dz * heldT2) * way;
  const steps = stepsFor(ds, dt);
  let before: f32 = 0;
  for (let i = 1; i < steps; i++) {
    const share = <f32>i / <f32>steps;
    const z = heldLevel + rest * share;
    if (z - heldLevel > FREE && z < sampleHeight(scene, heldMap, heldPatched, heldS + ds * share, heldT + dt * share)) {
      let after = share;
      for (let k = 0; k < HALVINGS; k++) {
        const middle = (before + after) * 0.5;
        if (heldLevel + rest * middle < sampleHeight(scene, heldMap, heldPatched, heldS + ds * middle, heldT + dt * middle)) after = middle;
        else before = middle;
      }
      s = heldS + ds * after;
      t = heldT + dt * after;
      pinnedLevel = heldLevel + rest * after;
      length = way * after;
      return false;
    }
    before = share;
  }
  return true;
}
