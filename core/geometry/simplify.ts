import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { closestOnTriangle } from './closest';
import { meshBounds, type Mesh } from './mesh';
import { distance, type Vec3 } from './vec3';

/** A mesh with fewer triangles, and how far at most it lies from the corners of the one that it stands for. */
export interface SimplifiedMesh {
  mesh: Mesh;
  lossM: number;
}

/** The loss aimed at: a share of the size, but never less or more than this. What comes out is measured; it may be half as much again. */
const LOSS_SHARE = 0.01;
const LEAST_LOSS_M = 0.003;
const MOST_LOSS_M = 0.02;
/** Below this a mesh is left as it is. */
const FEW_TRIANGLES = 16;
/** A mesh that keeps more of its triangles than this is not worth a second copy. */
const WORTH_IT = 0.7;
/** Pairs of corner and triangle that are measured for the loss; of larger meshes only every n-th corner. */
const MEASURED_PAIRS = 400_000;

/** Made ready once; simplifying itself does not wait. */
export async function simplifier(): Promise<void> {
  await MeshoptSimplifier.ready;
}

/** Undefined where little would be won. Corners are moved onto others of the same mesh, never elsewhere. */
export function simplifyMesh(mesh: Mesh): SimplifiedMesh | undefined {
  if (mesh.indices.length / 3 < FEW_TRIANGLES) return undefined;
  const { min, max } = meshBounds(mesh.positions);
  const size = distance(min, max);
  // Corners that lie in one place must be one: others beside them, even unused ones, would be held fast.
  const first = MeshoptSimplifier.generatePositionRemap(mesh.positions, 3);
  const welded = compact(
    mesh.positions,
    mesh.indices.map((v) => first[v]!),
  );
  const loss = Math.min(MOST_LOSS_M, Math.max(LEAST_LOSS_M, LOSS_SHARE * size));
  const [indices] = MeshoptSimplifier.simplify(welded.indices, welded.positions, 3, 0, loss, ['ErrorAbsolute', 'Prune']);
  if (indices.length === 0 || indices.length > WORTH_IT * mesh.indices.length) return undefined;
  const kept = compact(welded.positions, indices);
  return { mesh: kept, lossM: greatestDistance(welded.positions, kept) };
}

function compact(positions: Float32Array, indices: Uint32Array): Mesh {
  const [remap, count] = MeshoptSimplifier.compactMesh(indices);
  const out = new Float32Array(count * 3);
  for (let v = 0; v < remap.length; v++) {
    const to = remap[v]!;
    if (to < count) out.set(positions.subarray(v * 3, v * 3 + 3), to * 3);
  }
  return { positions: out, indices };
}

/** How far the farthest of the points lies from a surface, metres. */
export function greatestDistance(points: Float32Array, { positions, indices }: Mesh): number {
  const corner = (v: number): Vec3 => [positions[v * 3]!, positions[v * 3 + 1]!, positions[v * 3 + 2]!];
  const stride = Math.max(1, Math.ceil(((points.length / 3) * (indices.length / 3)) / MEASURED_PAIRS));
  let greatest = 0;
  for (let p = 0; p < points.length; p += 3 * stride) {
    const point: Vec3 = [points[p]!, points[p + 1]!, points[p + 2]!];
    let nearest = Infinity;
    for (let t = 0; t < indices.length && nearest > greatest; t += 3) {
      const on = closestOnTriangle(point, corner(indices[t]!), corner(indices[t + 1]!), corner(indices[t + 2]!));
      nearest = Math.min(nearest, distance(point, on));
    }
    greatest = Math.max(greatest, nearest);
  }
  return greatest;
}
