import type { Mesh } from './mesh';

/** Coordinates count as even where they are stretched no more than this one way against the other, and against the rest. */
const STRETCH = 1.3;
/** Share of the surface that must be so. */
const MOST = 0.9;

/**
 * Metres on the surface that one unit of the author's picture coordinates covers, over the marked triangles; undefined where
 * they are too uneven to lay another picture by, as those of an atlas mostly are.
 */
export function metresOfUnit(mesh: Mesh, marked?: Uint8Array): number | undefined {
  if (!mesh.pictureUvs) return undefined;
  const scales: { scale: number; area: number; even: boolean }[] = [];
  for (let t = 0; t < mesh.indices.length / 3; t++) {
    if (marked && !marked[t]) continue;
    const measured = measure(mesh, t);
    if (measured) scales.push(measured);
  }
  const total = scales.reduce((sum, { area }) => sum + area, 0);
  if (total === 0) return undefined;
  scales.sort((a, b) => a.scale - b.scale);
  let below = 0;
  const middle = scales.find(({ area }) => (below += area) >= total / 2)!.scale;
  const alike = scales.filter(({ scale, even }) => even && scale < middle * STRETCH && scale > middle / STRETCH);
  return alike.reduce((sum, { area }) => sum + area, 0) >= MOST * total ? middle : undefined;
}

/** Metres a unit, area (m2) and evenness of one triangle, from the singular values of what takes its coordinates to its plane. */
function measure({ positions: p, indices, pictureUvs }: Mesh, t: number) {
  const [a, b, c] = [indices[t * 3]!, indices[t * 3 + 1]!, indices[t * 3 + 2]!];
  const uv = pictureUvs!;
  const [u1, v1, u2, v2] = [
    uv[b * 2]! - uv[a * 2]!,
    uv[b * 2 + 1]! - uv[a * 2 + 1]!,
    uv[c * 2]! - uv[a * 2]!,
    uv[c * 2 + 1]! - uv[a * 2 + 1]!,
  ];
  const edge = (to: number) => [0, 1, 2].map((k) => p[to * 3 + k]! - p[a * 3 + k]!) as [number, number, number];
  const [e, f] = [edge(b), edge(c)];
  const area = Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]) / 2;
  const det = u1 * v2 - u2 * v1;
  if (area === 0) return undefined;
  if (Math.abs(det) < 1e-12) return { scale: 0, area, even: false };
  const along = [0, 1, 2].map((k) => (e[k]! * v2 - f[k]! * v1) / det) as [number, number, number];
  const across = [0, 1, 2].map((k) => (f[k]! * u1 - e[k]! * u2) / det) as [number, number, number];
  const dot = (x: readonly number[], y: readonly number[]) => x[0]! * y[0]! + x[1]! * y[1]! + x[2]! * y[2]!;
  const [uu, vv, mixed] = [dot(along, along), dot(across, across), dot(along, across)];
  const half = Math.sqrt(Math.max(0, ((uu - vv) / 2) ** 2 + mixed * mixed));
  const [large, small] = [Math.sqrt((uu + vv) / 2 + half), Math.sqrt(Math.max(0, (uu + vv) / 2 - half))];
  return { scale: Math.sqrt(large * small), area, even: large <= STRETCH * small };
}
