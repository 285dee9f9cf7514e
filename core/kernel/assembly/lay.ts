/** How maps lie on the face that a ray has hit: where they grow, where their grain and relief go. */
import { lane, vectorToWorld } from './face';
import * as m from './maths';
import * as relief from './relief';

/** How u and v grow along a vector of the world; see `growth`. */
export let uX: f32 = 0;
export let uY: f32 = 0;
export let uZ: f32 = 0;
export let vX: f32 = 0;
export let vY: f32 = 0;
export let vZ: f32 = 0;

/** Finds them for the present face, metres of the maps a metre of the world; false where the maps lie nowhere. */
export function growth(p: usize, u1: f32, v1: f32, u2: f32, v2: f32): bool {
  const det = u1 * v2 - u2 * v1;
  if (abs(det) < 1e-12) return false;
  const d: f32 = 1 / det;
  const e1x = lane(48),
    e1y = lane(64),
    e1z = lane(80),
    e2x = lane(96),
    e2y = lane(112),
    e2z = lane(128);
  vectorToWorld(p, (e1x * v2 - e2x * v1) * d, (e1y * v2 - e2y * v1) * d, (e1z * v2 - e2z * v1) * d);
  const a: f32 = 1 / m.dot(m.rx, m.ry, m.rz, m.rx, m.ry, m.rz);
  uX = m.rx * a;
  uY = m.ry * a;
  uZ = m.rz * a;
  vectorToWorld(p, (e2x * u1 - e1x * u2) * d, (e2y * u1 - e1y * u2) * d, (e2z * u1 - e1z * u2) * d);
  const b: f32 = 1 / m.dot(m.rx, m.ry, m.rz, m.rx, m.ry, m.rz);
  vX = m.rx * b;
  vY = m.ry * b;
  vZ = m.rz * b;
  return true;
}

/** The way across the grain in the world: the map's u, turned; in maths.r*. */
export function layAcross(cr: f32, sr: f32, c: f32, s: f32): void {
  // The finish's turn and the grain's, as one.
  const a = cr * c - sr * s,
    b = sr * c + cr * s;
  m.normalise(uX * a + vX * b, uY * a + vY * b, uZ * a + vZ * b);
}

/** Tells the relief how the maps lie on the face in the world. */
export function layRelief(
  map: i32, patched: bool, deep: f32, gx: f32, gy: f32, gz: f32, cr: f32, sr: f32, perU: f32, perV: f32,
): void {
  relief.begin(
    map, patched, deep / sqrt<f32>(m.dot(uX, uY, uZ, uX, uY, uZ)), gx, gy, gz,
    (cr * uX + sr * vX) * perU, (cr * uY + sr * vY) * perU, (cr * uZ + sr * vZ) * perU,
    (cr * vX - sr * uX) * perV, (cr * vY - sr * uY) * perV, (cr * vZ - sr * uZ) * perV,
  );
}

/** A normal tilted by (tx, ty), in maths.r*, along the directions in which u and v grow. */
export function tilt(nx: f32, ny: f32, nz: f32, tx: f32, ty: f32, side: f32): void {
  m.normalise(uX, uY, uZ);
  const ax = m.rx,
    ay = m.ry,
    az = m.rz;
  m.normalise(vX, vY, vZ);
  const z = sqrt<f32>(max<f32>(<f32>0.01, 1 - tx * tx - ty * ty));
  m.normalise(nx * z + (ax * tx + m.rx * ty) * side, ny * z + (ay * tx + m.ry * ty) * side, nz * z + (az * tx + m.rz * ty) * side);
}
