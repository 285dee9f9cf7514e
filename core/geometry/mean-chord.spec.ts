import { expect, it } from 'vitest';
import { meanChordM } from './mean-chord';
import { MeshBuilder } from './shapes';

it('is four thirds of a sphere’s radius, two thirds of a cube’s side, twice a wide slab’s thickness (Kendall & Moran, Geometrical Probability, from memory)', () => {
  const profile = Array.from({ length: 65 }, (_, i): [number, number] => [
    i % 64 === 0 ? 0 : Math.cos((Math.PI * (i - 32)) / 64),
    Math.sin((Math.PI * (i - 32)) / 64),
  ]);
  const sphere = new MeshBuilder().revolve([0, 0, 0], profile, 96).build();
  expect(meanChordM([{ mesh: sphere, scale: 1 }])).toBeCloseTo(4 / 3, 2);
  expect(meanChordM([{ mesh: sphere, scale: 0.1 }])).toBeCloseTo(4 / 30, 3);
  const cube = new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build();
  expect(meanChordM([{ mesh: cube, scale: 3 }])).toBeCloseTo(2, 6);
  const slab = new MeshBuilder().box([0, 0, 0], [1000, 1000, 0.5]).build();
  expect(meanChordM([{ mesh: slab, scale: 1 }])).toBeCloseTo(1, 2);
});

it('weighs bodies by their surface, and is none where there is no body', () => {
  const cube = new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build();
  // Volumes 1 and 8, surfaces 6 and 24.
  expect(meanChordM([1, 2].map((scale) => ({ mesh: cube, scale })))).toBeCloseTo((4 * 9) / 30, 6);
  expect(meanChordM([])).toBe(0);
  const open = { positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), indices: new Uint32Array([0, 1, 2]) };
  expect(meanChordM([{ mesh: open, scale: 1 }])).toBeCloseTo(0, 9);
});
