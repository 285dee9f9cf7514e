import { IDENTITY, multiply, type Mat4 } from '../geometry/mat4';
import { cross, normalise, type Vec3 } from '../geometry/vec3';
import { EMPTY_MODEL, type Model } from '../model/model';
import { LayeredMap } from '../model/layered-map';
import type { ModelElement, SourceMaterial } from '../model/schema';
import { random } from '../random';
import { landMaterial, type Land } from './land';
import type { SetThing } from './set-thing';
import type { ThingForm, ThingGroup, ThingKind } from './thing-kind';

/** What is set about the building, as a source of the project's own: each member is an element. */

/** Stands for a source. */
export const SETTING = '+setting';
export type ThingKinds = ReadonlyMap<string, ThingKind>;

const PLANTING: readonly ThingGroup[] = ['trees', 'shrubs', 'herbs', 'rocks'];
/** Things that grow or lie on the ground alone, not on paving, buildings or water. */
export const isPlanting = ({ group }: Pick<ThingKind, 'group'>): boolean => PLANTING.includes(group);

export interface PlacedSet {
  id: string;
  thing: SetThing;
  /** From where it was set to where it is now: what it stands on may have moved. */
  at: Mat4;
}

const hashOf = (x: number, y: number, seed: number): number =>
  (Math.imul(Math.round(x * 1000), 73856093) ^ Math.imul(Math.round(y * 1000), 19349663) ^ Math.imul(seed + 7, 83492791)) | 0;

export interface Member {
  kind: ThingKind;
  form: ThingForm;
  position: Vec3;
  transform: number[];
}

/** What each member is, how it is turned and sized: by the seed and where it stands alone. */
export function membersOf({ thing, at }: Omit<PlacedSet, 'id'>, kinds: ThingKinds): Member[] {
  const known = thing.of.filter(({ kind }) => kinds.has(kind));
  const total = known.reduce((sum, { share }) => sum + share, 0);
  if (known.length === 0) return [];
  const members: Member[] = [];
  for (let i = 0; i < thing.members.length; i += 3) {
    const [x, y, z] = [thing.members[i]!, thing.members[i + 1]!, thing.members[i + 2]!];
    const next = random(hashOf(x, y, thing.seed));
    let share = next() * total;
    const chosen = known.find((of) => (share -= of.share) <= 0) ?? known.at(-1)!;
    const kind = kinds.get(chosen.kind)!;
    const any = Math.floor(next() * kind.forms.length);
    const form = kind.forms.find(({ id }) => id === chosen.form) ?? kind.forms[any]!;
    const turn = thing.turnDeg === undefined ? next() * 2 * Math.PI : (thing.turnDeg * Math.PI) / 180;
    const size = thing.size * (1 + (next() * 2 - 1) * thing.spread);
    const up: Vec3 = thing.alongSlope && thing.slopes ? [thing.slopes[i]!, thing.slopes[i + 1]!, thing.slopes[i + 2]!] : [0, 0, 1];
    const transform = multiply(at, standing([x, y, z], up, turn, size));
    members.push({ kind, form, position: [transform[12]!, transform[13]!, transform[14]!], transform: [...transform] });
  }
  return members;
}

function standing([x, y, z]: Vec3, up: Vec3, turn: number, size: number): Mat4 {
  const ahead: Vec3 = [-Math.sin(turn), Math.cos(turn), 0];
  const right = normalise(cross(ahead, up));
  const forward = cross(up, right);
  const [r, f, u] = [right, forward, up].map((axis) => axis.map((c) => c * size)) as [number[], number[], number[]];
  return [r[0]!, r[1]!, r[2]!, 0, f[0]!, f[1]!, f[2]!, 0, u[0]!, u[1]!, u[2]!, 0, x, y, z, 1];
}

/** The state that a kind is shown in. */
const stateOf = (kind: ThingKind, wanted: string | undefined): string | undefined =>
  kind.states.includes(wanted ?? '') ? wanted : kind.states[0];

function elementsOf(set: PlacedSet, kinds: ThingKinds): ModelElement[] {
  return membersOf(set, kinds).map(({ kind, form, transform }, i): ModelElement => {
    const state = stateOf(kind, set.thing.state);
    return {
      id: `${set.id}/${String(i)}`,
      name: kind.name,
      class: isPlanting(kind) ? 'Planting' : 'Entourage',
      storey: '',
      layer: set.thing.layer,
      option: null,
      phase: null,
      transform,
      parts: form.parts.flatMap(({ mesh, material, in: states }) => (!states || states.includes(state ?? '') ? [{ mesh, material }] : [])),
    };
  });
}

