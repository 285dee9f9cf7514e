import * as v from 'valibot';
import { decodeSrgb } from '../image/tone';

const finite = v.pipe(v.number(), v.finite());
const metres = v.pipe(finite, v.minValue(-1000), v.maxValue(1000));
const unit = v.pipe(finite, v.minValue(0), v.maxValue(1));

/** In the order that the library shows them in; `plain` is for what comes from elsewhere. */
export const FAMILIES = [
  'wood', 'brick', 'stone', 'tile', 'concrete', 'plaster', 'paint', 'metal', 'glass', 'textile', 'roofing', 'paving', 'ground', 'water', 'plain',
] as const; // prettier-ignore

/**
 * A finish: the glTF 2.0 metallic-roughness material with KHR_materials_transmission, _volume, _ior, _emissive_strength,
 * _clearcoat, _sheen, _anisotropy, _iridescence, _dispersion, _specular and _diffuse_transmission, plus the size of its maps in the real world. Factors multiply the maps, as in glTF.
 */
export const finishSchema = v.strictObject({
  id: v.pipe(v.string(), v.regex(/^[\w.-]{1,80}$/)),
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  family: v.picklist(FAMILIES),
  /** Words to be found by, beside the name: indoors, polished, dark ... */
  tags: v.pipe(v.array(v.pipe(v.string(), v.regex(/^[\p{L}\d-]{1,40}$/u))), v.maxLength(20)),
  /** sRGB 0..1. */
  baseColour: v.strictTuple([unit, unit, unit]),
  /** Adjustment of colour and maps together, see adjust.ts. */
  hueDeg: v.pipe(finite, v.minValue(-180), v.maxValue(180)),
  saturation: v.pipe(finite, v.minValue(0), v.maxValue(3)),
  brightness: v.pipe(finite, v.minValue(0), v.maxValue(5)),
  contrast: v.pipe(finite, v.minValue(0.2), v.maxValue(3)),
  roughness: unit,
  metalness: unit,
  /** How much rougher it is across its grain than along it: brushed and turned metal, satin. */
  anisotropy: unit,
  /** Which way is across, anticlockwise from the maps' u. */
  anisotropyDeg: v.pipe(finite, v.minValue(-180), v.maxValue(180)),
  opacity: unit,
  /** The maps' opacity cuts holes instead of fading. */
  cutOut: v.boolean(),
  transmission: unit,
  /** Share of the scattered light that leaves on the other side: shades, paper, leaves. */
  diffuseTransmission: unit,
  /** sRGB; null: that of the base colour. */
  diffuseTransmissionColour: v.nullable(v.strictTuple([unit, unit, unit])),
  /** Mean free path of light inside a solid body, metres: marble, alabaster, wax; 0: its light comes back where it came in. */
  subsurfaceM: v.pipe(finite, v.minValue(0), v.maxValue(0.2)),
  /** How far each colour goes, as a share of that. */
  subsurfaceColour: v.strictTuple([unit, unit, unit]),
  /** A clear varnish over it, of index 1.5. */
  clearCoat: unit,
  clearCoatRoughness: unit,
  /** How strong the coat's own normals are, or where it has none, how much it follows those under it; 0: it lies level. */
  clearCoatNormal: v.pipe(finite, v.minValue(0), v.maxValue(4)),
  /** Light that fibres send back at a glance: cloth, felt, velvet; its colour is sRGB. */
  sheen: unit,
  sheenColour: v.strictTuple([unit, unit, unit]),
  sheenRoughness: v.pipe(finite, v.minValue(0.1), v.maxValue(1)),
  /** Share of a thin film over it that colours what it mirrors by its thickness: coated glass, tempered steel, oil. */
  film: unit,
  filmIor: v.pipe(finite, v.minValue(1), v.maxValue(3)),
  filmNm: v.pipe(finite, v.minValue(0), v.maxValue(3000)),
  /** How thin the film is where its map is darkest; without one it is `filmNm` thick all over. */
  filmLeastNm: v.pipe(finite, v.minValue(0), v.maxValue(3000)),
  ior: v.pipe(finite, v.minValue(1), v.maxValue(3)),
  /** How much of what its index mirrors it does mirror, where it is neither metal nor clear, and in which colour (sRGB). */
  specular: unit,
  specularColour: v.strictTuple([unit, unit, unit]),
  /** How far a solid spreads colours apart: 20 over its Abbe number; 0: not at all. */
  dispersion: v.pipe(finite, v.minValue(0), v.maxValue(5)),
  /** How a clear body is built: a sheet without thickness, a pane with two parallel faces, or a solid that refracts. */
  body: v.picklist(['sheet', 'pane', 'solid']),
  /** Share of light left after `attenuationDistanceM` inside the body, per channel; null: clear. */
  attenuationColour: v.strictTuple([unit, unit, unit]),
  attenuationDistanceM: v.nullable(v.pipe(finite, v.minValue(0.0001), v.maxValue(1000))),
  /** Of the light on a clear body, what is scattered back out of it by what floats in it, as a share per channel (linear): murky water. */
  scatteredBack: v.optional(v.strictTuple([unit, unit, unit]), [0, 0, 0]),
  /** cd/m2 at full level. */
  emissionCdM2: v.pipe(finite, v.minValue(0), v.maxValue(1e9)),
  /** sRGB; null: that of the base colour. */
  emissionColour: v.nullable(v.strictTuple([unit, unit, unit])),
  /** Generated map set, or null for a plain finish. */
  maps: v.nullable(v.string()),
  /** Size of one repeat of the maps, in metres. */
  widthM: v.pipe(finite, v.minValue(0.001), v.maxValue(1000)),
  heightM: v.pipe(finite, v.minValue(0.001), v.maxValue(1000)),
  rotationDeg: v.pipe(finite, v.minValue(-360), v.maxValue(360)),
  /** Moves the maps, metres along u and v. */
  offsetM: v.strictTuple([metres, metres]),
  /** Where the maps begin: at each element's own origin, at a corner of each flat face, or at the model's, so that they run on from one element to the next. */
  origin: v.picklist(['element', 'face', 'world']),
  /** The maps are laid in moved patches, so that their repeat is not seen; not for patterns. See hex-tiling.ts. */
  breakRepeat: v.boolean(),
  normalScale: v.pipe(finite, v.minValue(0), v.maxValue(4)),
  /** How far below the face the lowest places of the maps lie, metres; 0: they only shade. See relief.ts. */
  reliefM: v.pipe(finite, v.minValue(0), v.maxValue(0.3)),
  /** Sharp outer edges are rounded by so much in shading, metres. */
  edgeRadiusM: v.pipe(finite, v.minValue(0), v.maxValue(0.1)),
  /** Waves on its level surfaces, see waves.ts; null: it lies still. */
  waves: v.nullable(
    v.strictObject({
      /** Significant height: that of the highest third from crest to trough. */
      heightM: v.pipe(finite, v.minValue(0), v.maxValue(5)),
      /** From crest to crest of the longest. */
      lengthM: v.pipe(finite, v.minValue(0.05), v.maxValue(200)),
      /** Where the wind drives them, anticlockwise from the model's x axis. */
      towardsDeg: v.pipe(finite, v.minValue(-360), v.maxValue(360)),
      /** Of the wind that ruffles it, m/s at 12.5 m. */
      windMs: v.optional(v.pipe(finite, v.minValue(0), v.maxValue(30)), 3),
    }),
  ),
  /** Blades that grow on its faces, see core/living/blades.ts; null: none. */
  blades: v.nullable(
    v.strictObject({
      /** Of a blade from root to tip. */
      lengthM: v.pipe(finite, v.minValue(0.005), v.maxValue(1)),
      widthM: v.pipe(finite, v.minValue(0.0005), v.maxValue(0.03)),
      perM2: v.pipe(finite, v.minValue(1), v.maxValue(20000)),
      /** sRGB. */
      colour: v.strictTuple([unit, unit, unit]),
      /** How much they differ in length, lean and colour, 0 to 1. */
      irregularity: unit,
    }),
  ),
  /** How elements that have it differ from each other, at random but the same every time. */
  vary: v.strictObject({
    offset: v.boolean(),
    /** Offsets are whole numbers of these, metres across and along; 0: any. */
    stepM: v.strictTuple([v.pipe(finite, v.minValue(0), v.maxValue(100)), v.pipe(finite, v.minValue(0), v.maxValue(100))]),
    turn: v.picklist(['none', 'half', 'quarter', 'free']),
    /** Largest differences either way: of size and brightness as a share, of hue in degrees. */
    size: v.pipe(finite, v.minValue(0), v.maxValue(0.5)),
    hueDeg: v.pipe(finite, v.minValue(0), v.maxValue(60)),
    brightness: v.pipe(finite, v.minValue(0), v.maxValue(0.6)),
    seed: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(999)),
  }),
});

