import * as v from 'valibot';
import { nameFits } from '../finish/rules';
import { IDENTITY, meanScale } from '../geometry/mat4';
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

/** Elements whose shape lies about the model's own origin have no place of their own, and keep their shape. */
const hasPlace = ({ transform, parts }: ModelElement): boolean => parts.length > 0 && transform.some((value, i) => value !== IDENTITY[i]);

function fits({ by, pattern }: StandIn, element: ModelElement, { materials }: Model): boolean {
  if (by === 'material') return element.parts.some(({ material }) => nameFits(pattern, materials.get(material)?.name ?? material));
  return nameFits(pattern, element[by]);
}

/** A model without the elements that something stands for, and what that is. */
export function standingIn(source: string, model: Model, rules: readonly StandIn[]): { model: Model; sets: PlacedSet[] } {
  const sets: PlacedSet[] = [];
  const hidden: [string, ModelElement][] = [];
  if (rules.length > 0)
    for (const element of model.elements.values()) {
      if (!hasPlace(element)) continue;
      const rule = rules.find((one) => fits(one, element, model));
      if (!rule) continue;
      let known = made.get(element);
      if (known?.rule !== rule) {
        known = { rule, set: { id: `+in/${source}/${element.id}`, thing: thingFor(element, rule), at: IDENTITY }, hidden: { ...element, parts: [] } };
        made.set(element, known);
      }
      sets.push(known.set);
      hidden.push([element.id, known.hidden]);
    }
  return { model: hidden.length === 0 ? model : { ...model, elements: LayeredMap.of(model.elements).with([], hidden) }, sets };
} // prettier-ignore

/** Of each rule, how many elements it stands for. */
export function standInCounts(models: Iterable<Model>, rules: readonly StandIn[]): number[] {
  const counts = rules.map(() => 0);
  for (const model of models)
    for (const element of model.elements.values()) {
      const rule = hasPlace(element) ? rules.findIndex((one) => fits(one, element, model)) : -1;
      if (rule >= 0) counts[rule]!++;
    }
  return counts;
}

function thingFor({ name, layer, transform: m }: ModelElement, { kind, form, state, size, turnDeg }: StandIn): SetThing {
  const turn = (Math.atan2(m[1]!, m[0]!) * 180) / Math.PI + turnDeg;
  return {
    name: name || kind, layer: layer || 'Stand-ins', of: [{ kind, share: 1, ...(form && { form }) }], ...(state && { state }), pattern: { kind: 'one' },
    turnDeg: ((turn + 540) % 360) - 180, size: size * meanScale(m), spread: 0, seed: 1, members: [m[12]!, m[13]!, m[14]!],
  }; // prettier-ignore
}
