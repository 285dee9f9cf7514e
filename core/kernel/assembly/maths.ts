/** Small vector results, left in module variables because the kernel never allocates. */
export let rx: f32 = 0;
export let ry: f32 = 0;
export let rz: f32 = 0;

// @ts-ignore: decorator
@inline
export function dot(ax: f32, ay: f32, az: f32, bx: f32, by: f32, bz: f32): f32 {
  return ax * bx + ay * by + az * bz;
}

export function set(x: f32, y: f32, z: f32): void {
  rx = x;
  ry = y;
  rz = z;
}

export function normalise(x: f32, y: f32, z: f32): void {
  const l = x * x + y * y + z * z;
  const s: f32 = l > 0 ? 1 / sqrt<f32>(l) : 0;
  rx = x * s;
  ry = y * s;
  rz = z * s;
}

/** Rec.709 luminance. */
// @ts-ignore: decorator
@inline
export function luminance(r: f32, g: f32, b: f32): f32 {
  return <f32>0.2126 * r + <f32>0.7152 * g + <f32>0.0722 * b;
}

let ux: f32 = 0;
let uy: f32 = 0;
let uz: f32 = 0;
let vx: f32 = 0;
let vy: f32 = 0;
let vz: f32 = 0;
let wx: f32 = 0;
let wy: f32 = 0;
let wz: f32 = 1;

/** Sets the local frame about a unit vector: Duff et al. 2017, "Building an Orthonormal Basis, Revisited". */
export function setFrame(x: f32, y: f32, z: f32): void {
  const s: f32 = z >= 0 ? 1 : -1;
  const a: f32 = -1 / (s + z);
  const b = x * y * a;
  ux = 1 + s * x * x * a;
  uy = s * b;
  uz = -s * x;
  vx = b;
  vy = s + y * y * a;
  vz = -y;
  wx = x;
  wy = y;
  wz = z;
}

/** The same with its x as near as may be to a direction; any, where that stands upright on the surface. */
export function setFrameAlong(x: f32, y: f32, z: f32, ax: f32, ay: f32, az: f32): void {
  setFrame(x, y, z);
  const d = ax * x + ay * y + az * z;
  const px = ax - d * x,
    py = ay - d * y,
    pz = az - d * z;
  const l = px * px + py * py + pz * pz;
  if (l < 1e-6) return;
  const s: f32 = 1 / sqrt<f32>(l);
  ux = px * s;
  uy = py * s;
  uz = pz * s;
  vx = y * uz - z * uy;
  vy = z * ux - x * uz;
  vz = x * uy - y * ux;
}

export function toWorld(x: f32, y: f32, z: f32): void {
  rx = x * ux + y * vx + z * wx;
  ry = x * uy + y * vy + z * wy;
  rz = x * uz + y * vz + z * wz;
}

export function toLocal(x: f32, y: f32, z: f32): void {
  rx = x * ux + y * uy + z * uz;
  ry = x * vx + y * vy + z * vz;
  rz = x * wx + y * wy + z * wz;
}

/** sin and cos of 2 pi u by folding to an eighth turn; error under 2e-7. */
export let sine: f32 = 0;
export let cosine: f32 = 0;
export function turn(u: f32): void {
  const quarter = floor<f32>(u * 4 + 0.5);
  const a = (u - quarter * 0.25) * <f32>6.2831853;
  const q = a * a;
  const s = a * (1 - q * (<f32>0.16666667 - q * (<f32>0.008333333 - q * <f32>0.00019841270)));
  const c: f32 = 1 - q * (<f32>0.5 - q * (<f32>0.041666667 - q * (<f32>0.0013888889 - q * <f32>0.0000248016)));
  const k = <i32>quarter & 3;
  sine = k == 0 ? s : k == 1 ? c : k == 2 ? -s : -c;
  cosine = k == 0 ? c : k == 1 ? -s : k == 2 ? -c : s;
}
