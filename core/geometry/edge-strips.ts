import type { PreparedMesh } from './prepare-mesh';
import { EDGE_FLOATS, edgeNormals } from './edge-normals';

/** How far strips lie above their faces, so that they are drawn over them. */
const LIFT_M = 1.5e-4;
/** Corners, each x y z, nx ny nz, u v. */
const FLOATS = 8;

/**
 * Narrow strips on both faces along every sharp outer edge, `radiusM` wide where there is room: at the edge their normals stand
 * half way between its faces, at the inner side as their face's. Drawn over a mesh they round its edges in shading, by the formula
 * that the light kernel has (assembly/edges.ts). Undefined: there is nothing to round.
 */
export function edgeStrips(mesh: PreparedMesh, radiusM: number): PreparedMesh | undefined {
  const { indices } = mesh;
  const beyond = edgeNormals(mesh);
  const corners: number[] = [];
  for (let t = 0; t < indices.length; t += 3)
    for (let side = 0; side < 3; side++) if (isSharp(beyond, t, side)) addStrip(mesh, beyond, t, side, radiusM, corners);
  const count = corners.length / FLOATS;
  if (count === 0) return undefined;
  const part = (first: number, size: number) => {
    const out = new Float32Array(count * size);
    for (let c = 0; c < count; c++) for (let k = 0; k < size; k++) out[c * size + k] = corners[c * FLOATS + first + k]!;
    return out;
  };
  // Four corners a strip: the edge from a to b, then the inner side from b to a.
  const order = Uint32Array.from({ length: (count / 4) * 6 }, (_, i) => Math.floor(i / 6) * 4 + [0, 1, 2, 0, 2, 3][i % 6]!);
  return { positions: part(0, 3), normals: part(3, 3), uvs: part(6, 2), indices: order };
}

const isSharp = (beyond: Float32Array, t: number, side: number): boolean => {
  const at = (t / 3) * EDGE_FLOATS + side * 3;
  return beyond[at] !== 0 || beyond[at + 1] !== 0 || beyond[at + 2] !== 0;
};

function addStrip(mesh: PreparedMesh, beyond: Float32Array, t: number, side: number, radiusM: number, out: number[]): void {
  const { positions: p, normals: n, uvs, indices } = mesh;
  const [a, b, c] = [0, 1, 2].map((k) => indices[t + ((side + k) % 3)]!) as [number, number, number];
  const from = (i: number, j: number) => [0, 1, 2].map((k) => p[j * 3 + k]! - p[i * 3 + k]!) as [number, number, number];
  const [e, f] = [from(a, b), from(a, c)];
  const length = Math.hypot(...e);
  const along = (e[0] * f[0] + e[1] * f[1] + e[2] * f[2]) / length;
  const height = Math.sqrt(Math.max(0, f[0] ** 2 + f[1] ** 2 + f[2] ** 2 - along ** 2));
  if (!(length > 0) || !(height > 0)) return;
  const width = Math.min(radiusM, height / 2);
  // In an acute corner between two sharp edges the inner side is shorter, or it would stand out beyond the face.
  const startM = isSharp(beyond, t, (side + 2) % 3) ? Math.max(0, (along / height) * width) : 0;
  const endM = isSharp(beyond, t, (side + 1) % 3) ? Math.max(0, ((length - along) / height) * width) : 0;
  if (startM + endM >= length) return;
  const other = beyond.subarray((t / 3) * EDGE_FLOATS + side * 3, (t / 3) * EDGE_FLOATS + side * 3 + 3);
  /** A place so far along the edge and so far in from it. */
  const put = (alongM: number, inM: number) => {
    const ofC = inM / height;
    const ofB = (alongM - ofC * along) / length;
    const mix = (of: ArrayLike<number>, size: number, k: number) =>
      of[a * size + k]! * (1 - ofB - ofC) + of[b * size + k]! * ofB + of[c * size + k]! * ofC;
    const own = unit([mix(n, 3, 0), mix(n, 3, 1), mix(n, 3, 2)]);
    const bent = inM > 0 ? own : unit([own[0] + other[0]!, own[1] + other[1]!, own[2] + other[2]!]);
    out.push(...[0, 1, 2].map((k) => mix(p, 3, k) + own[k]! * LIFT_M), ...bent, mix(uvs, 2, 0), mix(uvs, 2, 1));
  };
  put(0, 0);
  put(length, 0);
  put(length - endM, width);
  put(startM, width);
}

function unit([x, y, z]: readonly [number, number, number]): [number, number, number] {
  const l = Math.hypot(x, y, z) || 1;
  return [x / l, y / l, z / l];
}
