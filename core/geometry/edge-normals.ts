import type { DressedMesh } from './dress';
import { TupleTable } from './tuple-table';

/** Floats of a triangle: for its edges ab, bc and ca the unit normal of the face beyond, or zeros where there is nothing to round. */
export const EDGE_FLOATS = 9;
/** Faces that meet at less than this are drawn smooth anyway. */
const SHARP_COS = Math.cos((35 * Math.PI) / 180);
const SAME_PLACE_M = 1e-4;

/**
 * What lies beyond the sharp outer edges of every triangle, for rounding them in shading. Edges are found by place, because
 * dressing has split their vertices; inner edges (where faces meet in a hollow) stay sharp, as do those of three faces or one.
 */
export function edgeNormals({ positions: p, indices }: DressedMesh): Float32Array {
  const places = new TupleTable(3, p.length / 3);
  const tuple = new Int32Array(3);
  const placeOf = Int32Array.from({ length: p.length / 3 }, (_, v) => {
    for (let k = 0; k < 3; k++) tuple[k] = Math.round(p[v * 3 + k]! / SAME_PLACE_M);
    return places.numberOf(tuple);
  });
  const count = indices.length / 3;
  const normals = new Float32Array(count * 3);
  /** Sides (three times the triangle, and which of its three) by their two places. */
  const sidesAt = new Map<number, number[]>();
  for (let t = 0; t < count; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => indices[t * 3 + k]! * 3) as [number, number, number];
    const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
    const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
    const n = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx] as const;
    const length = Math.hypot(...n) || 1;
    n.forEach((x, k) => {
      normals[t * 3 + k] = x / length;
    });
    for (let side = 0; side < 3; side++) {
      const [i, j] = [placeOf[indices[t * 3 + side]!]!, placeOf[indices[t * 3 + ((side + 1) % 3)]!]!];
      const key = Math.min(i, j) * 2 ** 26 + Math.max(i, j);
      const sides = sidesAt.get(key);
      if (sides) sides.push(t * 3 + side);
      else sidesAt.set(key, [t * 3 + side]);
    }
  }
  const out = new Float32Array(count * EDGE_FLOATS);
  for (const sides of sidesAt.values()) {
    if (sides.length !== 2) continue;
    const [one, other] = sides as [number, number];
    const [s, t] = [Math.floor(one / 3), Math.floor(other / 3)];
    const dot = [0, 1, 2].reduce((sum, k) => sum + normals[s * 3 + k]! * normals[t * 3 + k]!, 0);
    if (dot >= SHARP_COS) continue;
    // Outer: the other face falls away below this one.
    const opposite = indices[t * 3 + (((other % 3) + 2) % 3)]! * 3;
    const corner = indices[s * 3]! * 3;
    const height = [0, 1, 2].reduce((sum, k) => sum + normals[s * 3 + k]! * (p[opposite + k]! - p[corner + k]!), 0);
    if (height > -1e-6) continue;
    for (let k = 0; k < 3; k++) {
      out[one * 3 + k] = normals[t * 3 + k]!;
      out[other * 3 + k] = normals[s * 3 + k]!;
    }
  }
  return out;
}
