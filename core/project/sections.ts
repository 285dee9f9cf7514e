import * as v from 'valibot';
import { add, dot, normalise, scale, type Vec3 } from '../geometry/vec3';
import { entry, type Entries } from './project';

/** Sections: planes and boxes that cut the model open, and what cut faces are filled with. */

const finite = v.pipe(v.number(), v.finite(), v.minValue(-100_000), v.maxValue(100_000));
const vec3 = v.pipe(v.tuple([finite, finite, finite]), v.readonly());
const direction = v.pipe(vec3, v.check((d) => Math.hypot(...d) > 1e-6, 'must be a direction')); // prettier-ignore
const colour = v.pipe(v.string(), v.regex(/^#[0-9a-f]{6}$/, 'must be a colour such as #3d3a35'));
const layers = v.optional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(200))), v.maxLength(5000)));

/** What lies on the side that the normal points to is cut away. */
const planeSchema = v.strictObject({ kind: v.literal('plane'), normal: direction, offsetM: finite });
/** What lies outside is cut away. It stands upright, turned about its middle. */
const boxSchema = v.strictObject({
  kind: v.literal('box'),
  middle: vec3,
  sizeM: v.tuple([v.pipe(finite, v.minValue(0.01)), v.pipe(finite, v.minValue(0.01)), v.pipe(finite, v.minValue(0.01))]),
  turnDeg: finite,
});

export const sectionSchema = v.strictObject({
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  cut: v.variant('kind', [planeSchema, boxSchema]),
  /** Only these layers are cut; without: all. */
  layers,
});
export type Section = v.InferOutput<typeof sectionSchema>;

/** What cut faces are filled with: by class, and all else; without a colour for earth ground stays hollow. */
export const fillsSchema = v.strictObject({ classes: v.record(v.string(), colour), others: colour, earth: v.optional(colour) });
export type Fills = v.InferOutput<typeof fillsSchema>;
export const DEFAULT_FILLS: Fills = { classes: { Slab: '#4a4640', Roof: '#5a4a3e' }, others: '#3d3a35', earth: '#8a7862' };

export const cutsSchema = v.strictObject({
  planes: v.pipe(v.array(v.strictObject({ normal: vec3, offsetM: finite, layers })), v.maxLength(32)),
  fills: fillsSchema,
});
/** Planes with unit normals, all of which cut; and fills. */
export type Cuts = v.InferOutput<typeof cutsSchema>;
export type CutPlane = Cuts['planes'][number];

/** The planes of a section. */
export function planesOf({ cut, layers: only }: Section): CutPlane[] {
  const chosen = only && { layers: only };
  if (cut.kind === 'plane') {
    const length = Math.hypot(...cut.normal);
    return [{ normal: normalise(cut.normal), offsetM: cut.offsetM / length, ...chosen }];
  }
  const turn = (cut.turnDeg * Math.PI) / 180;
  const axes: Vec3[] = [
    [Math.cos(turn), Math.sin(turn), 0],
    [-Math.sin(turn), Math.cos(turn), 0],
    [0, 0, 1],
  ];
  return axes.flatMap((axis, k) =>
    [1, -1].map((side): CutPlane => {
      const normal = scale(axis, side);
      return { normal, offsetM: dot(normal, add(cut.middle, scale(normal, cut.sizeM[k]! / 2))), ...chosen };
    }),
  );
}

/** What the sections of these ids cut; undefined: nothing. */
export function cutsOf(entries: Entries, on: readonly string[]): Cuts | undefined {
  const planes = on.flatMap((id) => {
    const section = entry(entries, `section/${id}`);
    return section ? planesOf(section) : [];
  });
  return planes.length === 0 ? undefined : { planes: planes.slice(0, 32), fills: entry(entries, 'section-fills') ?? DEFAULT_FILLS };
}

/** Which planes cut what lies on a layer, bit by bit. */
export const planesFor = ({ planes }: Cuts, layer = ''): number =>
  planes.reduce((bits, { layers: only }, k) => (!only || only.includes(layer) ? bits | (1 << k) : bits), 0) >>> 0;

/** What the cut faces of a closed body are filled with. */
export const fillOf = ({ fills }: Cuts, its = ''): string => fills.classes[its] ?? fills.others;

/** A plane through a place, which cuts away what lies on the side that the normal points to. */
export const planeThrough = (normal: Vec3, place: Vec3): Section['cut'] => ({ kind: 'plane', normal, offsetM: dot(normal, place) });

/** Whether a place of an element on a layer is cut away. */
export const isCutAway = ({ planes }: Cuts, layer: string | undefined, place: Vec3): boolean =>
  planes.some(({ normal, offsetM, layers }) => (!layers || layers.includes(layer ?? '')) && dot(normal, place) > offsetM);
