import type * as THREE from 'three';
import type { PreparedMesh } from '../../../core/geometry/prepare-mesh';
import { edgeStrips } from '../../../core/geometry/edge-strips';
import { meanScale } from '../../../core/geometry/mat4';
import { addTo } from '../../../core/grouping';
import { distance } from '../../../core/geometry/vec3';
import type { SceneInstance } from '../../../core/scene/scene';
import { SurfaceBatch } from './surface-batch';

/** A radius that looks smaller than this is not drawn. */
const LEAST_PX = 0.8;
/** Triangles of meshes whose edges are looked for, nearest first: it takes about a microsecond each. */
const MOST_TRIANGLES = 60_000;

/** Strips over the edges of what stands near the camera, see core/geometry/edge-strips.ts. */
export class RoundedEdges {
  private readonly batches: SurfaceBatch[] = [];
  private shown: readonly SceneInstance[] = [];
  /** Strips of a mesh by their width, a tenth of a millimetre apart. */
  private readonly strips = new WeakMap<PreparedMesh, Map<number, PreparedMesh | undefined>>();

  constructor(
    private readonly root: THREE.Object3D,
    private readonly materialOf: (instance: SceneInstance) => THREE.Material,
  ) {}

  set visible(visible: boolean) {
    for (const { mesh } of this.batches) mesh.visible = visible;
  }

  /** Settles to draw the edges of those parts of `batches` whose radius is seen from a place; false: they are drawn already. */
  lookFrom(eye: readonly [number, number, number], pixelsAtOneM: number, batches: readonly SurfaceBatch[]): boolean {
    const near = nearOnes(eye, pixelsAtOneM, batches);
    const instances = near.flatMap(({ parts, batch }) => parts.map((part) => batch.instances[part]!));
    if (instances.length === this.shown.length && instances.every((instance, i) => instance === this.shown[i])) return false;
    this.clear();
    this.shown = instances;
    for (const { batch, parts } of near) this.add(batch, parts);
    return true;
  }

  /** Puts on what they have just now. */
  renew(): void {
    for (const { mesh, instances } of this.batches) mesh.material = this.materialOf(instances[0]!);
  }

  clear(): void {
    this.shown = [];
    for (const batch of this.batches.splice(0)) {
      this.root.remove(batch.mesh);
      batch.dispose();
    }
  }

  private add(batch: SurfaceBatch, parts: readonly number[]): void {
    const strips = new Map<string, PreparedMesh>();
    const rounded = parts.flatMap((part) => {
      const instance = batch.instances[part]!;
      const made = this.stripsOf(batch.restingMesh(part), instance);
      if (made) strips.set(instance.mesh, made);
      return made ? [instance] : [];
    });
    if (rounded.length === 0) return;
    const over = new SurfaceBatch(rounded, (hash) => ({ resting: strips.get(hash)!, moving: strips.get(hash)! }));
    over.showAll();
    over.mesh.receiveShadow = true;
    this.batches.push(over);
    this.root.add(over.mesh);
  }

  private stripsOf(mesh: PreparedMesh, { finish, transform }: SceneInstance): PreparedMesh | undefined {
    const tenths = Math.max(1, Math.round((finish.edgeRadiusM / meanScale(transform)) * 1e4));
    const known = this.strips.get(mesh) ?? new Map<number, PreparedMesh | undefined>();
    this.strips.set(mesh, known);
    if (!known.has(tenths)) known.set(tenths, edgeStrips(mesh, tenths / 1e4));
    return known.get(tenths);
  }
}

/** Parts near enough, batch by batch, as many as there may be. */
function nearOnes(
  eye: readonly [number, number, number],
  pixelsAtOneM: number,
  batches: readonly SurfaceBatch[],
): { batch: SurfaceBatch; parts: number[] }[] {
  const found: { batch: SurfaceBatch; part: number; away: number }[] = [];
  for (const batch of batches) {
    const { edgeRadiusM } = batch.instances[0]!.finish;
    const reach = (edgeRadiusM * pixelsAtOneM) / LEAST_PX;
    if (reach === 0) continue;
    const { spheres } = batch;
    for (let part = 0; part < batch.instances.length; part++) {
      const o = part * 4;
      const away = distance(eye, [spheres[o]!, spheres[o + 1]!, spheres[o + 2]!]) - spheres[o + 3]!;
      if (away < reach) found.push({ batch, part, away });
    }
  }
  found.sort((a, b) => a.away - b.away);
  let triangles = 0;
  const taken = new Map<SurfaceBatch, number[]>();
  for (const { batch, part } of found) {
    triangles += batch.trianglesOf(part, false);
    if (triangles > MOST_TRIANGLES) break;
    addTo(taken, batch, part);
  }
  return [...taken].map(([batch, parts]) => ({ batch, parts: parts.sort((a, b) => a - b) }));
}
