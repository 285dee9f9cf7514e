import * as v from 'valibot';

/** Ground that is shaped in the project: terrain, paths laid on it, and sheets of water. */

const finite = v.pipe(v.number(), v.finite());
const name = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
const place2 = v.strictTuple([finite, finite]);
const metres = (least: number, most: number) => v.pipe(finite, v.minValue(least), v.maxValue(most));
const hash = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/));
/** Points of a terrain's grid along a side. */
export const MOST_SIDE = 256;
export const SHAPING = ['raise', 'lower', 'smooth', 'flatten', 'roughen', 'cover'] as const;

export const shapingSchema = v.strictObject({
  does: v.picklist(SHAPING),
  /** Where the brush went. */
  along: v.pipe(v.array(place2), v.minLength(1), v.maxLength(400)),
  radiusM: metres(0.2, 200),
  /** Raised, lowered or roughened by so many metres at most; smoothed by a share; flattened to this height. */
  amount: finite,
  /** What the ground is covered with: a finish. */
  finish: v.optional(name),
});
export type Shaping = v.InferOutput<typeof shapingSchema>;

export const gridSchema = v.strictObject({
  x: finite,
  y: finite,
  cellM: metres(0.05, 100),
  columns: v.pipe(v.number(), v.integer(), v.minValue(2), v.maxValue(MOST_SIDE)),
  rows: v.pipe(v.number(), v.integer(), v.minValue(2), v.maxValue(MOST_SIDE)),
});
export type LandGrid = v.InferOutput<typeof gridSchema>;

/** What it is seen as: a mesh for each finish, in the project's metres. */
const parts = v.pipe(v.array(v.strictObject({ finish: name, mesh: hash })), v.maxLength(50));
const common = { name, layer: name, parts };

export const landSchema = v.variant('kind', [
  v.strictObject({
    kind: v.literal('terrain'),
    ...common,
    grid: gridSchema,
    /** Heights as it was made: a mesh of the grid's points, row by row from the least y, without faces. Far below: there is none. */
    base: hash,
    shaping: v.pipe(v.array(shapingSchema), v.maxLength(2000)),
    /** A finish, or MEADOW. */
    cover: name,
    /** Elements of models that it takes the place of. */
    instead: v.pipe(v.array(v.strictObject({ source: name, element: name })), v.maxLength(500)),
  }),
  v.strictObject({
    kind: v.literal('path'),
    ...common,
    points: v.pipe(v.array(place2), v.minLength(2), v.maxLength(200)),
    widthM: metres(0.3, 60),
    kerb: v.nullable(v.strictObject({ widthM: metres(0.03, 2), heightM: metres(0, 1), finish: name })),
    finish: name,
  }),
  v.strictObject({
    kind: v.literal('water'),
    ...common,
    outline: v.pipe(v.array(place2), v.minLength(3), v.maxLength(500)),
    levelM: finite,
    finish: name,
  }),
]);
export type Land = v.InferOutput<typeof landSchema>;
export type Terrain = Extract<Land, { kind: 'terrain' }>;
export type LaidPath = Extract<Land, { kind: 'path' }>;
export type WaterSheet = Extract<Land, { kind: 'water' }>;

/** Grass of several kinds and heights, clover and bare earth in patches, in place of one finish. */
export const MEADOW = 'meadow';
/** A height that stands for none. */
export const NO_GROUND = -1e5;
/** Source material of what is covered with a finish. */
export const LAND_MATERIALS = 'land.';
export const landMaterial = (finish: string): string => `${LAND_MATERIALS}${finish}`;
