import type { PreparedMesh } from './prepare-mesh';
import { planeOf, samePlane } from './face-lay';
import type { Vec3 } from './vec3';

/** A straight piece of a flat face's outline, in the face's texture coordinates (metres), the end nearer to the asked point first. */
export interface FaceEdge {
  near: readonly [number, number];
  far: readonly [number, number];
}

const SAME_PLACE_M = 1e-4;

/** The outline of the flat face about a triangle (by its first index), where it comes nearest to a point; both in the mesh's own place. */
export function nearestFaceEdge(mesh: PreparedMesh, triangle: number, point: Vec3): FaceEdge | undefined {
  const { positions, indices, uvs } = mesh;
  const at = (v: number): Vec3 => [positions[v * 3]!, positions[v * 3 + 1]!, positions[v * 3 + 2]!];
  const plane = planeOf(mesh, triangle);
  if (!plane) return undefined;
  const keyOf = (v: number) =>
    at(v)
      .map((x) => Math.round(x / SAME_PLACE_M))
      .join();
  // Edges inside the face are met twice, its outline once.
  const outline = new Map<string, [number, number]>();
  for (let t = 0; t < indices.length; t += 3) {
    const other = planeOf(mesh, t);
    if (!other || !samePlane(other, plane)) continue;
    for (let k = 0; k < 3; k++) {
      const [a, b] = [indices[t + k]!, indices[t + ((k + 1) % 3)]!];
      const key = [keyOf(a), keyOf(b)].sort().join(' ');
      if (!outline.delete(key)) outline.set(key, [a, b]);
    }
  }
  let nearest: { edge: [number, number]; distance: number; along: number } | undefined;
  for (const edge of outline.values()) {
    const [a, b] = [at(edge[0]), at(edge[1])];
    const d = b.map((x, i) => x - a[i]!);
    const length2 = d.reduce((sum, x) => sum + x * x, 0);
    const along = length2 > 0 ? Math.min(1, Math.max(0, d.reduce((sum, x, i) => sum + x * (point[i]! - a[i]!), 0) / length2)) : 0;
    const distance = Math.hypot(...d.map((x, i) => a[i]! + x * along - point[i]!));
    if (!nearest || distance < nearest.distance) nearest = { edge, distance, along };
  }
  if (!nearest) return undefined;
  const ends = nearest.along > 0.5 ? [nearest.edge[1], nearest.edge[0]] : nearest.edge;
  const [near, far] = ends.map((v) => [uvs[v * 2]!, uvs[v * 2 + 1]!] as const) as [FaceEdge['near'], FaceEdge['far']];
  return { near, far };
}
