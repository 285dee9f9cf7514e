import type { Finish, Variation } from '../../../core/finish/finish';
import type { RenderedInstance, RenderedScene } from '../../../core/scene/rendered-scene';
import type { NumberedScene, SceneStep } from '../../../core/scene/compile';
import type { GroundChoice } from '../../../core/project/project';
import type { SceneInstance, SceneLamp } from '../../../core/scene/scene';

/** How a scene differs from the one before. Instances are known by numbers that the page gives them; their columns are flat, because there may be many. */
export interface SceneChange {
  removed: Uint32Array<ArrayBuffer>;
  added: Uint32Array<ArrayBuffer>;
  /** Sixteen numbers each. */
  transforms: Float64Array<ArrayBuffer>;
  /** Places in the two lists below. */
  meshOf: Uint32Array<ArrayBuffer>;
  finishOf: Uint32Array<ArrayBuffer>;
  emissionScales: Float64Array<ArrayBuffer>;
  /** Only of those whose finish varies, by place in the list above. */
  variations: [number, Variation][];
  lenses: Int32Array<ArrayBuffer>;
  kindOf: Uint32Array<ArrayBuffer>;
  /** Class and layer, with a line break between. */
  kinds: string[];
  meshes: string[];
  finishes: Finish[];
  lamps: SceneLamp[];
  ground: GroundChoice;
}

/** Tells the refining worker only what differs: a compiled scene keeps the instances that have not changed. */
export class SceneSender {
  private numbers = new Map<SceneInstance, number>();
  private next = 0;
  private sent: number | undefined;

  /** `step`: how the scene differs from an earlier one; of use if that was sent last. */
  changeTo(scene: NumberedScene, step = scene.step): SceneChange {
    const { removed: gone, added } = step && step.from === this.sent ? step : this.stepTo(scene.instances);
    this.sent = scene.number;
    const removed = Uint32Array.from(gone, (instance) => this.numbers.get(instance)!);
    for (const instance of gone) this.numbers.delete(instance);
    const meshes = new Places<string>();
    const finishes = new Places<Finish>();
    const kinds = new Places<string>();
    const count = added.length;
    const change: SceneChange = {
      removed,
      added: new Uint32Array(count),
      transforms: new Float64Array(count * 16),
      meshOf: new Uint32Array(count),
      finishOf: new Uint32Array(count),
      emissionScales: new Float64Array(count),
      lenses: new Int32Array(count),
      kindOf: new Uint32Array(count),
      kinds: kinds.list,
      variations: [],
      meshes: meshes.list,
      finishes: finishes.list,
      lamps: scene.lamps,
      ground: scene.ground ?? 'auto',
    };
    for (let i = 0; i < count; i++) {
      const instance = added[i]!;
      const { transform } = instance;
      this.numbers.set(instance, this.next);
      change.added[i] = this.next++;
      for (let k = 0; k < 16; k++) change.transforms[i * 16 + k] = transform[k]!;
      change.meshOf[i] = meshes.of(instance.mesh);
      change.finishOf[i] = finishes.of(instance.finish);
      change.emissionScales[i] = instance.emissionScale;
      change.lenses[i] = Number(instance.lens);
      change.kindOf[i] = kinds.of(`${instance.class ?? ''}\n${instance.layer ?? ''}`);
      if (instance.variation) change.variations.push([i, instance.variation]);
    }
    return change;
  }

  private stepTo(instances: readonly SceneInstance[]): Pick<SceneStep, 'removed' | 'added'> {
    const now = new Set(instances);
    return {
      removed: [...this.numbers.keys()].filter((instance) => !now.has(instance)),
      added: instances.filter((instance) => !this.numbers.has(instance)),
    };
  }
}

/** What of a change may change hands instead of being copied. */
export const transferOf = ({ removed, added, transforms, meshOf, finishOf, emissionScales, lenses, kindOf }: SceneChange): Transferable[] =>
  [removed, added, transforms, meshOf, finishOf, emissionScales, lenses, kindOf].map(({ buffer }) => buffer);

/** The worker's copy of the scene. */
export class SceneReceiver {
  /** Places of instances by number: what takes the place of another stands where it stood, so that the kernel's tree can stay. */
  private readonly places = new Map<number, number>();
  private instances: (RenderedInstance | undefined)[] = [];
  /** Copies of one finish that came with different messages are one again. */
  private readonly known = new Map<string, Finish>();

  take({
    removed,
    added,
    transforms,
    meshOf,
    finishOf,
    emissionScales,
    lenses,
    kindOf,
    kinds,
    variations,
    meshes,
    finishes,
    lamps,
    ground,
  }: SceneChange): RenderedScene {
    const varied = new Map(variations);
    const free: number[] = [];
    for (const number of removed) {
      const place = this.places.get(number)!;
      this.places.delete(number);
      this.instances[place] = undefined;
      free.push(place);
    }
    let next = 0;
    const own = finishes.map((finish) => this.one(finish));
    const kindAt = kinds.map((kind) => kind.split('\n'));
    for (const [i, number] of added.entries()) {
      const place = next < free.length ? free[next++]! : this.instances.length;
      this.places.set(number, place);
      this.instances[place] = {
        mesh: meshes[meshOf[i]!]!,
        transform: [...transforms.subarray(i * 16, i * 16 + 16)],
        finish: own[finishOf[i]!]!,
        emissionScale: emissionScales[i]!,
        lens: lenses[i]!,
        class: kindAt[kindOf[i]!]![0],
        layer: kindAt[kindOf[i]!]![1],
        variation: varied.get(i),
      };
    }
    if (next < free.length) this.closeUp();
    return { instances: [...(this.instances as RenderedInstance[])], lamps, ground };
  }

  /** Takes empty places out. */
  private closeUp(): void {
    const moved = new Int32Array(this.instances.length);
    let count = 0;
    this.instances.forEach((instance, i) => {
      moved[i] = count;
      if (instance) count++;
    });
    for (const [number, place] of this.places) this.places.set(number, moved[place]!);
    this.instances = this.instances.filter((instance) => instance !== undefined);
  }

  private one(finish: Finish): Finish {
    const key = JSON.stringify(finish);
    const first = this.known.get(key) ?? finish;
    this.known.set(key, first);
    return first;
  }
}

/** Gives the same place in a list to the same thing. */
class Places<T> {
  readonly list: T[] = [];
  private readonly places = new Map<T, number>();

  of(thing: T): number {
    let place = this.places.get(thing);
    if (place === undefined) {
      place = this.list.push(thing) - 1;
      this.places.set(thing, place);
    }
    return place;
  }
}
