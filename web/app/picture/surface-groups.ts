import { addTo } from '../../../core/grouping';
import type { SceneStep } from '../../../core/scene/compile';
import type { SceneInstance } from '../../../core/scene/scene';
import { SurfaceBatch, type PartMeshes } from './surface-batch';

type MeshesOf = (hash: string) => PartMeshes | undefined;

/** What has to be done about batches that come, go or stay. */
export interface BatchKeeper {
  came(batch: SurfaceBatch): void;
  went(batch: SurfaceBatch): void;
  /** The parts of a batch may have something else. */
  assignMaterial(key: string, batch: SurfaceBatch): void;
  /** Parts came, went or moved. */
  shapeChanged(): void;
}

/** Parts that share a source material, or that one element has to itself. Each group is one batch; a large one of which much has come or gone is several. */
export class SurfaceGroups {
  private readonly groups = new Map<string, SurfaceBatch[]>();
  /** Batches of which much went lately, newest first: what is hidden for a while costs no GPU memory, and is not placed again. */
  private asleep: SurfaceBatch[] = [];
  /** All meshes were there when the scene was set last. */
  private isWhole = false;

  constructor(private readonly keeper: BatchKeeper) {}

  get batches(): SurfaceBatch[] {
    return [...this.groups.values()].flat();
  }

  assignAll(): void {
    for (const [key, blocks] of this.groups) for (const block of blocks) this.keeper.assignMaterial(key, block);
  }

  /** Goes over to another scene; only what differs is touched. False: some meshes were not there. */
  setScene(instances: readonly SceneInstance[], meshesOf: MeshesOf): boolean {
    const wanted = new Map<string, SceneInstance[]>();
    let whole = true;
    for (const instance of instances) {
      if (meshesOf(instance.mesh)) addTo(wanted, groupKey(instance), instance);
      else whole = false;
    }
    const emptied = [...this.groups.keys()].filter((key) => !wanted.has(key));
    this.rename(wanted, emptied, meshesOf as (hash: string) => PartMeshes);
    for (const key of emptied) this.set(key, [], meshesOf);
    const sorts = whole && !this.isWhole;
    for (const [key, those] of wanted) this.set(key, those, meshesOf, sorts);
    this.isWhole = whole;
    return whole;
  }

  /** The same, a step on from the scene that was set last, when all its meshes were there. */
  stepScene({ removed, added }: SceneStep, meshesOf: MeshesOf): boolean {
    const going = new Map<string, SceneInstance[]>();
    const coming = new Map<string, SceneInstance[]>();
    for (const instance of removed) addTo(going, groupKey(instance), instance);
    for (const instance of added) if (meshesOf(instance.mesh)) addTo(coming, groupKey(instance), instance);
    const wanted = new Map<string, SceneInstance[]>();
    const emptied: string[] = [];
    for (const key of new Set([...going.keys(), ...coming.keys()])) {
      const [gone, come] = [going.get(key) ?? [], coming.get(key) ?? []];
      const blocks = this.groups.get(key) ?? [];
      if (blocks.some((block) => block.move(gone, come))) {
        this.keeper.shapeChanged();
        continue;
      }
      const left = new Set(blocks.flatMap(({ instances }) => instances));
      for (const instance of gone) left.delete(instance);
      const those = [...left, ...come];
      if (those.length > 0) wanted.set(key, those);
      else emptied.push(key);
    }
    this.rename(wanted, emptied, meshesOf as (hash: string) => PartMeshes);
    for (const key of emptied) this.set(key, [], meshesOf);
    for (const [key, those] of wanted) this.set(key, those, meshesOf);
    return added.every(({ mesh }) => meshesOf(mesh));
  }

  clear(): void {
    for (const key of this.groups.keys()) this.set(key, [], () => undefined);
    this.asleep = [];
  }

  /** A batch for parts that are not drawn now: the one that went with just these, or a new one. */
  private wake(list: readonly SceneInstance[], there: (hash: string) => PartMeshes, going: readonly SurfaceBatch[]): SurfaceBatch {
    // In whatever order: an edited model may tell its elements in another one.
    const known = this.asleep.find((batch) => batch.isOf(list));
    this.asleep = this.asleep.filter((batch) => batch !== known);
    if (known?.holds(known.instances, there)) return known;
    return new SurfaceBatch(list, there, list.length < LARGE ? going : [...going, ...this.asleep]);
  }

  /** Keeps what a batch has in place, if much of it is gone. */
  private sleep(batch: SurfaceBatch, staying: number): void {
    if (batch.instances.length - staying < Math.max(LARGE / 2, batch.instances.length * WORTH_A_BLOCK)) return;
    let bytes = 0;
    this.asleep = [batch, ...this.asleep].filter((one) => (bytes += one.bytes) <= MOST_ASLEEP_BYTES);
  }