/** What a source material may know of itself beside its colour, opacity and picture. */
export const opticsSchema = v.pick(finishSchema, [
  'roughness', 'metalness', 'cutOut', 'transmission', 'diffuseTransmission', 'diffuseTransmissionColour', 'clearCoat', 'clearCoatRoughness', 'clearCoatNormal', 'sheen', 'sheenColour', 'sheenRoughness', 'film', 'filmIor', 'filmNm', 'filmLeastNm', 'ior', 'specular', 'specularColour', 'dispersion', 'body',
  'attenuationColour', 'attenuationDistanceM', 'emissionCdM2', 'emissionColour', 'normalScale', 'anisotropy', 'anisotropyDeg',
]); // prettier-ignore
export type Optics = v.InferOutput<typeof opticsSchema>;

export type Finish = v.InferOutput<typeof finishSchema>;
export type FinishBody = Finish['body'];

export const PLAIN_FINISH: Omit<Finish, 'id' | 'name' | 'family'> = {
  tags: [],
  baseColour: [1, 1, 1],
  hueDeg: 0,
  saturation: 1,
  brightness: 1,
  contrast: 1,
  roughness: 0.6,
  metalness: 0,
  anisotropy: 0,
  anisotropyDeg: 0,
  opacity: 1,
  cutOut: false,
  transmission: 0,
  diffuseTransmission: 0,
  diffuseTransmissionColour: null,
  subsurfaceM: 0,
  subsurfaceColour: [1, 1, 1],
  clearCoat: 0,
  clearCoatRoughness: 0.1,
  clearCoatNormal: 1,
  sheen: 0,
  sheenColour: [1, 1, 1],
  sheenRoughness: 0.5,
  film: 0,
  filmIor: 1.3,
  filmNm: 400,
  filmLeastNm: 0,
  ior: 1.5,
  specular: 1,
  specularColour: [1, 1, 1],
  dispersion: 0,
  body: 'sheet',
  attenuationColour: [1, 1, 1],
  attenuationDistanceM: null,
  emissionCdM2: 0,
  emissionColour: null,
  maps: null,
  widthM: 1,
  heightM: 1,
  rotationDeg: 0,
  offsetM: [0, 0],
  origin: 'element',
  breakRepeat: false,
  normalScale: 1,
  reliefM: 0,
  edgeRadiusM: 0,
  scatteredBack: [0, 0, 0],
  waves: null,
  blades: null,
  vary: { offset: false, stepM: [0, 0], turn: 'none', size: 0, hueDeg: 0, brightness: 0, seed: 1 },
};

