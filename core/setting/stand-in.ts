import * as v from 'valibot';
import { nameFits } from '../finish/rules';
import { IDENTITY, meanScale, translation, type Mat4 } from '../geometry/mat4';
import type { Bounds } from '../geometry/mesh';
import { LayeredMap } from '../model/layered-map';
import type { Model } from '../model/model';
import type { ModelElement } from '../model/schema';
import type { PlacedSet } from './setting-model';
import type { SetThing } from './set-thing';

/** Detailed things in place of simple elements of a model: in their place, turn and size, new ones as they come. */

export const STAND_IN_BY = ['name', 'class', 'layer', 'material'] as const;
const word = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
const finite = v.pipe(v.number(), v.finite());

export const standInSchema = v.strictObject({
  by: v.picklist(STAND_IN_BY),
  /** As in rules for finishes: anywhere in the name, * stands for anything. */
  pattern: word,
  kind: word,
  form: v.optional(word),
  state: v.optional(word),
  size: v.pipe(finite, v.minValue(0.05), v.maxValue(20)),
  turnDeg: v.pipe(finite, v.minValue(-360), v.maxValue(360)),
});
export type StandIn = v.InferOutput<typeof standInSchema>;

/** What stands for which element so far. */
const made = new WeakMap<ModelElement, { rule: StandIn; set: PlacedSet; hidden: ModelElement }>();

/** The box about a mesh, once it is known. */
export type BoundsOf = (mesh: string) => Bounds | undefined;
const UNKNOWN: BoundsOf = () => undefined;

const hasOwnPlace = ({ transform }: ModelElement): boolean => transform.some((value, i) => value !== IDENTITY[i]);

/**
 * Where an element stands: at its own place, or, where its shape lies about the model's origin, in the middle of the shape's foot.
 * Undefined: nobody knows yet, and it keeps its shape.
 */
function seatOf(element: ModelElement, boundsOf: BoundsOf): Mat4 | undefined {
  const { parts } = element;
  if (parts.length === 0) return undefined;
  if (hasOwnPlace(element)) return element.transform;
  const boxes = parts.map(({ mesh }) => boundsOf(mesh));
  if (boxes.some((box) => !box)) return undefined;
  const least = (k: number) => Math.min(...boxes.map((box) => box!.min[k]!));
  const most = (k: number) => Math.max(...boxes.map((box) => box!.max[k]!));
  return translation((least(0) + most(0)) / 2, (least(1) + most(1)) / 2, least(2));
}

/** Meshes whose boxes tell where the elements stand that rules fit. */
export function meshesToPlace(models: Iterable<Model>, rules: readonly StandIn[]): Set<string> {
  const meshes = new Set<string>();
  if (rules.length === 0) return meshes;
  for (const model of models)
    for (const element of model.elements.values())
      if (!hasOwnPlace(element) && rules.some((rule) => fits(rule, element, model))) for (const { mesh } of element.parts) meshes.add(mesh);
  return meshes;
} // prettier-ignore

function fits({ by, pattern }: StandIn, element: ModelElement, { materials }: Model): boolean {
  if (by === 'material') return element.parts.some(({ material }) => nameFits(pattern, materials.get(material)?.name ?? material));
  return nameFits(pattern, element[by]);
}

/** A model without the elements that something stands for, and what that is. */
export function standingIn(source: string, model: Model, rules: readonly StandIn[], boundsOf = UNKNOWN): { model: Model; sets: PlacedSet[] } {
  const sets: PlacedSet[] = [];
  const hidden: [string, ModelElement][] = [];
  if (rules.length > 0)
    for (const element of model.elements.values()) {
      if (element.parts.length === 0) continue;
      const rule = rules.find((one) => fits(one, element, model));
      const seat = rule && seatOf(element, boundsOf);
      if (!seat) continue;
      let known = made.get(element);
      if (known?.rule !== rule) {
        known = { rule, set: { id: `+in/${source}/${element.id}`, thing: thingFor(element, seat, rule), at: IDENTITY }, hidden: { ...element, parts: [] } };
        made.set(element, known);
      }
      sets.push(known.set);
      hidden.push([element.id, known.hidden]);
    }
  return { model: hidden.length === 0 ? model : { ...model, elements: LayeredMap.of(model.elements).with([], hidden) }, sets };
} // prettier-ignore

/** Of each rule, how many elements it stands for. */
export function standInCounts(models: Iterable<Model>, rules: readonly StandIn[], boundsOf = UNKNOWN): number[] {
  const counts = rules.map(() => 0);
  for (const model of models)
    for (const element of model.elements.values()) {
      const rule = rules.findIndex((one) => fits(one, element, model));
      if (rule >= 0 && seatOf(element, boundsOf)) counts[rule]!++;
    }
  return counts;
}

function thingFor({ name, layer }: ModelElement, m: Mat4, { kind, form, state, size, turnDeg }: StandIn): SetThing {
  const turn = (Math.atan2(m[1]!, m[0]!) * 180) / Math.PI + turnDeg;
  return {
    name: name || kind, layer: layer || 'Stand-ins', of: [{ kind, share: 1, ...(form && { form }) }], ...(state && { state }), pattern: { kind: 'one' },
    turnDeg: ((turn + 540) % 360) - 180, size: size * meanScale(m), spread: 0, seed: 1, members: [m[12]!, m[13]!, m[14]!],
  }; // prettier-ignore
}