export interface PlacedLand {
  id: string;
  land: Land;
}

const LAND_CLASSES: Readonly<Record<Land['kind'], string>> = { terrain: 'Ground', path: 'Path', water: 'Water' };

/** Lies in the project's metres, and has a material for each finish. */
const landElement = ({ id, land }: PlacedLand): ModelElement => ({
  id,
  name: land.name,
  class: LAND_CLASSES[land.kind],
  storey: '',
  layer: land.layer,
  option: null,
  phase: null,
  transform: [...IDENTITY],
  parts: land.parts.map(({ finish, mesh }) => ({ mesh, material: landMaterial(finish) })),
});

const landMaterialOf = (finish: string): SourceMaterial => ({
  id: landMaterial(finish),
  name: `Ground: ${finish.replaceAll('-', ' ')}`,
  colour: [0.5, 0.5, 0.42],
  opacity: 1,
  texture: null,
});

/** Makes one model after the other; what has not changed since the last one are the same objects. */
export class SettingModel {
  private last: { sets: ReadonlyMap<string, PlacedSet>; lands: ReadonlyMap<string, Land>; kinds: ThingKinds; model: Model } | undefined;

  /** Undefined: nothing is set. */
  modelOf(wanted: readonly PlacedSet[], kinds: ThingKinds, lands: readonly PlacedLand[] = []): Model | undefined {
    // Until the library is there, nothing of it is seen.
    const sets = kinds.size === 0 ? [] : wanted;
    if (sets.length === 0 && lands.length === 0) {
      this.last = undefined;
      return undefined;
    }
    const before = this.last?.kinds === kinds ? this.last : undefined;
    const now = new Map(sets.map((set) => [set.id, set]));
    const isSame = (id: string, { thing, at }: PlacedSet) => {
      const old = before?.sets.get(id);
      return old?.thing === thing && (old.at === at || old.at.every((value, i) => value === at[i]));
    };
    const changed = sets.filter((set) => !isSame(set.id, set));
    const gone = [...(before?.sets ?? [])].filter(([id, old]) => !now.has(id) || !isSame(id, now.get(id)!) || !old);
    const laid = lands.filter(({ id, land }) => before?.lands.get(id) !== land);
    const lifted = [...(before?.lands ?? [])].flatMap(([id, land]) =>
      lands.some((now) => now.id === id && now.land === land) ? [] : [id],
    );
    if (before && [changed, gone, laid, lifted].every(({ length }) => length === 0)) return before.model;
    const removed = gone.flatMap(([id, { thing }]) => Array.from({ length: thing.members.length / 3 }, (_, i) => `${id}/${String(i)}`));
    const added = [...changed.flatMap((set) => elementsOf(set, kinds)), ...laid.map(landElement)];
    const elements = LayeredMap.of(before?.model.elements ?? new Map<string, ModelElement>()).with([...removed, ...lifted], added.map((element) => [element.id, element])); // prettier-ignore
    const model = { ...EMPTY_MODEL, elements, materials: materialsOf(sets, kinds, lands, before?.model.materials) };
    this.last = { sets: now, lands: new Map(lands.map(({ id, land }) => [id, land])), kinds, model };
    return model;
  }
}

/** Of all kinds that are set, and of what covers the ground. */
function materialsOf(
  sets: readonly PlacedSet[],
  kinds: ThingKinds,
  lands: readonly PlacedLand[],
  before: Model['materials'] | undefined,
): Model['materials'] {
  const used = new Set(sets.flatMap(({ thing }) => thing.of.map(({ kind }) => kind)));
  const materials = new Map<string, SourceMaterial>();
  for (const kind of used) for (const material of kinds.get(kind)?.materials ?? []) materials.set(material.id, material);
  for (const { land } of lands)
    for (const { finish } of land.parts) {
      const material = before?.get(landMaterial(finish)) ?? landMaterialOf(finish);
      materials.set(material.id, material);
    }
  const isSame = before?.size === materials.size && [...materials].every(([id, material]) => before.get(id) === material);
  return isSame ? before : materials;
}

/** Whether a part of the scene belongs to planting or entourage that was set. */
export const isThing = ({ source, class: its }: { source: string; class?: string | undefined }): boolean =>
  source === SETTING && (its === 'Planting' || its === 'Entourage');

export const isPlantingClass = (its: string | undefined): boolean => its === 'Planting';