  /** Groups whose parts only have something else are kept, under their new names. */
  private rename(wanted: ReadonlyMap<string, SceneInstance[]>, emptied: readonly string[], meshesOf: (hash: string) => PartMeshes): void {
    const going = emptied.flatMap((key) => (this.groups.has(key) ? [[key, this.groups.get(key)!] as const] : []));
    for (const [key, those] of wanted) {
      if (this.groups.has(key)) continue;
      const i = going.findIndex(([old, blocks]) => {
        if (ofMaterial(old) !== ofMaterial(key)) return false;
        const lists = shareOut(those, blocks);
        return lists.length === blocks.length && lists.every((list, k) => blocks[k]!.holds(list, meshesOf));
      });
      if (i < 0) continue;
      const [old, blocks] = going.splice(i, 1)[0]!;
      this.groups.delete(old);
      this.groups.set(key, blocks);
    }
  }

  /** `sorts`: large groups are shared out anew. */
  private set(key: string, instances: SceneInstance[], meshesOf: MeshesOf, sorts = false): void {
    const there = meshesOf as (hash: string) => PartMeshes;
    const blocks = this.groups.get(key) ?? [];
    const same = blocks.length === 1 && blocks[0]!.holds(instances, there);
    const sorted = sorts && instances.length >= LARGE ? byClass(instances) : undefined;
    const lists = sorted ?? (same ? [instances] : shareOut(instances, blocks));
    const stays = lists.map((list, i) => blocks[i]?.holds(list, there) === true);
    const going = blocks.filter((_, i) => !stays[i]);
    const next = lists.flatMap((list, i) => (stays[i] ? [blocks[i]!] : list.length > 0 ? [this.wake(list, there, going)] : []));
    for (const [i, block] of blocks.entries()) if (stays[i] && block.update(lists[i]!)) this.keeper.shapeChanged();
    for (const [i, block] of blocks.entries()) {
      if (stays[i]) continue;
      this.keeper.went(block);
      block.dispose();
      if (!sorts) this.sleep(block, lists[i]?.length ?? 0);
      this.keeper.shapeChanged();
    }
    for (const block of next) {
      if (!blocks.includes(block)) {
        this.keeper.came(block);
        this.keeper.shapeChanged();
      }
      this.keeper.assignMaterial(key, block);
    }
    if (next.length > 0) this.groups.set(key, next);
    else this.groups.delete(key);
  }
}

/** Groups of fewer parts are one batch. */
const LARGE = 2000;
/** What comes to a large group makes a batch of its own if it is at least this share of it. */
const WORTH_A_BLOCK = 1 / 8;
const MOST_BLOCKS = 4;
const MOST_ASLEEP_BYTES = 400e6;

/**
 * Shares the parts of a group among its batches: each stays where it was, so that a batch is made anew only for what has come
 * or gone. One list for each batch, possibly empty, and one more for a new batch.
 */
export function shareOut<T extends { element: string; class?: string | undefined }>(
  instances: readonly T[],
  blocks: readonly { elements: ReadonlySet<string> }[],
): T[][] {
  if (blocks.length === 0 || (blocks.length === 1 && instances.length < LARGE)) return [[...instances]];
  const at = instances.map(({ element }) => blocks.findIndex(({ elements }) => elements.has(element)));
  const fresh = at.reduce((sum, block) => sum + Number(block < 0), 0);
  const ownBlock = fresh >= instances.length * WORTH_A_BLOCK && instances.length >= LARGE;
  const lists: T[][] = Array.from({ length: blocks.length + Number(ownBlock) }, () => []);
  for (const [i, instance] of instances.entries()) lists[at[i]! >= 0 ? at[i]! : ownBlock ? blocks.length : 0]!.push(instance);
  return lists.filter(({ length }) => length > 0).length > MOST_BLOCKS ? [[...instances]] : lists;
}

/** The largest classes in lists of their own, the rest in another: a class that is hidden or shown is then a batch that goes or comes. */
function byClass<T extends { class?: string | undefined }>(instances: readonly T[]): T[][] {
  const classes = new Map<string | undefined, T[]>();
  for (const instance of instances) addTo(classes, instance.class, instance);
  const lists = [...classes.values()].sort((a, b) => b.length - a.length);
  const large = lists.slice(0, MOST_BLOCKS - 1).filter(({ length }) => length >= instances.length * WORTH_A_BLOCK);
  const rest = lists.slice(large.length).flat();
  return rest.length > 0 ? [...large, rest] : large;
}

/** The part of a group's key that does not tell its finish. */
const ofMaterial = (key: string): string => key.slice(0, key.lastIndexOf('/'));

/** Parts are drawn together by source material; an element with a finish of its own stands alone. */
export function groupKey({ source, element, material, finish, emissionScale, lens }: SceneInstance): string {
  return lens ? `${source}/${material}/${element}/${emissionScale.toFixed(3)}` : `${source}/${material}/${finish.id}`;
}
