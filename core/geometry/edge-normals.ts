import type { PreparedMesh } from './prepare-mesh';
import { faceNormals, samePlaces } from './faces';
import { TupleTable } from './tuple-table';

/** Floats of a triangle: for its edges ab, bc and ca the unit normal of the face beyond, or zeros where there is nothing to round. */
export const EDGE_FLOATS = 9;
/** Faces that meet at less than this are drawn smooth anyway. */
const SHARP_COS = Math.cos((35 * Math.PI) / 180);

/**
 * What lies beyond the sharp outer edges of every triangle, for rounding them in shading. Edges are found by place, because
 * preparing has split their vertices; inner edges (where faces meet in a hollow) stay sharp, as do those of three faces or one.
 */
export function edgeNormals(mesh: PreparedMesh): Float32Array {
  const { positions: p, indices } = mesh;
  const placeOf = samePlaces(p);
  const normals = faceNormals(mesh);
  const count = indices.length / 3;
  // Sides (three times the triangle, and which of its three) by the edge that they lie on.
  const edges = new TupleTable(2, count * 3);
  const edge = new Int32Array(2);
  const [first, second, sides] = [new Int32Array(count * 3), new Int32Array(count * 3), new Uint8Array(count * 3)];
  for (let t = 0; t < count; t++) {
    for (let side = 0; side < 3; side++) {
      const i = placeOf[indices[t * 3 + side]!]!;
      const j = placeOf[indices[t * 3 + ((side + 1) % 3)]!]!;
      edge[0] = Math.min(i, j);
      edge[1] = Math.max(i, j);
      const number = edges.numberOf(edge);
      const before = sides[number]!;
      if (before === 0) first[number] = t * 3 + side;
      else if (before === 1) second[number] = t * 3 + side;
      sides[number] = Math.min(3, before + 1);
    }
  }
  const out = new Float32Array(count * EDGE_FLOATS);
  for (let number = 0; number < edges.count; number++) {
    if (sides[number] !== 2) continue;
    const [one, other] = [first[number]!, second[number]!];
    const s = Math.floor(one / 3) * 3;
    const t = Math.floor(other / 3) * 3;
    if (normals[s]! * normals[t]! + normals[s + 1]! * normals[t + 1]! + normals[s + 2]! * normals[t + 2]! >= SHARP_COS) continue;
    // Outer: the other face falls away below this one.
    const opposite = indices[t + ((other + 2 - t) % 3)]! * 3;
    const corner = indices[s]! * 3;
    let height = 0;
    for (let k = 0; k < 3; k++) height += normals[s + k]! * (p[opposite + k]! - p[corner + k]!);
    if (height > -1e-6) continue;
    for (let k = 0; k < 3; k++) {
      out[one * 3 + k] = normals[t + k]!;
      out[other * 3 + k] = normals[s + k]!;
    }
  }
  return out;
}
