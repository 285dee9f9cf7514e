import * as THREE from 'three';
import type { DressedMesh } from '../../../core/geometry/dress';
import { determinant, meanScale } from '../../../core/geometry/mat4';
import type { SceneInstance } from '../../../core/scene/scene';

/**
 * Parts that are drawn with one call: their meshes, put in place, in one geometry. A part that moves is rewritten where it
 * stands; another set of parts is another batch.
 */
export class SurfaceBatch {
  readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.Material>;
  private readonly positions: THREE.BufferAttribute;
  private readonly normals: THREE.BufferAttribute;
  private readonly uvs: THREE.BufferAttribute;
  /** First vertex of each instance; one more at the end. */
  private readonly firstVertex: number[] = [0];
  private readonly firstTriangle: number[] = [0];

  constructor(
    public instances: readonly SceneInstance[],
    private readonly meshOf: (hash: string) => DressedMesh,
  ) {
    const meshes = instances.map((i) => meshOf(i.mesh));
    for (const m of meshes) {
      this.firstVertex.push(this.firstVertex.at(-1)! + m.positions.length / 3);
      this.firstTriangle.push(this.firstTriangle.at(-1)! + m.indices.length / 3);
    }
    const vertices = this.firstVertex.at(-1)!;
    this.positions = new THREE.BufferAttribute(new Float32Array(vertices * 3), 3);
    this.normals = new THREE.BufferAttribute(new Float32Array(vertices * 3), 3);
    this.uvs = new THREE.BufferAttribute(new Float32Array(vertices * 2), 2);
    const indices = new Uint32Array(this.firstTriangle.at(-1)! * 3);
    for (const [i, m] of meshes.entries()) {
      const base = this.firstVertex[i]!;
      const start = this.firstTriangle[i]! * 3;
      const mirrored = determinant(instances[i]!.transform) < 0;
      for (let k = 0; k < m.indices.length; k++) indices[start + k] = base + m.indices[mirrored ? k - (k % 3) + 2 - (k % 3) : k]!;
      this.place(i);
    }
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', this.positions);
    geometry.setAttribute('normal', this.normals);
    geometry.setAttribute('uv', this.uvs);
    geometry.setIndex(new THREE.BufferAttribute(indices, 1));
    geometry.computeBoundingSphere();
    geometry.computeBoundingBox();
    this.mesh = new THREE.Mesh(geometry);
    this.mesh.matrixAutoUpdate = false;
  }

  /** The same parts again, some of them perhaps elsewhere. */
  update(instances: readonly SceneInstance[]): void {
    const before = this.instances;
    this.instances = instances;
    let moved = false;
    for (const [i, instance] of instances.entries())
      if (before[i]!.transform !== instance.transform) {
        this.place(i);
        moved = true;
      }
    if (!moved) return;
    this.positions.needsUpdate = true;
    this.normals.needsUpdate = true;
    this.uvs.needsUpdate = true;
    this.mesh.geometry.computeBoundingSphere();
    this.mesh.geometry.computeBoundingBox();
  }

  /** The instance that a triangle belongs to. */
  instanceOf(triangle: number): SceneInstance {
    let low = 0;
    let high = this.instances.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.firstTriangle[middle]! <= triangle) low = middle;
      else high = middle - 1;
    }
    return this.instances[low]!;
  }

  dispose(): void {
    this.mesh.geometry.dispose();
  }

  private place(i: number): void {
    const { transform, mesh } = this.instances[i]!;
    const { positions, normals, uvs } = this.meshOf(mesh);
    const larger = meanScale(transform);
    this.uvs.array.set(larger === 1 ? uvs : uvs.map((metres) => metres * larger), this.firstVertex[i]! * 2);
    const base = this.firstVertex[i]! * 3;
    const matrix = new THREE.Matrix4().fromArray(transform);
    const forNormals = new THREE.Matrix3().getNormalMatrix(matrix);
    const v = new THREE.Vector3();
    for (let k = 0; k < positions.length; k += 3) {
      v.fromArray(positions, k)
        .applyMatrix4(matrix)
        .toArray(this.positions.array, base + k);
      v.fromArray(normals, k)
        .applyNormalMatrix(forNormals)
        .toArray(this.normals.array, base + k);
    }
  }
}
