import * as THREE from 'three';
import type { Finish } from '../../../core/finish/finish';
import type { PreparedMesh } from '../../../core/geometry/prepare-mesh';

/** Tufts of one shape, as the refining worker has grown them. */
export interface TuftGroup {
  finish: Finish;
  mesh: PreparedMesh;
  /** 0 is nearest. */
  level: number;
  /** 16 floats each. */
  transforms: Float32Array<ArrayBuffer>;
  /** Brightness, one float each. */
  tints: Float32Array<ArrayBuffer>;
}

/** Grass in the working picture: the nearest tufts that the budget of triangles holds. */
export class BladesOnStage {
  private readonly shown: THREE.InstancedMesh[] = [];
  /** Finishes come as copies with every view; the first one is kept, so that its material and shader are. */
  private readonly finishes = new Map<string, Finish>();

  constructor(
    private readonly root: THREE.Object3D,
    private readonly mostTriangles: number,
    private readonly materialOf: (finish: Finish) => THREE.Material,
  ) {}

  set(groups: readonly TuftGroup[]): void {
    this.clear();
    let left = this.mostTriangles;
    for (const group of [...groups].sort((a, b) => a.level - b.level)) {
      const each = group.mesh.indices.length / 3;
      const count = Math.min(group.tints.length, Math.floor(left / each));
      if (count === 0) continue;
      left -= count * each;
      this.add(group, count);
    }
  }

  set visible(visible: boolean) {
    for (const mesh of this.shown) mesh.visible = visible;
  }

  clear(): void {
    for (const mesh of this.shown.splice(0)) {
      this.root.remove(mesh);
      mesh.geometry.dispose();
      mesh.dispose();
    }
  }

  private known(finish: Finish): Finish {
    const before = this.finishes.get(finish.id);
    if (before && JSON.stringify(before) === JSON.stringify(finish)) return before;
    this.finishes.set(finish.id, finish);
    return finish;
  }

  private add({ finish, mesh, transforms, tints }: TuftGroup, count: number): void {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.BufferAttribute(mesh.positions, 3));
    geometry.setAttribute('normal', new THREE.BufferAttribute(mesh.normals, 3));
    geometry.setAttribute('uv', new THREE.BufferAttribute(mesh.uvs, 2));
    geometry.setIndex(new THREE.BufferAttribute(mesh.indices, 1));
    const instanced = new THREE.InstancedMesh(geometry, this.materialOf(this.known(finish)), count);
    instanced.instanceMatrix = new THREE.InstancedBufferAttribute(transforms.subarray(0, count * 16), 16);
    const colours = Float32Array.from({ length: count * 3 }, (_, i) => tints[Math.floor(i / 3)]!);
    instanced.instanceColor = new THREE.InstancedBufferAttribute(colours, 3);
    instanced.receiveShadow = true;
    instanced.frustumCulled = false;
    this.shown.push(instanced);
    this.root.add(instanced);
  }
}
