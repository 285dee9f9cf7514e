import { fillOf, planesFor, type Cuts } from '../project/sections';
import type { RenderedInstance } from '../scene/rendered-scene';
import { isGround } from '../scene/scene-bounds';
import * as L from './assembly/layout';
import type { InstanceTable } from './instance-table';
import type { KernelMemory } from './memory';
import type { MeshTable } from './mesh-table';

/** Planes of sections in the kernel's memory, and of each instance which of them cut it and what it is filled with. */
export class CutTable {
  private cuts: Cuts | undefined;
  private planesAt = 0;

  constructor(
    private readonly memory: KernelMemory,
    private readonly meshes: MeshTable,
    private readonly instances: InstanceTable,
    private readonly setWord: (offset: number, value: number) => void,
  ) {}

  set(cuts: Cuts | undefined): void {
    if (cuts === this.cuts) return;
    this.cuts = cuts;
    const planes = cuts?.planes ?? [];
    if (this.planesAt) this.memory.release(this.planesAt);
    this.planesAt = planes.length > 0 ? this.memory.allocate(planes.length * L.PLANE_SIZE) : 0;
    if (planes.length > 0)
      this.memory.write(this.planesAt, Float32Array.from(planes.flatMap(({ normal, offsetM }) => [...normal, offsetM])));
    this.setWord(L.SCENE_PLANES, this.planesAt);
    this.instances.placedOnes.forEach((instance, place) => {
      this.write(place, instance);
    });
    this.tellEarth();
  }

  /** Tells which planes cut ground on whatever layer, once all instances are placed. */
  tellEarth(): void {
    const { cuts } = this;
    const bits = cuts?.fills.earth
      ? this.instances.placedOnes.reduce((all, instance) => (this.isEarth(instance) ? all | planesFor(cuts, instance.layer) : all), 0)
      : 0;
    this.setWord(L.SCENE_EARTH, bits);
  }

  /** Of the instance at a place of the table, whose mask is written before. */
  write(place: number, instance: RenderedInstance): void {
    const view = this.memory.view();
    const p = this.instances.table + place * L.INSTANCE_SIZE;
    const { cuts } = this;
    view.setUint32(p + L.INSTANCE_CUT, cuts ? planesFor(cuts, instance.layer) : 0, true);
    const earth = cuts?.fills.earth !== undefined && this.isEarth(instance);
    const mask = view.getInt32(p + L.INSTANCE_MASK, true) & ~L.MASK_EARTH;
    view.setInt32(p + L.INSTANCE_MASK, earth ? mask | L.MASK_EARTH : mask, true);
    let fill = 0;
    if (earth) fill = filledWith(cuts.fills.earth!);
    else if (cuts && this.meshes.isClosed(instance.mesh)) fill = filledWith(fillOf(cuts, instance.class));
    view.setUint32(p + L.INSTANCE_FILL, fill, true);
  }

  /** Ground that is a sheet. */
  private isEarth(instance: RenderedInstance): boolean {
    return isGround(instance) && !this.meshes.isClosed(instance.mesh);
  }
}

const filledWith = (colour: string): number => (1 << 24) | Number.parseInt(colour.slice(1), 16);
