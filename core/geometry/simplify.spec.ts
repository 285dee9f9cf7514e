import { beforeAll, describe, expect, it } from 'vitest';
import { closestOnTriangle } from './closest';
import { prepareMesh } from './prepare-mesh';
import { meshVolume } from './mesh';
import { rayMesh } from './ray';
import { MeshBuilder } from './shapes';
import { greatestDistance, simplifier, simplifyMesh } from './simplify';

const tube = (radiusM: number, sides: number) => new MeshBuilder().tube([[0, 0, 0], [0, 0, 2]], radiusM, sides).build(); // prettier-ignore

describe('a simplified mesh', () => {
  beforeAll(simplifier);

  it('has far fewer triangles where a small thing is curved, and states what it loses', () => {
    const fine = tube(0.08, 32);
    const { mesh, lossM } = simplifyMesh(fine)!;
    expect(mesh.indices.length).toBeLessThan(fine.indices.length * 0.4);
    // What a prism of n sides loses against the round one is the sagitta, r (1 - cos(pi / n)).
    expect(lossM).toBeGreaterThan(0.001);
    expect(lossM).toBeLessThanOrEqual(0.031);
    expect(meshVolume(mesh)).toBeGreaterThan(0.5 * meshVolume(fine));
    expect(greatestDistance(fine.positions, mesh)).toBe(lossM);
  });

  it('is the same of a mesh whose corners are split for its normals and coordinates', () => {
    const fine = tube(0.08, 32);
    expect(simplifyMesh(prepareMesh(fine))!.mesh.indices.length).toBe(simplifyMesh(fine)!.mesh.indices.length);
  });

  it('is not made of what is plain already', () => {
    expect(simplifyMesh(new MeshBuilder().box([0, 0, 0], [1, 2, 3]).build())).toBeUndefined();
    expect(simplifyMesh(tube(3, 24))).toBeUndefined();
  });
});

describe('the nearest point of a triangle', () => {
  const [a, b, c] = [[0, 0, 0], [4, 0, 0], [0, 3, 0]] as const; // prettier-ignore
  it.each([
    ['inside', [1, 1, 5], [1, 1, 0]],
    ['beside an edge', [2, -3, 1], [2, 0, 0]],
    ['beside the long edge', [4, 3, 0], [2.56, 1.08, 0]],
    ['beyond a corner', [-1, -1, 2], [0, 0, 0]],
    ['beyond another', [9, -1, 0], [4, 0, 0]],
    ['beyond the third', [-1, 7, 0], [0, 3, 0]],
  ] as const)('lies %s', (_, point, nearest) => {
    closestOnTriangle(point, a, b, c).forEach((v, k) => {
      expect(v).toBeCloseTo(nearest[k]!, 12);
    });
  });
});

describe('a ray', () => {
  const box = new MeshBuilder().box([0, 0, 0], [1, 2, 3]).build();
  it('meets a box where it enters, and from within where it leaves', () => {
    expect(rayMesh([0.25, 0.5, 10], [0, 0, -1], box)!.t).toBeCloseTo(7, 12);
    expect(rayMesh([0.25, 0.5, 1], [0, 0, -1], box)!.t).toBeCloseTo(1, 12);
    expect(rayMesh([0.25, 0.5, 10], [0, 0, -2], box)!.t).toBeCloseTo(3.5, 12);
    expect(rayMesh([0.25, 0.5, 10], [0, 0, -1], box, 6)).toBeUndefined();
    expect(rayMesh([1.25, 0.5, 10], [0, 0, -1], box)).toBeUndefined();
  });
});
