import { planeOf } from '../../../core/geometry/face-lay';
import type { Plane } from '../../../core/geometry/mesh';
import { nearestFaceEdge, type FaceEdge } from '../../../core/geometry/face-edge';
import { invert, transformDirection, transformPoint } from '../../../core/geometry/mat4';
import { rayMesh } from '../../../core/geometry/ray';
import type { Vec3 } from '../../../core/geometry/vec3';
import type { SceneInstance } from '../../../core/scene/scene';
import type { PreparedMesh } from '../../../core/geometry/prepare-mesh';

/** Parts that a ray may meet: with a sphere about each (x y z radius), and its mesh. */
export interface CastParts {
  readonly instances: readonly SceneInstance[];
  readonly spheres: Float32Array;
  restingMesh(part: number): PreparedMesh;
}

/** What a ray met first. */
export interface Met {
  instance: SceneInstance;
  distanceM: number;
  point: Vec3;
  /** Of the triangle that was met. */
  corners: readonly Vec3[];
  /** The edge of the flat face next to the point, in the face's coordinates; found when it is asked for. */
  edge: () => FaceEdge | undefined;
  /** Of that triangle, in the element's own place. */
  plane: Plane | undefined;
}

/** The first surface that a ray (unit direction) meets: the spheres about parts first, then the meshes of those in its way. */
export function castRay(batches: Iterable<CastParts>, origin: Vec3, direction: Vec3, farM = Infinity): Met | undefined {
  const inTheWay: { batch: CastParts; part: number; entersAt: number }[] = [];
  for (const batch of batches)
    for (let part = 0; part < batch.instances.length; part++) {
      const entersAt = enters(batch.spheres, part * 4, origin, direction);
      if (entersAt < farM) inTheWay.push({ batch, part, entersAt });
    }
  inTheWay.sort((a, b) => a.entersAt - b.entersAt);
  let met: Met | undefined;
  for (const { batch, part, entersAt } of inTheWay) {
    if (met && entersAt > met.distanceM) break;
    const instance = batch.instances[part]!;
    const inverse = invert(instance.transform);
    if (!inverse) continue;
    const mesh = batch.restingMesh(part);
    // The direction is not made a unit again, so that lengths along it stay the world's.
    const hit = rayMesh(transformPoint(inverse, origin), transformDirection(inverse, direction), mesh, met?.distanceM ?? farM);
    if (!hit) continue;
    const triangle = hit.triangle;
    met = {
      edge: () => nearestFaceEdge(mesh, triangle, transformPoint(inverse, met!.point)),
      plane: planeOf(mesh, triangle),
      instance,
      distanceM: hit.t,
      point: [origin[0] + direction[0] * hit.t, origin[1] + direction[1] * hit.t, origin[2] + direction[2] * hit.t],
      corners: [0, 1, 2].map((k) => {
        const v = mesh.indices[hit.triangle + k]! * 3;
        return transformPoint(instance.transform, [mesh.positions[v]!, mesh.positions[v + 1]!, mesh.positions[v + 2]!]);
      }),
    };
  }
  return met;
}

/** Where a ray enters a sphere, at least 0; Infinity: it passes by. */
function enters(spheres: Float32Array, o: number, [ox, oy, oz]: Vec3, [dx, dy, dz]: Vec3): number {
  const x = spheres[o]! - ox;
  const y = spheres[o + 1]! - oy;
  const z = spheres[o + 2]! - oz;
  const r = spheres[o + 3]! * 1.0001 + 1e-4;
  const along = x * dx + y * dy + z * dz;
  const aside = x * x + y * y + z * z - along * along;
  const half = r * r - aside;
  if (half < 0) return Infinity;
  const leaves = along + Math.sqrt(half);
  return leaves < 0 ? Infinity : Math.max(0, along - Math.sqrt(half));
}
