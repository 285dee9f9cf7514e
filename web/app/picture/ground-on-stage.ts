import type * as THREE from 'three';
import { groundMesh, plainGround } from '../../../core/scene/plain-ground';
import { lowestGround } from '../../../core/scene/scene-bounds';
import type { Scene, SceneInstance } from '../../../core/scene/scene';
import { SurfaceBatch, type PartMeshes } from './surface-batch';

/** The plain ground in the working picture, the same as in the kernel's. */
export class GroundOnStage {
  private batches: SurfaceBatch[] = [];
  private laid = '';
  /** Height of the lowest ground, plain or not. */
  lowestM = 0;

  constructor(
    private readonly root: THREE.Scene,
    private readonly materialOf: (instance: SceneInstance) => THREE.Material,
  ) {}

  /** Lays it where a scene needs it, which is looked for anew. */
  lay({ instances, ground }: Scene, meshesOf: (hash: string) => PartMeshes | undefined): void {
    const rings = plainGround(instances, (key) => meshesOf(key)?.resting, ground);
    this.lowestM = lowestGround([...instances, ...rings], (key) => groundMesh(key) ?? meshesOf(key)?.resting) ?? 0;
    const wanted = JSON.stringify([rings[0]?.transform, rings.length]);
    if (wanted === this.laid) return;
    this.clear();
    this.laid = wanted;
    this.batches = rings.map((ring) => {
      const mesh = groundMesh(ring.mesh)!;
      const instance = { ...ring, source: '', element: '', part: 0, material: '' };
      const batch = new SurfaceBatch([instance], () => ({ resting: mesh, moving: mesh }));
      batch.showAll();
      batch.mesh.material = this.materialOf(instance);
      batch.mesh.receiveShadow = true;
      this.root.add(batch.mesh);
      return batch;
    });
  }

  clear(): void {
    for (const batch of this.batches.splice(0)) {
      this.root.remove(batch.mesh);
      batch.dispose();
    }
    this.laid = '';
  }
}
