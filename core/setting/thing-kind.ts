import * as v from 'valibot';
import { sourceMaterialSchema } from '../model/schema';

/** Things of the library that are set about a building: planting and entourage. */

export const GROUPS = ['trees', 'shrubs', 'herbs', 'rocks', 'people', 'vehicles', 'street', 'furniture', 'surround'] as const;
export type ThingGroup = (typeof GROUPS)[number];

const word = v.pipe(v.string(), v.minLength(1), v.maxLength(300));
const size = v.pipe(v.number(), v.minValue(0), v.maxValue(20_000));

const thingPartSchema = v.strictObject({
  /** Hash of the mesh's blob; metres, z up, its foot at the origin, its front towards -y. */
  mesh: v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/)),
  material: word,
  /** States that it is seen in; absent: in all. */
  in: v.optional(v.array(word)),
});
export type ThingPart = v.InferOutput<typeof thingPartSchema>;

/** One individual of a kind: another age, posture or make. */
const thingFormSchema = v.strictObject({
  id: word,
  name: word,
  heightM: size,
  /** Of its outline seen from above, metres. */
  acrossM: size,
  triangles: v.pipe(v.number(), v.integer(), v.minValue(0)),
  parts: v.pipe(v.array(thingPartSchema), v.maxLength(100)),
});
export type ThingForm = v.InferOutput<typeof thingFormSchema>;

export const thingKindSchema = v.strictObject({
  id: word,
  name: word,
  group: v.picklist(GROUPS),
  tags: v.pipe(v.array(word), v.maxLength(20)),
  /** Of leaf or clothing: the first is how it comes. Empty: it has one only. */
  states: v.pipe(v.array(word), v.maxLength(20)),
  forms: v.pipe(v.array(thingFormSchema), v.minLength(1), v.maxLength(50)),
  materials: v.pipe(v.array(sourceMaterialSchema), v.maxLength(200)),
});
export type ThingKind = v.InferOutput<typeof thingKindSchema>;

/** A kind as it is shown first: of trees the grown one. */
export const defaultForm = ({ forms }: ThingKind): ThingForm => forms.find(({ id }) => id === 'grown') ?? forms[0]!;
