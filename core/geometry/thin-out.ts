import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { meshBounds } from './mesh';
import type { PreparedMesh } from './prepare-mesh';
import { distance } from './vec3';

/** Meshes of things with fewer triangles, for where they are seen from afar. */

/** So many separate pieces are leaves, not a body. */
const MANY_PIECES = 60;
/** Pieces that reach further than this share of the whole are limbs: they stay as they are. */
const SMALL_SHARE = 0.08;
/** Of the size, that simplified surfaces lie off at most. */
const MOST_ERROR = 0.02;
/** Pieces are made no larger than this many times. */
const MOST_LARGER = 3;

/**
 * About a share of the triangles. Of what consists of many pieces, as a crown of leaves does, some of the small ones are left out at
 * even chances and the rest of them enlarged so that the area stays (Cook, Halstead, Planck and Ryu 2007, Stochastic Simplification of
 * Aggregate Detail); bodies are simplified. `MeshoptSimplifier.ready` is to be awaited before.
 */
export function thinOut(mesh: PreparedMesh, share: number): PreparedMesh {
  const pieces = piecesOf(mesh);
  const count = pieces.reduce((most, piece) => Math.max(most, piece), 0) + 1;
  const target = Math.max(3, Math.floor((mesh.indices.length * share) / 3) * 3);
  if (count < MANY_PIECES) return compacted(mesh, simplified(mesh.indices, mesh.positions, target), mesh.positions);
  const keepsEvery = Math.max(1, Math.round(1 / share));
  const larger = Math.min(MOST_LARGER, Math.sqrt(keepsEvery));
  const { middles, radii } = extentOf(mesh, pieces, count);
  const { min, max } = meshBounds(mesh.positions);
  const isSmall = (piece: number) => radii[piece]! < SMALL_SHARE * distance(min, max);
  const isKept = (piece: number) => !isSmall(piece) || (Math.imul(piece, 2654435761) >>> 8) % keepsEvery === 0;
  const positions = mesh.positions.slice();
  for (let v = 0; v < pieces.length; v++) {
    const piece = pieces[v]!;
    if (!isSmall(piece) || !isKept(piece)) continue;
    for (let k = 0; k < 3; k++) {
      const middle = middles[piece * 3 + k]!;
      positions[v * 3 + k] = middle + (positions[v * 3 + k]! - middle) * larger;
    }
  }
  const indices = mesh.indices.filter((v) => isKept(pieces[v]!));
  if (indices.length === 0) return mesh;
  return compacted(mesh, indices.length > 2 * target ? simplified(indices, positions, target) : indices, positions);
}

/** Indices of about so many corners, no further off than a little of the size. */
function simplified(indices: Uint32Array, positions: Float32Array, target: number): Uint32Array {
  const [fewer] = MeshoptSimplifier.simplify(indices, positions, 3, target, MOST_ERROR, ['Prune']);
  return fewer.length === 0 ? indices : fewer;
}

/** Middle of each piece, x y z, and how far its corners reach from there. */
function extentOf({ positions }: PreparedMesh, pieces: Uint32Array, count: number): { middles: Float64Array; radii: Float64Array } {
  const [middles, corners, radii] = [new Float64Array(count * 3), new Uint32Array(count), new Float64Array(count)];
  for (const [v, piece] of pieces.entries()) {
    corners[piece]!++;
    for (let k = 0; k < 3; k++) middles[piece * 3 + k]! += positions[v * 3 + k]!;
  }
  for (let i = 0; i < middles.length; i++) middles[i]! /= corners[Math.floor(i / 3)]!;
  for (const [v, piece] of pieces.entries()) {
    const [x, y, z] = [0, 1, 2].map((k) => positions[v * 3 + k]! - middles[piece * 3 + k]!) as [number, number, number];
    radii[piece] = Math.max(radii[piece]!, Math.hypot(x, y, z));
  }
  return { middles, radii };
}

/** The number of the connected piece that each vertex belongs to; vertices in one place are one. */
function piecesOf({ positions, indices }: PreparedMesh): Uint32Array {
  const first = MeshoptSimplifier.generatePositionRemap(positions, 3);
  const parent = Uint32Array.from(first);
  const rootOf = (v: number): number => {
    while (parent[v] !== v) v = parent[v] = parent[parent[v]!]!;
    return v;
  };
  for (let t = 0; t < indices.length; t += 3)
    for (const k of [1, 2]) parent[rootOf(indices[t + k]!)] = rootOf(indices[t]!);
  const numbers = new Map<number, number>();
  return Uint32Array.from(first, (_, v) => {
    const root = rootOf(v);
    let number = numbers.get(root);
    if (number === undefined) numbers.set(root, (number = numbers.size));
    return number;
  });
} // prettier-ignore

function compacted(mesh: PreparedMesh, indices: Uint32Array, positions: Float32Array): PreparedMesh {
  const own = indices.slice();
  const [remap, count] = MeshoptSimplifier.compactMesh(own);
  const of = (from: Float32Array, size: number) => {
    const out = new Float32Array(count * size);
    for (let v = 0; v < remap.length; v++) if (remap[v]! < count) out.set(from.subarray(v * size, v * size + size), remap[v]! * size);
    return out;
  };
  return {
    positions: of(positions, 3), normals: of(mesh.normals, 3), uvs: of(mesh.uvs, 2), indices: own,
    ...(mesh.furtherUvs && { furtherUvs: mesh.furtherUvs.map((uvs) => of(uvs, 2)) }),
  }; // prettier-ignore
}
