import { describe, expect, it } from 'vitest';
import { MeshBuilder } from './shapes';
import { decodeMesh, encodeMesh, meshArea, meshVolume } from './mesh';
import { prepareMesh } from './prepare-mesh';

describe('shapes (closed forms, by the divergence theorem)', () => {
  it('makes a box of the right area and volume', () => {
    const mesh = new MeshBuilder().box([1, 2, 3], [3, 5, 7]).build();
    expect(meshVolume(mesh)).toBeCloseTo(24, 4);
    expect(meshArea(mesh)).toBeCloseTo(52, 4);
  });

  it('cuts holes out of a wall, with their reveals', () => {
    const wall = new MeshBuilder()
      .prism(
        [[0, 0], [4, 0], [4, 3], [0, 3]],
        [[[1, 1], [2, 1], [2, 2], [1, 2]]],
        ([x, z], end) => [x, end ? 0 : 0.3, z],
      )
      .build(); // prettier-ignore
    expect(meshVolume(wall)).toBeCloseTo(11 * 0.3, 4);
    expect(meshArea(wall)).toBeCloseTo(2 * 11 + 14 * 0.3 + 4 * 0.3, 4);
  });

  it('makes tubes, solids of revolution and wheels that enclose what they should', () => {
    const tube = new MeshBuilder().tube([[0, 0, 0], [0, 0, 2]], 0.5, 64).build(); // prettier-ignore
    expect(meshVolume(tube)).toBeCloseTo(Math.PI * 0.25 * 2, 1);
    const cone = new MeshBuilder().revolve([1, 1, 0], [[1, 0], [0, 3]], 96).build(); // prettier-ignore
    expect(meshVolume(cone)).toBeCloseTo(Math.PI, 1);
    expect(meshVolume(new MeshBuilder().wheel([0, 0, 0], 1, 0.1, 96).build())).toBeGreaterThan(0.14);
  });

  it('survives encoding, and reports what is wrong with a broken mesh', () => {
    const mesh = new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build();
    const bytes = encodeMesh(mesh);
    expect(decodeMesh(bytes)).toEqual(mesh);
    expect(decodeMesh(bytes.slice(0, 40))).toBe('cut-off');
    expect(decodeMesh(new Uint8Array(4))).toBe('not-a-mesh');
    const bad = bytes.slice();
    new DataView(bad.buffer).setFloat32(16, NaN, true);
    expect(decodeMesh(bad)).toBe('bad-number');
    const index = bytes.slice();
    new DataView(index.buffer).setUint32(index.length - 4, 99, true);
    expect(decodeMesh(index)).toBe('bad-index');
  });
});

describe('preparing a mesh', () => {
  it('keeps faces of a box flat and gives each its true size', () => {
    const prepared = prepareMesh(new MeshBuilder().box([0, 0, 0], [2, 1, 3]).build());
    for (let i = 0; i < prepared.normals.length; i += 3)
      expect(Math.max(...[0, 1, 2].map((k) => Math.abs(prepared.normals[i + k]!)))).toBeCloseTo(1, 5);
    const us = prepared.uvs.filter((_, i) => i % 2 === 1);
    expect(Math.max(...us) - Math.min(...us)).toBeCloseTo(3, 4);
  });

  it('runs the grain along a long board', () => {
    const prepared = prepareMesh(new MeshBuilder().box([0, 0, 0], [4, 0.1, 0.03]).build());
    const vs = prepared.uvs.filter((_, i) => i % 2 === 1);
    expect(Math.max(...vs) - Math.min(...vs)).toBeCloseTo(4, 4);
  });

  it('smooths a round bar across its sides but not over its rim', () => {
    const prepared = prepareMesh(new MeshBuilder().tube([[0, 0, 0], [0, 0, 1]], 0.2, 24).build()); // prettier-ignore
    let level = 0;
    for (let i = 0; i < prepared.normals.length; i += 3) {
      const z = Math.abs(prepared.normals[i + 2]!);
      expect(z < 0.01 || z > 0.99).toBe(true);
      if (z < 0.01) level++;
    }
    expect(level).toBeGreaterThan(24);
  });
});
