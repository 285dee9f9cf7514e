/** How maps lie on the face that a ray has hit: where they grow, where their grain and relief go. */
import {
  INSTANCE_FORWARD,
  INSTANCE_UV_OFFSET,
  INSTANCE_UV_SCALE,
  INSTANCE_UV_TURN,
  MAT_FROM_WORLD,
  MAT_UV_OFFSET,
  MAT_UV_ROTATION,
  MAT_UV_SCALE,
  MESH_UVS,
  MESH_UV_BYTES,
  MESH_UV_SETS,
} from './layout';
import { lane, vectorToWorld } from './face';
import * as m from './maths';
import * as relief from './relief';
import { hitU, hitV } from './trace';

/** How u and v grow along a vector of the world; see `growth`. */
export let uX: f32 = 0;
export let uY: f32 = 0;
export let uZ: f32 = 0;
export let vX: f32 = 0;
export let vY: f32 = 0;
export let vZ: f32 = 0;

/** Place in the maps that a hit shows, in repeats; see `place`. */
export let s: f32 = 0;
export let t: f32 = 0;
/** How it grows along two sides of the triangle, metres of the maps. */
let u1: f32 = 0;
let v1: f32 = 0;
let u2: f32 = 0;
let v2: f32 = 0;
/** Whether the maps lie somewhere on this face. */
export let laid: bool = false;
/** The finish's turn, and repeats a metre. */
let cr: f32 = 1;
let sr: f32 = 0;
let perU: f32 = 1;
let perV: f32 = 1;

/** Finds where maps by a set of the mesh's coordinates (the first, where it lacks that) lie on the triangle a b c that was hit. */
export function place(p: usize, q: usize, mesh: usize, set: i32, a: usize, b: usize, c: usize): void {
  const known: i32 = set < load<i32>(mesh, MESH_UV_SETS) ? set : 0;
  const uvs = <usize>load<u32>(mesh, MESH_UVS) + <usize>known * <usize>load<u32>(mesh, MESH_UV_BYTES);
  const larger = load<f32>(p, INSTANCE_UV_SCALE),
    turnC = load<f32>(p, INSTANCE_UV_TURN) * larger,
    turnS = load<f32>(p, INSTANCE_UV_TURN + 4) * larger;
  const ma = load<f32>(uvs + a * 8),
    na = load<f32>(uvs + a * 8, 4);
  const m1 = load<f32>(uvs + b * 8) - ma,
    n1 = load<f32>(uvs + b * 8, 4) - na,
    m2 = load<f32>(uvs + c * 8) - ma,
    n2 = load<f32>(uvs + c * 8, 4) - na;
  // The element's own turn, in metres, before the finish's.
  u1 = turnC * m1 + turnS * n1;
  v1 = turnC * n1 - turnS * m1;
  u2 = turnC * m2 + turnS * n2;
  v2 = turnC * n2 - turnS * m2;
  let u = turnC * ma + turnS * na + load<f32>(p, INSTANCE_UV_OFFSET) + u1 * hitU + u2 * hitV,
    v = turnC * na - turnS * ma + load<f32>(p, INSTANCE_UV_OFFSET + 4) + v1 * hitU + v2 * hitV;
  laid = growth(p);
  if (laid && load<i32>(q, MAT_FROM_WORLD)) {
    const f = p + INSTANCE_FORWARD;
    u += load<f32>(f, 12) * uX + load<f32>(f, 28) * uY + load<f32>(f, 44) * uZ;
    v += load<f32>(f, 12) * vX + load<f32>(f, 28) * vY + load<f32>(f, 44) * vZ;
  }
  cr = load<f32>(q, MAT_UV_ROTATION);
  sr = load<f32>(q, MAT_UV_ROTATION + 4);
  perU = load<f32>(q, MAT_UV_SCALE);
  perV = load<f32>(q, MAT_UV_SCALE + 4);
  s = (cr * u + sr * v) * perU + load<f32>(q, MAT_UV_OFFSET);
  t = (cr * v - sr * u) * perV + load<f32>(q, MAT_UV_OFFSET + 4);
}

/** Goes on with where the hit's relief shows itself instead. */
export function moveTo(toS: f32, toT: f32): void {
  s = toS;
  t = toT;
}

/** Whether the triangle that was hit does not reach as far as a place in its maps. */
export function leaves(toS: f32, toT: f32): bool {
  const s1 = (cr * u1 + sr * v1) * perU,
    t1 = (cr * v1 - sr * u1) * perV,
    s2 = (cr * u2 + sr * v2) * perU,
    t2 = (cr * v2 - sr * u2) * perV;
  const inverse: f32 = 1 / (s1 * t2 - s2 * t1),
    ds = toS - s,
    dt = toT - t;
  const atU = hitU + (ds * t2 - dt * s2) * inverse,
    atV = hitV + (dt * s1 - ds * t1) * inverse;
  return atU < 0 || atV < 0 || atU + atV > 1;
}

/** Finds them for the present face, metres of the maps a metre of the world; false where the maps lie nowhere. */
function growth(p: usize): bool {
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
export function layAcross(c: f32, s: f32): void {
  // The finish's turn and the grain's, as one.
  const a = cr * c - sr * s,
    b = sr * c + cr * s;
  m.normalise(uX * a + vX * b, uY * a + vY * b, uZ * a + vZ * b);
}

/** Tells the relief how the maps lie on the face in the world. */
export function layRelief(
  map: i32, patched: bool, deep: f32, gx: f32, gy: f32, gz: f32,
): void {
  relief.begin(
    map, patched, deep / sqrt<f32>(m.dot(uX, uY, uZ, uX, uY, uZ)), gx, gy, gz,
    (cr * uX + sr * vX) * perU, (cr * uY + sr * vY) * perU, (cr * uZ + sr * vZ) * perU,
    (cr * vX - sr * uX) * perV, (cr * vY - sr * uY) * perV, (cr * vZ - sr * uZ) * perV,
  );
}

/** A normal tilted by (mx, my) of a map of normals, in maths.r*. */
export function tilt(nx: f32, ny: f32, nz: f32, mx: f32, my: f32, side: f32): void {
  const tx = cr * mx - sr * my,
    ty = sr * mx + cr * my;
  m.normalise(uX, uY, uZ);
  const ax = m.rx,
    ay = m.ry,
    az = m.rz;
  m.normalise(vX, vY, vZ);
  const z = sqrt<f32>(max<f32>(<f32>0.01, 1 - tx * tx - ty * ty));
  m.normalise(nx * z + (ax * tx + m.rx * ty) * side, ny * z + (ay * tx + m.ry * ty) * side, nz * z + (az * tx + m.rz * ty) * side);
}