/** A finish of the project's own, of maps that say how rough it is. */
export const ownFinish = (name: string, family: Finish['family'], maps: string, widthM: number, heightM: number): Finish => ({
  ...PLAIN_FINISH,
  // Not randomUUID, which browsers keep from pages that come by plain HTTP.
  id: `own-${[...crypto.getRandomValues(new Uint32Array(2))].map((n) => n.toString(36)).join('-')}`,
  name,
  family,
  roughness: 1,
  maps,
  widthM,
  heightM,
});

/** Linear radiance at full level, cd/m2. */
export const radianceOf = ({ baseColour, emissionColour, emissionCdM2 }: Finish): [number, number, number] =>
  (emissionColour ?? baseColour).map((c) => decodeSrgb(c) * emissionCdM2) as [number, number, number];

/** A finish without what it is called. */
export const looksOf = ({ id: _, name: __, tags: ___, ...look }: Finish): Omit<Finish, 'id' | 'name' | 'tags'> => look;

/** A short mark of all that a finish looks like, for addresses of its pictures (FNV-1a). */
export function finishMark(finish: Finish): string {
  let hash = 0x811c9dc5;
  const text = JSON.stringify(looksOf(finish));
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return (hash >>> 0).toString(16);
}

const completed = new WeakMap<Partial<Finish>, Finish>();

/** A finish that was kept before some of its fields were known, with those as they are at first. */
export function completeFinish(kept: Finish): Finish {
  if (Object.keys(PLAIN_FINISH).every((field) => field in kept)) return kept;
  let whole = completed.get(kept);
  if (!whole) completed.set(kept, (whole = { ...PLAIN_FINISH, ...kept }));
  return whole;
}

/** How one element has a finish differently from the next. */
export interface Variation {
  /** Moves the maps, metres. */
  uM: number;
  vM: number;
  turnRad: number;
  /** The maps are drawn so much larger. */
  size: number;
  hueRad: number;
  brightness: number;
}

/** Of an element that has its finish as it is. */
export const PLAIN_VARIATION: Variation = { uM: 0, vM: 0, turnRad: 0, size: 1, hueRad: 0, brightness: 1 };
