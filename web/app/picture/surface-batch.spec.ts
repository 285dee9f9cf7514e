import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { PLAIN_FINISH } from '../../../core/finish/finish';
import { prepareMesh, type PreparedMesh } from '../../../core/geometry/prepare-mesh';
import { compose, multiply, rotationZ, translation, type Mat4 } from '../../../core/geometry/mat4';
import { MeshBuilder } from '../../../core/geometry/shapes';
import type { SceneInstance } from '../../../core/scene/scene';
import { castRay } from './picking';
import { SurfaceBatch } from './surface-batch';

const meshes = new Map<string, PreparedMesh>([
  ['box', prepareMesh(new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build())],
  ['post', prepareMesh(new MeshBuilder().tube([[0, 0, 0], [0, 0, 2]], 0.2, 12).build())], // prettier-ignore
]);
const finish = { ...PLAIN_FINISH, id: 'x', name: 'x', family: 'plain' as const };
const part = (element: string, mesh: string, transform: Mat4): SceneInstance => ({
  source: 's', element, part: 0, material: 'm', mesh, transform, finish, emissionScale: 1, lens: false,
}); // prettier-ignore
const batchOf = (...parts: SceneInstance[]) =>
  new SurfaceBatch(parts, (hash) => ({ resting: meshes.get(hash)!, moving: meshes.get(hash)! }));

/** What a ray down at (x, y) meets: the element and the height. */
function below(batch: SurfaceBatch, x: number, y: number): { element: string; z: number } | undefined {
  const met = castRay([batch], [x, y, 10], [0, 0, -1]);
  return met && { element: met.instance.element, z: met.point[2] };
}

describe('a batch of surfaces', () => {
  it('draws each part in its place and tells whose triangle is whose', () => {
    const batch = batchOf(part('a', 'box', translation(0, 0, 0)), part('b', 'post', translation(5, 0, 1)), part('c', 'box', multiply(translation(0, 5, 2), rotationZ(0.3))));
    expect(below(batch, 0.5, 0.5)).toMatchObject({ element: 'a', z: 1 });
    expect(below(batch, 5, 0.05)).toMatchObject({ element: 'b', z: 3 });
    expect(below(batch, 0.2, 5.6)!.element).toBe('c');
    expect(below(batch, 3, 3)).toBeUndefined();
  }); // prettier-ignore

  it('keeps the size of maps on a part that is scaled', () => {
    const uvs = (batch: SurfaceBatch) => [...batch.mesh.geometry.getAttribute('uv').array];
    const [once, twice] = [
      uvs(batchOf(part('a', 'box', translation(0, 0, 0)))),
      uvs(batchOf(part('a', 'box', compose([0, 0, 0], [], [2, 2, 2])))),
    ];
    expect(twice).toEqual(once.map((metres) => metres * 2));
  });

  it('lays maps from the world’s origin where the finish says so, on every face, wherever the part stands and is turned', () => {
    const world = { ...finish, origin: 'world' as const };
    const placed = (m: Mat4) => new SurfaceBatch([{ ...part('a', 'box', m), finish: world }], (hash) => ({ resting: meshes.get(hash)!, moving: meshes.get(hash)! }));
    const { position, uv, normal } = placed(multiply(translation(3, -2, 5), rotationZ(0.7))).mesh.geometry.attributes as Record<string, THREE.BufferAttribute>;
    for (let i = 0; i < uv!.count; i++) {
      const n = new THREE.Vector3().fromBufferAttribute(normal!, i);
      const p = new THREE.Vector3().fromBufferAttribute(position!, i);
      // On upright faces v is the height, and u runs level along the face; on level ones both turn with the part.
      const upright = Math.abs(n.z) < 0.5;
      const v = upright ? new THREE.Vector3(0, 0, 1) : new THREE.Vector3(-Math.sin(0.7), Math.cos(0.7), 0);
      expect(uv!.getY(i)).toBeCloseTo(p.dot(v), 4);
      expect(uv!.getX(i)).toBeCloseTo(p.dot(v.clone().cross(n)), 4);
    }
  }); // prettier-ignore

  it('turns the faces of a mirrored part round, so that its outside stays outside', () => {
    const mirrored = batchOf(part('m', 'box', [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]));
    expect(below(mirrored, -0.5, 0.5)).toMatchObject({ element: 'm', z: 1 });
    const normals = mirrored.mesh.geometry.getAttribute('normal');
    for (let i = 0; i < normals.count; i++) {
      const n = new THREE.Vector3().fromBufferAttribute(normals, i);
      const p = new THREE.Vector3().fromBufferAttribute(mirrored.mesh.geometry.getAttribute('position'), i);
      expect(n.dot(p.sub(new THREE.Vector3(-0.5, 0.5, 0.5)))).toBeGreaterThan(0);
    }
  });

  it('moves one part without touching the others', () => {
    const [a, b] = [part('a', 'box', translation(0, 0, 0)), part('b', 'box', translation(3, 0, 0))];
    const batch = batchOf(a, b);
    const before = batch.mesh.geometry;
    batch.update([a, part('b', 'box', translation(3, 0, 4))]);
    expect(batch.mesh.geometry).toBe(before);
    expect(below(batch, 0.5, 0.5)!.z).toBeCloseTo(1, 6);
    expect(below(batch, 3.5, 0.5)).toMatchObject({ element: 'b', z: 5 });
    expect(batch.mesh.geometry.boundingBox!.max.z).toBeCloseTo(5, 6);
  });

  it('goes a step on in place, or says that it cannot', () => {
    const [a, b] = [part('a', 'box', translation(0, 0, 0)), part('b', 'box', translation(3, 0, 0))];
    const batch = batchOf(a, b);
    const risen = part('b', 'box', translation(3, 0, 4));
    expect(batch.move([b], [risen])).toBe(true);
    expect(below(batch, 3.5, 0.5)).toMatchObject({ element: 'b', z: 5 });
    expect(batch.move([risen], [part('b', 'box', translation(3, 0, 6))])).toBe(true);
    expect(batch.move([b], [risen])).toBe(false);
    expect(batch.move([a], [part('a', 'post', translation(0, 0, 0))])).toBe(false);
    expect(batch.move([a], [])).toBe(false);
    expect(below(batch, 0.5, 0.5)!.element).toBe('a');
  });
});
