import * as v from 'valibot';

/** What is set about a building: one thing, a row or an area of things. It stays one, with its numbers and its seed. */

const finite = v.pipe(v.number(), v.finite());
const name = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
const place2 = v.strictTuple([finite, finite]);
const metres = (least: number, most: number) => v.pipe(finite, v.minValue(least), v.maxValue(most));
export const MOST_MEMBERS = 20_000;

/** A stroke of the brush over an area: from there on things grow, or do not. */
export const strokeSchema = v.strictObject({ at: place2, radiusM: metres(0.1, 100), adds: v.boolean() });

export const patternSchema = v.variant('kind', [
  v.strictObject({ kind: v.literal('one') }),
  v.strictObject({ kind: v.literal('row'), points: v.pipe(v.array(place2), v.minLength(2), v.maxLength(200)), spacingM: metres(0.1, 200) }),
  v.strictObject({
    kind: v.literal('area'),
    /** Anticlockwise or clockwise; empty: what was brushed alone. */
    outline: v.pipe(v.array(place2), v.maxLength(500)),
    perHundredM2: metres(0.01, 5000),
    leastM: metres(0, 100),
    strokes: v.pipe(v.array(strokeSchema), v.maxLength(2000)),
    /** Only on the surface that lies under this place. */
    onSurfaceAt: v.optional(place2),
  }),
]);

export const setThingSchema = v.strictObject({
  name,
  layer: name,
  /** Kinds of the library, by their shares; a form alone, or any of them. */
  of: v.pipe(v.array(v.strictObject({ kind: name, form: v.optional(name), share: metres(0.01, 100) })), v.minLength(1), v.maxLength(20)),
  /** Of leaf or clothing, for kinds that have it; without: as each comes. */
  state: v.optional(name),
  pattern: patternSchema,
  /** Without: each at random. Anticlockwise from above. */
  turnDeg: v.optional(metres(-360, 360)),
  size: metres(0.05, 20),
  /** How much they differ in size either way, as a share. */
  spread: metres(0, 0.8),
  /** Chosen together with all others of the same. */
  group: v.optional(name),
  /** Stands square to the ground, not upright. */
  alongSlope: v.optional(v.boolean()),
  seed: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(999_999)),
  /** Where each stands: x, y, z, metres, one after the other. */
  members: v.pipe(
    v.array(finite),
    v.maxLength(3 * MOST_MEMBERS),
    v.check((list) => list.length % 3 === 0, 'three numbers each'),
  ),
  /** Of the ground under each: x, y, z of its upward normal; for those that stand along it. */
  slopes: v.optional(v.pipe(v.array(finite), v.maxLength(3 * MOST_MEMBERS))),
  /** What it stands on, and where that was then. */
  stands: v.optional(v.strictObject({ source: name, element: name, transform: v.pipe(v.array(finite), v.length(16)) })),
});
export type SetThing = v.InferOutput<typeof setThingSchema>;
export type Pattern = SetThing['pattern'];
export type Stroke = v.InferOutput<typeof strokeSchema>;
