import { describe, expect, it } from 'vitest';
import { prepareMesh } from './prepare-mesh';
import { EDGE_FLOATS, edgeNormals } from './edge-normals';
import type { Mesh } from './mesh';
import { MeshBuilder } from './shapes';

/** For each triangle the normals beyond its three edges, as words; 'none' for zeros. */
const beyond = (mesh: Mesh): string[][] => {
  const out = edgeNormals(prepareMesh(mesh));
  const name = (at: number) => {
    const n = [...out.subarray(at, at + 3)].map((x) => Math.round(x) + 0);
    return n.every((x) => x === 0) ? 'none' : n.join();
  };
  return Array.from({ length: out.length / EDGE_FLOATS }, (_, t) => [0, 3, 6].map((k) => name(t * EDGE_FLOATS + k)));
};

describe('edges to be rounded', () => {
  it('are those of a box’s sides, not the diagonals of its faces', () => {
    const box = beyond(new MeshBuilder().box([0, 0, 0], [1, 2, 3]).build());
    expect(box).toHaveLength(12);
    for (const edges of box) expect(edges.filter((e) => e === 'none')).toHaveLength(1);
    // Each of the six directions is seen over the four edges of the other side of it.
    const counts = new Map<string, number>();
    for (const e of box.flat()) counts.set(e, (counts.get(e) ?? 0) + 1);
    counts.delete('none');
    expect([...counts.values()]).toEqual([4, 4, 4, 4, 4, 4]);
  });

  it('are not those in a hollow, of smooth surfaces, or of a single face', () => {
    const hollow = { positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1]), indices: new Uint32Array([0, 1, 2, 0, 2, 3, 0, 3, 5, 0, 5, 4]) }; // prettier-ignore
    expect(new Set(beyond(hollow).flat())).toEqual(new Set(['none']));
    // Turned over, the same fold stands out.
    const ridge = { ...hollow, indices: hollow.indices.slice().reverse() };
    expect(beyond(ridge).flat().filter((e) => e !== 'none')).toHaveLength(2); // prettier-ignore
    const ball = new MeshBuilder().revolve([0, 0, 0], Array.from({ length: 17 }, (_, i): [number, number] => {
      const a = (Math.PI * (i - 8)) / 16;
      return [i % 16 === 0 ? 0 : Math.cos(a), Math.sin(a)];
    }), 32).build(); // prettier-ignore
    expect(new Set(beyond(ball).flat())).toEqual(new Set(['none']));
  });

  it('are none where three faces meet', () => {
    const fan = {
      positions: new Float32Array([0, 0, 0, 0, 0, 1, 1, 0, 0, -1, 0.2, 0, 0, -1, 0]),
      indices: new Uint32Array([0, 1, 2, 0, 1, 3, 0, 1, 4]),
    };
    expect(new Set(beyond(fan).flat())).toEqual(new Set(['none']));
  });
});
