import { expect, it } from 'vitest';
import { FAMILIES, PLAIN_FINISH, type Finish } from '../finish/finish';
import { MeshBuilder } from '../geometry/shapes';
import { prepareMesh } from '../geometry/prepare-mesh';
import { IDENTITY, translation } from '../geometry/mat4';
import { kernelModule } from '../kernel/testing';
import { SceneMemory } from '../kernel/scene-memory';
import { survey } from './survey';

const finish = (family: Finish['family']): Finish => ({ ...PLAIN_FINISH, id: family, name: family, family });
const slab = (x0: number, x1: number, z0: number, z1: number) => prepareMesh(new MeshBuilder().box([x0, -10, z0], [x1, 10, z1]).build());
/** Ground to the left, a house with a floor in the middle, a jetty over water to the right; a tree over the ground. */
const MESHES = new Map([
  ['ground', slab(-20, 0, -1, 0)],
  ['floor', slab(0, 8, -0.2, 0.3)],
  ['roof', slab(0, 8, 4, 4.3)],
  ['water', slab(8, 30, -2, -0.5)],
  ['jetty', slab(10, 12, 0.4, 0.6)],
  ['tree', slab(-2, 2, 5, 6)],
]);
const FAMILY = { ground: 'ground', floor: 'wood', roof: 'roofing', water: 'water', jetty: 'wood', tree: 'plain' } as const;

function scene(): SceneMemory {
  const memory = new SceneMemory(kernelModule());
  const instances = Object.entries(FAMILY).map(([mesh, family]) => ({ mesh, transform: mesh === 'tree' ? translation(-8, 0, 0) : IDENTITY, finish: finish(family), emissionScale: 1, lens: false })); // prettier-ignore
  memory.setScene({ instances, lamps: [], ground: 'never' }, { mesh: (key) => MESHES.get(key), maps: () => undefined });
  return memory;
}

it('what lies under places is told: the top, or the floor that somebody would stand on; things of the library are looked through', () => {
  const memory = scene();
  const places = Float64Array.from([[-5, 0], [-8, 0], [4, 0], [11, 0], [20, 0], [60, 0]].flatMap(([x, y]) => [x!, y!, 100])); // prettier-ignore
  const words = ({ family }: { family: Uint8Array }) => [...family].map((f) => FAMILIES[f] ?? 'nothing');
  const seen = survey(memory, places, new Set(['tree']));
  expect([...seen.z].map((z) => Math.round(z * 100) / 100)).toEqual([0, 0, 4.3, 0.6, -0.5, NaN]);
  expect(words(seen)).toEqual(['ground', 'ground', 'roofing', 'wood', 'water', 'nothing']);
  expect(seen.surface[5]).toBe(-1);
  expect(words(survey(memory, places, new Set()))[1]).toBe('plain');
  const stood = survey(memory, places, new Set(['tree']), 1.9);
  expect([...stood.z].map((z) => Math.round(z * 100) / 100)).toEqual([0, 0, 0.3, 0.6, NaN, NaN]);
});

it('tells what a plan at its height cuts, and not what only lies over or under it', () => {
  const memory = scene();
  // Through the roof, over the ground, through the floor slab, between floor and roof.
  const places = Float64Array.from([[4, 0, 4.1], [-5, 0, 1.1], [4, 0, 0.1], [4, 0, 1.4]].flat()); // prettier-ignore
  expect([...survey(memory, places, new Set(), undefined, true).cut!]).toEqual([1, 0, 1, 0]);
  expect(survey(memory, places, new Set()).cut).toBeUndefined();
});
