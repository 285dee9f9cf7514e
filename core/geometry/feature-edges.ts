import type { Mesh } from './mesh';
import type { Vec3 } from './vec3';

/** Corners closer than this are one, metres. */
const WELD_M = 1e-4;
/** Faces that meet at a larger angle have an edge between them. */
const CREASE_COS = Math.cos((25 * Math.PI) / 180);
/** The same plane, in two triangles. */
const FLAT_COS = 0.99999;

/** An edge of a mesh, and the normals of the faces that meet there; the second is missing where a face ends. */
export interface FeatureEdge {
  from: Vec3;
  to: Vec3;
  normal: Vec3;
  other?: Vec3 | undefined;
  /** The faces meet at an angle; else the edge is seen as an outline alone. */
  isCrease: boolean;
}

/** All edges of a mesh but those between triangles of one plane. */
export function featureEdges({ positions, indices }: Pick<Mesh, 'positions' | 'indices'>): FeatureEdge[] {
  const names = new Map<string, number>();
  const corner = Array.from({ length: positions.length / 3 }, (_, i) => {
    const key = [0, 1, 2].map((k) => Math.round(positions[i * 3 + k]! / WELD_M)).join(' ');
    const known = names.get(key) ?? i;
    names.set(key, known);
    return known;
  });
  const at = (i: number): Vec3 => [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!];
  const edges = new Map<number, { a: number; b: number; normals: Vec3[] }>();
  const count = positions.length / 3;
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [corner[indices[t]!]!, corner[indices[t + 1]!]!, corner[indices[t + 2]!]!];
    const [p, q, r] = [at(a), at(b), at(c)];
    const n: Vec3 = [
      (q[1] - p[1]) * (r[2] - p[2]) - (q[2] - p[2]) * (r[1] - p[1]),
      (q[2] - p[2]) * (r[0] - p[0]) - (q[0] - p[0]) * (r[2] - p[2]),
      (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]),
    ];
    const length = Math.hypot(...n);
    if (!(length > 1e-12)) continue;
    const normal: Vec3 = [n[0] / length, n[1] / length, n[2] / length];
    for (const [i, k] of [[a, b], [b, c], [c, a]] as const) {
      const key = Math.min(i, k) * count + Math.max(i, k);
      const edge = edges.get(key);
      if (edge) edge.normals.push(normal);
      else edges.set(key, { a: i, b: k, normals: [normal] });
    } // prettier-ignore
  }
  const out: FeatureEdge[] = [];
  for (const { a, b, normals } of edges.values()) {
    const [normal, other] = normals as [Vec3, Vec3?];
    const cosine = other ? normal[0] * other[0] + normal[1] * other[1] + normal[2] * other[2] : -1;
    if (normals.length === 2 && cosine > FLAT_COS) continue;
    out.push({ from: at(a), to: at(b), normal, ...(other && { other }), isCrease: normals.length !== 2 || cosine < CREASE_COS });
  }
  return out;
}
