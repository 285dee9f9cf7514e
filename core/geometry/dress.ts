import { meshBounds, type Mesh } from './mesh';
import { TupleTable } from './tuple-table';

/** A mesh made ready for both pictures: split at creases, with normals and texture coordinates in metres. */
export interface DressedMesh extends Mesh {
  readonly normals: Float32Array;
  /** u v for each vertex, in metres along the face; v runs up the slope, or along the grain of a long piece. */
  readonly uvs: Float32Array;
}

/** Faces that meet at less than this are one curved surface. */
const CREASE_COS = Math.cos((35 * Math.PI) / 180);
/** A piece this much longer than wide has a grain. */
const LONG = 3;
const SNAP = 1e4;

/**
 * Derives normals (smooth below 35 degrees between faces) and texture coordinates: each face carries its own frame,
 * u level and v up its slope, so that a texture keeps its true size on walls, floors and slopes; on a piece with one long
 * side, v follows that side. Corners are shared only where position, normal and coordinates agree.
 */
export function dressMesh(mesh: Mesh): DressedMesh {
  const faces = faceNormals(mesh);
  const welded = weld(mesh.positions);
  const corners = cornerNormals(mesh, faces, welded);
  const grain = grainAxis(mesh.positions);
  const cornerCount = mesh.indices.length;
  const table = new TupleTable(6, cornerCount);
  const tuple = new Int32Array(6);
  const positions = new Float32Array(cornerCount * 3);
  const normals = new Float32Array(cornerCount * 3);
  const uvs = new Float32Array(cornerCount * 2);
  const indices = new Uint32Array(cornerCount);
  const frame = new Float64Array(6);
  for (let c = 0; c < cornerCount; c++) {
    if (c % 3 === 0) faceFrame(faces, c, grain, frame);
    const v = mesh.indices[c]! * 3;
    const x = mesh.positions[v]!;
    const y = mesh.positions[v + 1]!;
    const z = mesh.positions[v + 2]!;
    const u = x * frame[0]! + y * frame[1]! + z * frame[2]!;
    const w = x * frame[3]! + y * frame[4]! + z * frame[5]!;
    tuple[0] = welded[mesh.indices[c]!]!;
    for (let k = 0; k < 3; k++) tuple[1 + k] = Math.round(corners[c * 3 + k]! * 500);
    tuple[4] = Math.round(u * SNAP);
    tuple[5] = Math.round(w * SNAP);
    const before = table.count;
    const index = table.numberOf(tuple);
    indices[c] = index;
    if (table.count === before) continue;
    positions.set([x, y, z], index * 3);
    for (let k = 0; k < 3; k++) normals[index * 3 + k] = corners[c * 3 + k]!;
    uvs[index * 2] = u;
    uvs[index * 2 + 1] = w;
  }
  const count = table.count;
  return { positions: positions.slice(0, count * 3), normals: normals.slice(0, count * 3), uvs: uvs.slice(0, count * 2), indices };
}

/** The same number for vertices at the same place. */
function weld(positions: Float32Array): Int32Array {
  const count = positions.length / 3;
  const table = new TupleTable(3, count);
  const tuple = new Int32Array(3);
  const out = new Int32Array(count);
  for (let v = 0; v < count; v++) {
    for (let k = 0; k < 3; k++) tuple[k] = Math.round(positions[v * 3 + k]! * SNAP);
    out[v] = table.numberOf(tuple);
  }
  return out;
}

