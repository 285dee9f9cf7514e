import type { Mesh } from './mesh';
import { OWN_ARRAYS, type Arrays } from './scratch';
import { TupleTable } from './tuple-table';

export const SAME_PLACE_M = 1e-4;

/** The same number for vertices at the same place. */
export function samePlaces(positions: Float32Array, arrays: Arrays = OWN_ARRAYS): Int32Array {
  const count = positions.length / 3;
  const table = new TupleTable(3, count, arrays);
  const tuple = new Int32Array(3);
  const perMetre = 1 / SAME_PLACE_M;
  const out = arrays.ints(count);
  for (let v = 0; v < count; v++) {
    for (let k = 0; k < 3; k++) tuple[k] = Math.floor(positions[v * 3 + k]! * perMetre + 0.5);
    out[v] = table.numberOf(tuple);
  }
  return out;
}

/** Unit normal of each triangle. */
export function faceNormals({ positions: p, indices }: Mesh, arrays: Arrays = OWN_ARRAYS): Float32Array {
  const out = arrays.floats(indices.length);
  for (let t = 0; t < indices.length; t += 3) {
    const a = indices[t]! * 3;
    const b = indices[t + 1]! * 3;
    const c = indices[t + 2]! * 3;
    const ux = p[b]! - p[a]!;
    const uy = p[b + 1]! - p[a + 1]!;
    const uz = p[b + 2]! - p[a + 2]!;
    const vx = p[c]! - p[a]!;
    const vy = p[c + 1]! - p[a + 1]!;
    const vz = p[c + 2]! - p[a + 2]!;
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const l = Math.sqrt(nx * nx + ny * ny + nz * nz);
    const s = l > 0 ? 1 / l : 0;
    out[t] = nx * s;
    out[t + 1] = ny * s;
    out[t + 2] = l > 0 ? nz * s : 1;
  }
  return out;
}
