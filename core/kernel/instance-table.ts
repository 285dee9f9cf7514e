import { invert, isInvertible, type Mat4, meanScale } from '../geometry/mat4';
import type { Bounds } from '../geometry/mesh';
import { PLAIN_VARIATION } from '../finish/finish';
import * as L from './assembly/layout';
import type { KernelExports } from './kernel';
import type { KernelMemory } from './memory';
import type { MeshTable } from './mesh-table';
import type { RenderedInstance } from '../scene/rendered-scene';

export const standsLike = (a: RenderedInstance, b: RenderedInstance): boolean =>
  a === b || (a.mesh === b.mesh && (a.transform === b.transform || a.transform.every((v, i) => v === b.transform[i])));

/** Instances in the kernel's memory, with the tree over them. */
export class InstanceTable {
  /** Where the rows of the table begin, in the order of the instances. */
  table = 0;
  private placed: readonly RenderedInstance[] = [];
  /** The table, and the tree over it. */
  private blocks: number[] = [];

  constructor(
    private readonly memory: KernelMemory,
    private readonly kernel: KernelExports,
    private readonly meshes: MeshTable,
    private readonly setWord: (offset: number, value: number) => void,
  ) {}

  get placedOnes(): readonly RenderedInstance[] {
    return this.placed;
  }

  /** The instance of a number, as it was placed last. */
  at(number: number): RenderedInstance | undefined {
    return this.placed[number];
  }

  /** Places instances, and the tree over them; the tree is kept where they stand as those before. Returns those that have a place. */
  place(instances: readonly RenderedInstance[]): readonly RenderedInstance[] {
    const placed = instances.filter(({ transform }) => isInvertible(transform));
    const before = this.placed;
    if (this.table && before.length === placed.length && placed.every((instance, i) => standsLike(instance, before[i]!))) {
      this.reassign(placed, placed.keys());
      return placed;
    }
    for (const block of this.blocks) this.memory.release(block);
    this.table = this.memory.allocate(Math.max(1, placed.length) * L.INSTANCE_SIZE);
    const bounds = new Float32Array(placed.length * 8);
    const view = this.memory.view();
    for (const [i, instance] of placed.entries()) {
      const { pointer, bounds: own } = this.meshes.get(instance.mesh);
      const p = this.table + i * L.INSTANCE_SIZE;
      writeRows(view, p + L.INSTANCE_INVERSE, invert(instance.transform)!);
      writeRows(view, p + L.INSTANCE_FORWARD, instance.transform);
      view.setUint32(p + L.INSTANCE_MESH, pointer, true);
      writeVariation(view, p, instance);
      worldBounds(own, instance.transform, bounds, i * 8);
    }
    this.setWord(L.SCENE_INSTANCES, this.table);
    this.placed = placed;
    this.blocks = [this.table, ...this.buildTopLevel(bounds, placed.length)];
    return placed;
  }

  /** Takes instances that stand as those before, some of them prepared otherwise. */
  reassign(instances: readonly RenderedInstance[], changed: Iterable<number>): void {
    const view = this.memory.view();
    for (const place of changed) writeVariation(view, this.table + place * L.INSTANCE_SIZE, instances[place]!);
    this.placed = instances;
  }

  private buildTopLevel(bounds: Float32Array, count: number): number[] {
    this.setWord(L.SCENE_INSTANCE_COUNT, count);
    if (count === 0) return [];
    const boundsAt = this.memory.allocate(bounds.byteLength);
    this.memory.write(boundsAt, bounds);
    const scratch = this.memory.allocate(this.kernel.bvhScratchSize(count));
    const nodes = this.memory.allocate(count * L.NODE_SIZE + L.NODE_SIZE);
    this.kernel.buildInstances(boundsAt, count, nodes, scratch);
    this.memory.release(boundsAt);
    this.memory.release(scratch);
    this.setWord(L.SCENE_TLAS_NODES, nodes);
    return [nodes];
  }
}

function writeRows(view: DataView, p: number, m: Mat4): void {
  for (let row = 0; row < 3; row++)
    for (let column = 0; column < 4; column++) view.setFloat32(p + row * 16 + column * 4, m[column * 4 + row]!, true);
}

/** How the element has its finish; maps keep their size on scaled placements. */
function writeVariation(view: DataView, p: number, { transform, variation }: RenderedInstance): void {
  const { uM, vM, turnRad, size, hueRad, brightness } = variation ?? PLAIN_VARIATION;
  const f = (offset: number, value: number) => {
    view.setFloat32(p + offset, value, true);
  };
  f(L.INSTANCE_UV_SCALE, meanScale(transform) / size);
  f(L.INSTANCE_UV_OFFSET, uM);
  f(L.INSTANCE_UV_OFFSET + 4, vM);
  f(L.INSTANCE_UV_TURN, Math.cos(turnRad));
  f(L.INSTANCE_UV_TURN + 4, Math.sin(turnRad));
  f(L.INSTANCE_HUE, Math.cos(hueRad));
  f(L.INSTANCE_HUE + 4, Math.sin(hueRad));
  f(L.INSTANCE_BRIGHTNESS, brightness);
}

function worldBounds({ min, max }: Bounds, m: Mat4, out: Float32Array, at: number): void {
  for (let row = 0; row < 3; row++) {
    let low = m[12 + row]!;
    let high = low;
    for (let axis = 0; axis < 3; axis++) {
      const a = m[axis * 4 + row]! * min[axis]!;
      const b = m[axis * 4 + row]! * max[axis]!;
      low += Math.min(a, b);
      high += Math.max(a, b);
    }
    const margin = 1e-5 * Math.max(Math.abs(low), Math.abs(high), 1);
    out[at + row] = low - margin;
    out[at + 4 + row] = high + margin;
  }
}
