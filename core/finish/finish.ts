import * as v from 'valibot';

const finite = v.pipe(v.number(), v.finite());
const unit = v.pipe(finite, v.minValue(0), v.maxValue(1));

/**
 * A finish: the glTF 2.0 metallic-roughness material with KHR_materials_transmission, _volume, _ior and _emissive_strength,
 * plus the size of its maps in the real world. Factors multiply the maps, as in glTF.
 */
export const finishSchema = v.strictObject({
  id: v.pipe(v.string(), v.regex(/^[\w.-]{1,80}$/)),
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  family: v.picklist(['wood', 'stone', 'concrete', 'plaster', 'brick', 'tile', 'metal', 'glass', 'textile', 'ground', 'water', 'plain']),
  /** sRGB 0..1. */
  baseColour: v.strictTuple([unit, unit, unit]),
  roughness: unit,
  metalness: unit,
  opacity: unit,
  transmission: unit,
  ior: v.pipe(finite, v.minValue(1), v.maxValue(3)),
  /** How a clear body is built: a sheet without thickness, a pane with two parallel faces, or a solid that refracts. */
  body: v.picklist(['sheet', 'pane', 'solid']),
  /** Share of light left after `attenuationDistanceM` inside the body, per channel; null: clear. */
  attenuationColour: v.strictTuple([unit, unit, unit]),
  attenuationDistanceM: v.nullable(v.pipe(finite, v.minValue(0.0001), v.maxValue(1000))),
  /** cd/m2 at full level; tint as base colour. */
  emissionCdM2: v.pipe(finite, v.minValue(0), v.maxValue(1e9)),
  /** Generated map set, or null for a plain finish. */
  maps: v.nullable(v.string()),
  /** Size of one repeat of the maps, in metres. */
  widthM: v.pipe(finite, v.minValue(0.001), v.maxValue(1000)),
  heightM: v.pipe(finite, v.minValue(0.001), v.maxValue(1000)),
  rotationDeg: v.pipe(finite, v.minValue(-360), v.maxValue(360)),
  normalScale: v.pipe(finite, v.minValue(0), v.maxValue(4)),
});
export type Finish = v.InferOutput<typeof finishSchema>;
export type FinishBody = Finish['body'];

export const PLAIN_FINISH: Omit<Finish, 'id' | 'name' | 'family'> = {
  baseColour: [1, 1, 1],
  roughness: 0.6,
  metalness: 0,
  opacity: 1,
  transmission: 0,
  ior: 1.5,
  body: 'sheet',
  attenuationColour: [1, 1, 1],
  attenuationDistanceM: null,
  emissionCdM2: 0,
  maps: null,
  widthM: 1,
  heightM: 1,
  rotationDeg: 0,
  normalScale: 1,
};
