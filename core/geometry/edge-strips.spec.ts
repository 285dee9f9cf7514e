import { expect, it } from 'vitest';
import { prepareMesh, type PreparedMesh } from './prepare-mesh';
import { edgeStrips } from './edge-strips';
import { meshArea } from './mesh';
import { MeshBuilder } from './shapes';
import { dot, type Vec3 } from './vec3';

const stripsOf = (mesh: ReturnType<MeshBuilder['build']>, radiusM: number): PreparedMesh | undefined =>
  edgeStrips(prepareMesh(mesh), radiusM);

it('a box’s strips lie along its twelve edges, on both faces of each, and bend as the light kernel’s formula says', () => {
  const strips = stripsOf(new MeshBuilder().box([0, 0, 0], [1, 2, 3]).build(), 0.01)!;
  expect(strips.indices.length / 6).toBe(24);
  // Twice the length of all edges, a centimetre wide, less what corners share: nothing, for they are square.
  expect(meshArea(strips)).toBeCloseTo(0.01 * 2 * 4 * (1 + 2 + 3), 6);
  const normalAt = (v: number): Vec3 => [strips.normals[v * 3]!, strips.normals[v * 3 + 1]!, strips.normals[v * 3 + 2]!];
  for (let strip = 0; strip < 24; strip++) {
    const [edge, inner] = [normalAt(strip * 4), normalAt(strip * 4 + 3)];
    // Half way between two faces that stand square to each other.
    expect(dot(edge, inner)).toBeCloseTo(Math.SQRT1_2, 6);
    const beyond: Vec3 = [edge[0] * Math.SQRT2 - inner[0], edge[1] * Math.SQRT2 - inner[1], edge[2] * Math.SQRT2 - inner[2]];
    expect(dot(beyond, inner)).toBeCloseTo(0, 6);
    // In between: n + (beyond - n) (1 - d / r) / 2, see assembly/edges.ts; what is interpolated over the strip is within 4.1 degrees of it.
    for (const share of [0.25, 0.5, 0.75]) {
      const turn = 0.5 * (1 - share);
      const wanted = inner.map((n, k) => n + (beyond[k]! - n) * turn);
      const shown = inner.map((n, k) => edge[k]! * (1 - share) + n * share);
      const cos = dot(wanted as unknown as Vec3, shown as unknown as Vec3) / (Math.hypot(...wanted) * Math.hypot(...shown));
      expect(Math.acos(Math.min(1, cos))).toBeLessThan((4.2 * Math.PI) / 180);
    }
  }
});

it('strips stay within their faces, in sharp corners and on narrow ones', () => {
  const wedge = {
    positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 0.3, 0, 0, 0, 1, 1, 0, 1, 0, 0.3, 1]),
    indices: new Uint32Array([0, 2, 1, 3, 4, 5, 0, 1, 4, 0, 4, 3, 1, 2, 5, 1, 5, 4, 2, 0, 3, 2, 3, 5]),
  };
  const lift = 2e-4;
  for (const radiusM of [0.01, 0.5]) {
    const { positions: p } = stripsOf(wedge, radiusM)!;
    for (let v = 0; v < p.length; v += 3) {
      const [x, y, z] = [p[v]!, p[v + 1]!, p[v + 2]!];
      expect(Math.min(x, y, z)).toBeGreaterThan(-lift);
      expect(z).toBeLessThan(1 + lift);
      expect(x * 0.3 + y).toBeLessThan(0.3 + 2 * lift);
    }
  }
});

it('carries the maps of its faces on, and is none on what is smooth', () => {
  const box = prepareMesh(new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build());
  const strips = edgeStrips(box, 0.02)!;
  // On the side that looks towards -y, u runs level and v up: as the box has it.
  let seen = 0;
  for (let v = 0; v < strips.positions.length / 3; v += 4) {
    const inner = v + 3;
    if (Math.abs(strips.normals[inner * 3 + 1]! + 1) > 1e-6) continue;
    seen++;
    expect(strips.uvs[inner * 2 + 1]).toBeCloseTo(strips.positions[inner * 3 + 2]!, 3);
  }
  expect(seen).toBe(4);
  const ball = new MeshBuilder().revolve([0, 0, 0], Array.from({ length: 17 }, (_, i): [number, number] => {
    const a = (Math.PI * (i - 8)) / 16;
    return [i % 16 === 0 ? 0 : Math.cos(a), Math.sin(a)];
  }), 32).build(); // prettier-ignore
  expect(stripsOf(ball, 0.01)).toBeUndefined();
});
