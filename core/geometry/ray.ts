import type { Mesh } from './mesh';
import type { Vec3 } from './vec3';

/**
 * How far along a ray, in lengths of its direction, it meets a triangle from either side; Infinity: nowhere
 * (T. Moller, B. Trumbore, Fast, minimum storage ray/triangle intersection, 1997).
 */
export function rayTriangle(o: Vec3, d: Vec3, a: Vec3, b: Vec3, c: Vec3): number {
  const e1x = b[0] - a[0];
  const e1y = b[1] - a[1];
  const e1z = b[2] - a[2];
  const e2x = c[0] - a[0];
  const e2y = c[1] - a[1];
  const e2z = c[2] - a[2];
  const px = d[1] * e2z - d[2] * e2y;
  const py = d[2] * e2x - d[0] * e2z;
  const pz = d[0] * e2y - d[1] * e2x;
  const det = e1x * px + e1y * py + e1z * pz;
  if (Math.abs(det) < 1e-15) return Infinity;
  const sx = o[0] - a[0];
  const sy = o[1] - a[1];
  const sz = o[2] - a[2];
  const u = (sx * px + sy * py + sz * pz) / det;
  if (u < 0 || u > 1) return Infinity;
  const qx = sy * e1z - sz * e1y;
  const qy = sz * e1x - sx * e1z;
  const qz = sx * e1y - sy * e1x;
  const v = (d[0] * qx + d[1] * qy + d[2] * qz) / det;
  if (v < 0 || u + v > 1) return Infinity;
  const t = (e2x * qx + e2y * qy + e2z * qz) / det;
  return t > 0 ? t : Infinity;
}

/** The first triangle of a mesh that a ray meets (its first index's place), and how far along; undefined: none within `far`. */
export function rayMesh(o: Vec3, d: Vec3, { positions, indices }: Mesh, far = Infinity): { t: number; triangle: number } | undefined {
  const corner = (i: number): Vec3 => {
    const v = indices[i]! * 3;
    return [positions[v]!, positions[v + 1]!, positions[v + 2]!];
  };
  let best: { t: number; triangle: number } | undefined;
  for (let i = 0; i < indices.length; i += 3) {
    const t = rayTriangle(o, d, corner(i), corner(i + 1), corner(i + 2));
    if (t < (best?.t ?? far)) best = { t, triangle: i };
  }
  return best;
}
