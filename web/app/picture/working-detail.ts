import type { PreparedMesh } from '../../../core/geometry/prepare-mesh';
import type { SceneStep } from '../../../core/scene/compile';
import type { SceneInstance } from '../../../core/scene/scene';
import type { PartMeshes } from './surface-batch';

/** Where the working picture is simplified. The kernel's picture and prints never are. */
export type DetailWay = 'nowhere' | 'moving' | 'always';
export type DetailChoice = 'automatic' | DetailWay;

/** What the working picture shows of the model. */
export interface DetailReport {
  way: DetailWay;
  fullTriangles: number;
  restingTriangles: number;
  movingTriangles: number;
  /** How far at most a simplified surface lies from the true one, metres. */
  lossM: number;
}

/** Triangles that are drawn while the camera moves and while it rests, at most. */
export interface Budget {
  moving: number;
  resting: number;
}

export interface SimpleMesh {
  mesh: PreparedMesh;
  lossM: number;
}

/** Keeps the meshes that have arrived, and chooses which of them stand for a part. */
export class WorkingDetail {
  private readonly full = new Map<string, PreparedMesh>();
  /** `null`: simplifying it would win little. */
  private readonly simple = new Map<string, SimpleMesh | null>();
  private readonly pairs = new Map<string, PartMeshes>();
  private pairsFor: DetailWay = 'nowhere';
  /** How many parts of the scene have each mesh. */
  private readonly used = new Map<string, number>();
  /** Another one whenever what has been shown may be drawn with other meshes. */
  version = 0;

  constructor(private readonly budget: Budget) {}

  get isEmpty(): boolean {
    return this.full.size === 0;
  }

  mesh(hash: string): PreparedMesh | undefined {
    return this.full.get(hash);
  }

  add(meshes: readonly (readonly [string, PreparedMesh])[]): void {
    for (const [hash, mesh] of meshes) {
      this.full.set(hash, mesh);
      this.pairs.delete(hash);
    }
  }

  addSimple(meshes: readonly (readonly [string, SimpleMesh | null])[]): void {
    this.version++;
    for (const [hash, simple] of meshes) {
      this.simple.set(hash, simple);
      this.pairs.delete(hash);
    }
  }

  /** Counts the meshes of a scene anew, or goes a step on from the scene that was counted last. */
  count(scene: readonly SceneInstance[] | SceneStep): void {
    const counted = (instances: readonly SceneInstance[], by: number) => {
      for (const { mesh } of instances) this.used.set(mesh, (this.used.get(mesh) ?? 0) + by);
    };
    if ('from' in scene) {
      counted(scene.added, 1);
      counted(scene.removed, -1);
    } else {
      this.used.clear();
      counted(scene, 1);
    }
  }

  /** Settles where the counted scene is simplified, and names the meshes whose simple ones are needed for it and not there. */
  settle(choice: DetailChoice): { report: DetailReport; wanted: string[] } {
    let fullTriangles = 0;
    const { used } = this;
    for (const [hash, times] of used) fullTriangles += (times * (this.full.get(hash)?.indices.length ?? 0)) / 3;
    const { moving, resting } = this.budget;
    const automatic = fullTriangles <= moving ? 'nowhere' : fullTriangles <= resting ? 'moving' : 'always';
    const way = choice === 'automatic' ? automatic : choice;
    if (way !== this.pairsFor) {
      this.pairs.clear();
      this.version++;
    }
    this.pairsFor = way;
    const report: DetailReport = { way, fullTriangles, restingTriangles: 0, movingTriangles: 0, lossM: 0 };
    const wanted: string[] = [];
    for (const [hash, times] of used) {
      const pair = times > 0 ? this.of(hash) : undefined;
      if (!pair) continue;
      report.restingTriangles += (times * pair.resting.indices.length) / 3;
      report.movingTriangles += (times * pair.moving.indices.length) / 3;
      if (way === 'nowhere') continue;
      const simple = this.simple.get(hash);
      if (simple === undefined) wanted.push(hash);
      report.lossM = Math.max(report.lossM, simple?.lossM ?? 0);
    }
    return { report, wanted };
  }

  /** What a mesh is drawn with, as settled; undefined while it has not arrived. */
  of(hash: string): PartMeshes | undefined {
    let pair = this.pairs.get(hash);
    const full = this.full.get(hash);
    if (!pair && full) {
      const moving = this.pairsFor === 'nowhere' ? full : (this.simple.get(hash)?.mesh ?? full);
      pair = { resting: this.pairsFor === 'always' ? moving : full, moving };
      this.pairs.set(hash, pair);
    }
    return pair;
  }
}