/** Unit normal of each triangle. */
function faceNormals({ positions: p, indices }: Mesh): Float32Array {
  const out = new Float32Array(indices.length);
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

/**
 * Normal at each triangle corner: the mean of the faces about that point within the crease angle, weighted by the angle
 * that each has there (Thurmer & Wuthrich 1998), so that it does not depend on how a face is cut into triangles.
 */
function cornerNormals(mesh: Mesh, faces: Float32Array, welded: Int32Array): Float32Array {
  const { indices } = mesh;
  const angles = cornerAngles(mesh);
  // Corners sorted by the point they meet at.
  const first = new Int32Array(mesh.positions.length / 3 + 1);
  for (const index of indices) first[welded[index]! + 1]!++;
  for (let i = 1; i < first.length; i++) first[i]! += first[i - 1]!;
  const fill = first.slice();
  const sorted = new Int32Array(indices.length);
  for (let c = 0; c < indices.length; c++) sorted[fill[welded[indices[c]!]!]!++] = c;
  const out = new Float32Array(indices.length * 3);
  for (let c = 0; c < indices.length; c++) {
    const f = Math.floor(c / 3) * 3;
    const point = welded[indices[c]!]!;
    let x = 0;
    let y = 0;
    let z = 0;
    for (let k = first[point]!; k < first[point + 1]!; k++) {
      const g = Math.floor(sorted[k]! / 3) * 3;
      if (faces[f]! * faces[g]! + faces[f + 1]! * faces[g + 1]! + faces[f + 2]! * faces[g + 2]! < CREASE_COS) continue;
      const weight = angles[sorted[k]!]!;
      x += faces[g]! * weight;
      y += faces[g + 1]! * weight;
      z += faces[g + 2]! * weight;
    }
    const l = Math.sqrt(x * x + y * y + z * z);
    out[c * 3] = l > 0 ? x / l : faces[f]!;
    out[c * 3 + 1] = l > 0 ? y / l : faces[f + 1]!;
    out[c * 3 + 2] = l > 0 ? z / l : faces[f + 2]!;
  }
  return out;
}

/** Angle (rad) at each corner of each triangle; 0 where it has no area. */
function cornerAngles({ positions: p, indices }: Mesh): Float32Array {
  const out = new Float32Array(indices.length);
  for (let c = 0; c < indices.length; c++) {
    const t = c - (c % 3);
    const a = indices[c]! * 3;
    const b = indices[t + ((c + 1) % 3)]! * 3;
    const d = indices[t + ((c + 2) % 3)]! * 3;
    const ux = p[b]! - p[a]!;
    const uy = p[b + 1]! - p[a + 1]!;
    const uz = p[b + 2]! - p[a + 2]!;
    const vx = p[d]! - p[a]!;
    const vy = p[d + 1]! - p[a + 1]!;
    const vz = p[d + 2]! - p[a + 2]!;
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const cross = Math.sqrt(nx * nx + ny * ny + nz * nz);
    out[c] = cross > 0 ? Math.atan2(cross, ux * vx + uy * vy + uz * vz) : 0;
  }
  return out;
}

/** 0, 1 or 2 for a piece that is clearly longest along that axis, otherwise -1. */
function grainAxis(positions: Float32Array): number {
  const { min, max } = meshBounds(positions);
  const size = [max[0] - min[0], max[1] - min[1], max[2] - min[2]];
  const axis = size.indexOf(Math.max(...size));
  const second = Math.max(...size.filter((_, i) => i !== axis));
  return size[axis]! > LONG * second && second < 1 ? axis : -1;
}

/** Writes the u and v directions of a face. */
function faceFrame(faces: Float32Array, corner: number, grain: number, out: Float64Array): void {
  const f = Math.floor(corner / 3) * 3;
  const n = [faces[f]!, faces[f + 1]!, faces[f + 2]!] as const;
  if (grain >= 0 && Math.abs(n[grain]!) < 0.7) {
    const along = [0, 0, 0];
    along[grain] = 1;
    setFrame(out, n, along);
  } else if (Math.abs(n[2]) > 0.995) setFrame(out, n, [0, 1, 0]);
  else setFrame(out, n, [0, 0, 1]);
}

/** v is `along` laid into the face; u = v x n. */
function setFrame(out: Float64Array, n: readonly [number, number, number], along: readonly number[]): void {
  const d = n[0] * along[0]! + n[1] * along[1]! + n[2] * along[2]!;
  const v = [along[0]! - n[0] * d, along[1]! - n[1] * d, along[2]! - n[2] * d];
  const l = Math.hypot(v[0]!, v[1]!, v[2]!) || 1;
  const [vx, vy, vz] = [v[0]! / l, v[1]! / l, v[2]! / l];
  out[0] = vy * n[2] - vz * n[1];
  out[1] = vz * n[0] - vx * n[2];
  out[2] = vx * n[1] - vy * n[0];
  out[3] = vx;
  out[4] = vy;
  out[5] = vz;
}
