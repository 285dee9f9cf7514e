import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { beforeAll, describe, expect, it } from 'vitest';
import { random } from '../random';
import { meshArea, meshBounds } from './mesh';
import { prepareMesh } from './prepare-mesh';
import { MeshBuilder } from './shapes';
import { thinOut } from './thin-out';

beforeAll(() => MeshoptSimplifier.ready);

/** Leaves of two triangles in a ball. */
function crown(leaves: number) {
  const next = random(3);
  const b = new MeshBuilder();
  for (let i = 0; i < leaves; i++) {
    const [x, y, z] = [next() * 4, next() * 4, 3 + next() * 4];
    b.quad([x, y, z], [x + 0.06, y, z], [x + 0.06, y + 0.06, z + 0.02], [x, y + 0.06, z + 0.02]);
  }
  return prepareMesh(b.build());
}

describe('a thing seen from afar', () => {
  it('keeps the area and the extent of its crown with a sixth of the leaves', () => {
    const full = crown(3000);
    const thin = thinOut(full, 1 / 6);
    expect(thin.indices.length / full.indices.length).toBeCloseTo(1 / 6, 1);
    // Of 3000 leaves at chances of a sixth 500 stay, give or take 3 x 20.
    expect(Math.abs(meshArea(thin) / meshArea(full) - 1)).toBeLessThan(0.13);
    const [a, b] = [meshBounds(full.positions), meshBounds(thin.positions)];
    for (let k = 0; k < 3; k++) expect(Math.abs(a.max[k]! - b.max[k]!)).toBeLessThan(0.2);
    expect([thin.normals.length, thin.uvs.length]).toEqual([thin.positions.length, (thin.positions.length / 3) * 2]);
    expect(Math.max(...thin.indices)).toBeLessThan(thin.positions.length / 3);
  });

  it('has a body with fewer triangles that fills the same box', () => {
    const full = prepareMesh(
      new MeshBuilder()
        .tube(
          Array.from({ length: 25 }, (_, i) => [0, 0, i * 0.25] as const),
          0.3,
          48,
        )
        .build(),
    );
    const thin = thinOut(full, 0.2);
    expect(thin.indices.length).toBeLessThan(full.indices.length * 0.45);
    expect(thin.indices.length).toBeGreaterThan(8);
    const [a, b] = [meshBounds(full.positions), meshBounds(thin.positions)];
    for (let k = 0; k < 3; k++) expect(Math.abs(a.max[k]! - b.max[k]!)).toBeLessThan(0.1);
  });
});
