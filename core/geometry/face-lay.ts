import type { FaceLay, Mesh, Plane } from './mesh';

const SAME_NORMAL = 2e-3;
const SAME_PLANE_M = 1e-3;
/** More planes than these are a curved thing in facets. */
const MOST_PLANES = 256;

export const samePlane = (a: ArrayLike<number>, b: ArrayLike<number>): boolean =>
  Math.abs(a[0]! - b[0]!) < SAME_NORMAL && Math.abs(a[1]! - b[1]!) < SAME_NORMAL && Math.abs(a[2]! - b[2]!) < SAME_NORMAL && Math.abs(a[3]! - b[3]!) < SAME_PLANE_M; // prettier-ignore

/** The plane of the triangle that begins at an index; undefined: it has no area. */
export function planeOf({ positions: p, indices }: Mesh, triangle: number): Plane | undefined {
  const [a, b, c] = [0, 1, 2].map((k) => indices[triangle + k]! * 3) as [number, number, number];
  const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
  const [wx, wy, wz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
  const [nx, ny, nz] = [uy * wz - uz * wy, uz * wx - ux * wz, ux * wy - uy * wx];
  const l = Math.hypot(nx, ny, nz);
  return l > 0 ? [nx / l, ny / l, nz / l, (nx * p[a]! + ny * p[a + 1]! + nz * p[a + 2]!) / l] : undefined;
}

/** Begins the maps of flat triangles at the least u and v of all in their plane. `uvs` holds u v for each corner of each triangle. */
export function beginAtFaces(mesh: Mesh, uvs: Float64Array, isFlat: (triangle: number) => boolean): void {
  const found: { plane: Plane; u: number; v: number; corners: number[] }[] = [];
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const plane = isFlat(t) ? planeOf(mesh, t) : undefined;
    if (!plane) continue;
    let place = found.find((f) => samePlane(f.plane, plane));
    if (!place && found.length < MOST_PLANES) found.push((place = { plane, u: Infinity, v: Infinity, corners: [] }));
    if (!place) continue;
    for (let c = t; c < t + 3; c++) {
      place.u = Math.min(place.u, uvs[c * 2]!);
      place.v = Math.min(place.v, uvs[c * 2 + 1]!);
      place.corners.push(c);
    }
  }
  for (const { u, v, corners } of found)
    for (const c of corners) {
      uvs[c * 2]! -= u;
      uvs[c * 2 + 1]! -= v;
    }
}

/** Turns and moves the coordinates of the triangles in planes that are laid by hand. */
export function layFaces(mesh: Mesh, uvs: Float64Array, lays: readonly FaceLay[]): void {
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const plane = planeOf(mesh, t);
    const lay = plane && lays.find((l) => samePlane(l.plane, plane));
    if (!lay) continue;
    const turn = (lay.turnDeg * Math.PI) / 180;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    for (let k = t * 2; k < t * 2 + 6; k += 2) {
      const [u, v] = [uvs[k]!, uvs[k + 1]!];
      uvs[k] = c * u + s * v + lay.offsetM[0];
      uvs[k + 1] = c * v - s * u + lay.offsetM[1];
    }
  }
}
