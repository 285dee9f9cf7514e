import * as THREE from 'three';
import { expect, it } from 'vitest';
import { PLAIN_FINISH } from '../../../core/finish/finish';
import { prepareMesh } from '../../../core/geometry/prepare-mesh';
import { translation } from '../../../core/geometry/mat4';
import { MeshBuilder } from '../../../core/geometry/shapes';
import type { SceneInstance } from '../../../core/scene/scene';
import { RoundedEdges } from './rounded-edges';
import { SurfaceBatch } from './surface-batch';

const box = prepareMesh(new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build());
const finish = { ...PLAIN_FINISH, id: 'x', name: 'x', family: 'plain' as const };
const batchOf = (edgeRadiusM: number, ...places: number[]) =>
  new SurfaceBatch(places.map((x): SceneInstance => ({
    source: 's', element: String(x), part: 0, material: 'm', mesh: 'box', transform: translation(x, 0, 0), finish: { ...finish, edgeRadiusM }, emissionScale: 1, lens: false,
  })), () => ({ resting: box, moving: box })); // prettier-ignore

function edges() {
  const root = new THREE.Scene();
  const material = new THREE.MeshBasicMaterial();
  return { root, material, edges: new RoundedEdges(root, () => material) };
}
const meshesIn = (root: THREE.Scene) => root.children.filter((child) => child instanceof THREE.Mesh);
const shown = (root: THREE.Scene) => meshesIn(root).map(({ geometry }) => (geometry as THREE.BufferGeometry).index!.count / 6);

it('are strips on what is near enough for its radius to be seen, and on nothing else', () => {
  const { root, edges: rounded, material } = edges();
  // A radius of 2 mm is 2 px a metre away, 0.8 px at two and a half.
  const batches = [batchOf(0.002, 1, 2.5, 30), batchOf(0, 1)];
  expect(rounded.lookFrom([0, 0, 0], 1000, batches)).toBe(true);
  expect(shown(root)).toEqual([48]);
  rounded.renew();
  expect(meshesIn(root)[0]!.material).toBe(material);
  expect(rounded.lookFrom([0, 0, 0], 1000, batches)).toBe(false);
  expect(rounded.lookFrom([30, 0, 0], 1000, batches)).toBe(true);
  expect(shown(root)).toEqual([24]);
  expect(rounded.lookFrom([900, 0, 0], 1000, batches)).toBe(true);
  expect(shown(root)).toEqual([]);
});

it('are hidden and taken away', () => {
  const { root, edges: rounded } = edges();
  const batches = [batchOf(0.002, 1)];
  rounded.lookFrom([0, 0, 0], 1000, batches);
  rounded.visible = false;
  expect(root.children[0]!.visible).toBe(false);
  rounded.clear();
  expect(root.children).toEqual([]);
  // What was cleared is made again.
  expect(rounded.lookFrom([0, 0, 0], 1000, batches)).toBe(true);
});
