import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { PLAIN_FINISH } from '../../../core/finish/finish';
import { prepareMesh } from '../../../core/geometry/prepare-mesh';
import { translation } from '../../../core/geometry/mat4';
import { MeshBuilder } from '../../../core/geometry/shapes';
import type { SceneInstance } from '../../../core/scene/scene';
import { SETTING } from '../../../core/setting/setting-model';
import { castRay } from './picking';
import type { SeenFrom } from './seen-sizes';
import { ThingsOnStage } from './things-on-stage';

const meshes = new Map([
  ['crown', prepareMesh(new MeshBuilder().revolve([0, 0, 2], [[0, 0], [2, 2], [0, 4]], 64).build())],
  ['trunk', prepareMesh(new MeshBuilder().box([-0.1, -0.1, 0], [0.1, 0.1, 2]).build())],
]); // prettier-ignore
const finish = { ...PLAIN_FINISH, id: 'x', name: 'x', family: 'plain' as const };
const tree = (i: number, x: number): SceneInstance[] =>
  ['crown', 'trunk'].map((mesh, part) => ({ source: SETTING, element: `set/${String(i)}`, part, material: mesh, mesh, transform: translation(x, 0, 0), finish, class: 'Planting', emissionScale: 1, lens: false })); // prettier-ignore
const wall: SceneInstance = { ...tree(0, 0)[0]!, source: 's', element: 'wall', class: 'Wall' };
/** Along x, with all in sight. */
const from = (x: number): SeenFrom => ({ planes: new Float64Array(24), eye: [x, 0, 1.6], pixelsAtOneM: 800, parallel: false });

function stage() {
  const root = new THREE.Group();
  const things = new ThingsOnStage(root, () => new THREE.MeshLambertMaterial(), () => new THREE.MeshLambertMaterial(), () => undefined); // prettier-ignore
  const drawn = () => root.children.filter((child): child is THREE.InstancedMesh => child instanceof THREE.InstancedMesh && child.visible);
  return { things, drawn };
}

describe('things in the working picture', () => {
  it('take geometry by their kind, however many there are, and are all drawn', () => {
    const { things, drawn } = stage();
    const many = Array.from({ length: 3000 }, (_, i) => tree(i, 10 + i * 0.1)).flat();
    expect(things.set([wall, ...many], (hash) => meshes.get(hash))).toBe(true);
    expect(things.count).toBe(6000);
    expect(things.look(from(0), 1e9)).toBe(true);
    expect(new Set(drawn().map(({ geometry }) => geometry)).size).toBeLessThanOrEqual(6);
    const crowns = drawn().filter(({ geometry }) => geometry.index!.count > 40);
    expect(crowns.reduce((sum, { count }) => sum + count, 0)).toBe(3000);
    // Nothing has changed: nothing is written anew.
    expect(things.look(from(0), 1e9)).toBe(false);
    expect(things.look(from(200), 1e9)).toBe(true);
  });

  it('are met by rays where they stand, and are gone once they are taken away', () => {
    const { things, drawn } = stage();
    things.set([...tree(1, 5), ...tree(2, 9)], (hash) => meshes.get(hash));
    const met = castRay([things.parts], [0, 0, 1], [1, 0, 0]);
    expect([met?.instance.element, met?.instance.mesh]).toEqual(['set/1', 'trunk']);
    expect(met!.distanceM).toBeCloseTo(4.9, 6);
    things.set(tree(2, 9), (hash) => meshes.get(hash));
    expect(castRay([things.parts], [0, 0, 1], [1, 0, 0])!.distanceM).toBeCloseTo(8.9, 6);
    things.clear();
    expect([drawn().length, castRay([things.parts], [0, 0, 1], [1, 0, 0])]).toEqual([0, undefined]);
  });

  it('tell where the maps of their finishes are seen', () => {
    const { things } = stage();
    things.set([...tree(1, 5), ...tree(2, 9)], (hash) => meshes.get(hash));
    const worn = things.worn();
    expect(worn.map(({ instances, spheres }) => [instances[0]!.mesh, spheres.length / 4])).toEqual([['crown', 2], ['trunk', 2]]); // prettier-ignore
    expect(worn[0]!.spheres[4]).toBeCloseTo(9, 6);
  });

  it('waits for meshes that are on their way', () => {
    const { things } = stage();
    expect(things.set(tree(1, 5), (hash) => (hash === 'crown' ? undefined : meshes.get(hash)))).toBe(false);
    expect(things.count).toBe(1);
    expect(things.set(tree(1, 5), (hash) => meshes.get(hash))).toBe(true);
    expect(things.count).toBe(2);
  });
});
