import * as v from 'valibot';
import { opticsSchema } from '../finish/finish';
import { MAX_UV_SETS } from '../geometry/mesh';

/** The building model as it travels over the link. Lengths in metres, angles in degrees, colours sRGB 0..1. */

const MAX_NAME = 20_000;
const finite = v.pipe(v.number(), v.finite());
const unit = v.pipe(finite, v.minValue(0), v.maxValue(1));
const id = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
const name = v.pipe(v.string(), v.maxLength(MAX_NAME));
export const sha256 = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/, 'must be a SHA-256 in lower-case hex'));
/** Metres; further away nothing is built. */
const coordinate = v.pipe(v.number(), v.minValue(-1e9), v.maxValue(1e9));
const vec3 = v.strictTuple([coordinate, coordinate, coordinate]);
export { vec3 as vec3Schema };
const direction = v.pipe(
  v.strictTuple([finite, finite, finite]),
  v.check(([x, y, z]) => Math.hypot(x, y, z) > 1e-9, 'must not be zero'),
);
const colour = v.strictTuple([unit, unit, unit]);

const determinant = (m: readonly number[]): number =>
  m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) - m[4]! * (m[1]! * m[10]! - m[2]! * m[9]!) + m[8]! * (m[1]! * m[6]! - m[2]! * m[5]!);

export const elementSchema = v.strictObject({
  /** Stable for the life of the element in its author's file. */
  id,
  name,
  /** Class of building element, in the words of IFC without the prefix: Wall, Slab, Roof, Door, Furniture ... */
  class: name,
  storey: name,
  layer: name,
  /** Design option the element belongs to; null: to all. */
  option: v.nullable(id),
  /** Phase from which on the element exists; null: always. */
  phase: v.nullable(id),
  /** Phase from which on the element is gone; absent: it stays. */
  until: v.optional(v.nullable(id)),
  /** Column-major 4x4, metres. */
  transform: v.pipe(
    v.array(coordinate),
    v.length(16),
    v.check((m) => Math.abs(determinant(m)) > 1e-18, 'must not flatten what it places'),
  ),
  parts: v.pipe(v.array(v.strictObject({ mesh: sha256, material: id })), v.maxLength(1000)),
});
export type ModelElement = v.InferOutput<typeof elementSchema>;

/** The fields of a texture that name pictures. */
export const TEXTURE_PICTURES = [
  'image',
  'normal',
  'roughnessMetalness',
  'occlusion',
  'emission',
  'clearCoat',
  'transmission',
  'sheen',
  'clearCoatRoughness',
  'clearCoatNormal',
  'sheenRoughness',
  'film',
  'filmThickness',
  'brushing',
  'specular',
  'specularColour',
  'diffuseTransmission',
  'diffuseTransmissionColour',
] as const;

export const sourceMaterialSchema = v.strictObject({
  id,
  name,
  colour,
  opacity: v.optional(unit, 1),
  /** How it meets light, in the terms of a finish; what is absent is not known. */
  ...v.partial(opticsSchema).entries,
  texture: v.optional(
    v.nullable(
      v.strictObject({
        /** Base colour; null: only its other pictures. */
        image: v.nullable(sha256),
        /** Normals with green up; roughness and metalness in green and blue; occlusion in red: as in glTF 2.0. */
        normal: v.optional(sha256),
        roughnessMetalness: v.optional(sha256),
        occlusion: v.optional(sha256),
        /** Colour of emission; shares of clear coat and of transmission (red); colour of sheen (sRGB): as its ratified extensions have them. */
        emission: v.optional(sha256),
        clearCoat: v.optional(sha256),
        transmission: v.optional(sha256),
        sheen: v.optional(sha256),
        /** Roughness (green) and normals of the coat; roughness of sheen (alpha); share (red) and thickness (green) of the film. */
        clearCoatRoughness: v.optional(sha256),
        clearCoatNormal: v.optional(sha256),
        sheenRoughness: v.optional(sha256),
        film: v.optional(sha256),
        filmThickness: v.optional(sha256),
        /** Way across the grain (red, green) and how strongly it is brushed (blue). */
        brushing: v.optional(sha256),
        /** Share (alpha) and colour of what it mirrors. */
        specular: v.optional(sha256),
        specularColour: v.optional(sha256),
        /** Share (alpha) and colour of the light that is scattered through. */
        diffuseTransmission: v.optional(sha256),
        diffuseTransmissionColour: v.optional(sha256),
        /** The pictures lie by the coordinates of the meshes, where these bring some, and not at a size of their own. */
        asLaid: v.optional(v.boolean()),
        /** Which set of the meshes' coordinates a picture lies by (Mesh.furtherUvs), where that is not the first, number 0. */
        sets: v.optional(
          v.record(v.picklist(TEXTURE_PICTURES), v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(MAX_UV_SETS - 1))),
        ),
        widthM: v.pipe(finite, v.minValue(0.001)),
        heightM: v.pipe(finite, v.minValue(0.001)),
      }),
    ),
    null,
  ),
  /** Name of a picture that the author's file asks for and does not bring. */
  missing: v.optional(v.pipe(v.string(), v.maxLength(1000))),
});
export type SourceMaterial = v.InferOutput<typeof sourceMaterialSchema>;

/** The text of a photometric file, IES LM-63 or EULUMDAT. */
export const photometrySchema = v.strictObject({
  id,
  name,
  text: v.pipe(v.string(), v.minLength(1), v.maxLength(2_000_000, 'holds more than 2 MB, which no photometric file does')),
});
export type Photometry = v.InferOutput<typeof photometrySchema>;

export const luminaireSchema = v.strictObject({
  id,
  name,
  circuit: name,
  /** What lamps of one kind are called; without, their names without numbers tell. */
  type: v.optional(name),
  /** Element whose lit parts dim with this luminaire. */
  element: v.optional(v.nullable(id), null),
  position: vec3,
  /** Axis of the beam. */
  direction,
  fluxLm: v.pipe(finite, v.minValue(0), v.maxValue(1e7)),
  colourTemperatureK: v.pipe(finite, v.minValue(1000), v.maxValue(20000)),
  /** Full angle at half intensity; 360: all round. */
  beamDeg: v.pipe(finite, v.minValue(1), v.maxValue(360)),
  /** A photometric file of the model, which then gives the distribution in place of the beam; the flux stays. */
  photometry: v.optional(v.nullable(id)),
  /** About the axis, anticlockwise as seen along it: turns the file's plane C0. */
  turnDeg: v.optional(v.pipe(finite, v.minValue(-360), v.maxValue(360))),
  dim: unit,
});
export type Luminaire = v.InferOutput<typeof luminaireSchema>;

export const cameraSchema = v.strictObject({
  position: vec3,
  target: vec3,
  /** 35 mm equivalent focal length. */
  focalMm: v.pipe(finite, v.minValue(5), v.maxValue(500)),
  /** The picture stands upright, so that verticals do; the lens is shifted instead of tilted. */
  upright: v.optional(v.literal(true)),
  /** Parallel instead of in perspective: so many metres across the view are as wide as the picture. */
  parallelM: v.optional(v.pipe(finite, v.minValue(0.01), v.maxValue(100_000))),
  /** What is nearer along the view is not seen. */
  nearM: v.optional(v.pipe(finite, v.minValue(0.01), v.maxValue(10_000))),
  /** Depth of field; without a distance what the camera looks at is sharp. */
  aperture: v.optional(
    v.strictObject({
      fNumber: v.pipe(finite, v.minValue(0.7), v.maxValue(64)),
      focusM: v.optional(v.pipe(finite, v.minValue(0.1), v.maxValue(10_000))),
    }),
  ),
});
export type Camera = v.InferOutput<typeof cameraSchema>;

export const savedCameraSchema = v.strictObject({ id, name, ...cameraSchema.entries });
export type SavedCamera = v.InferOutput<typeof savedCameraSchema>;

export const siteSchema = v.strictObject({
  name,
  latitudeDeg: v.pipe(finite, v.minValue(-90), v.maxValue(90)),
  longitudeDeg: v.pipe(finite, v.minValue(-180), v.maxValue(180)),
  elevationM: v.pipe(finite, v.minValue(-500), v.maxValue(9000)),
  /** Clockwise from the model's y axis to true north. */
  trueNorthDeg: v.pipe(finite, v.minValue(-360), v.maxValue(360)),
});
export type Site = v.InferOutput<typeof siteSchema>;

/** Where a model's origin lies in a map's coordinates, and how its axes are turned against the map's. */
export const basePointSchema = v.strictObject({
  eastM: finite,
  northM: finite,
  heightM: finite,
  /** Anticlockwise from the map's east to the model's x axis. */
  turnDeg: v.pipe(finite, v.minValue(-360), v.maxValue(360)),
});
export type BasePoint = v.InferOutput<typeof basePointSchema>;

export const presentationSchema = v.strictObject({
  hiddenLayers: v.pipe(v.array(name), v.maxLength(5000)),
  options: v.pipe(v.array(v.strictObject({ id, name })), v.maxLength(100)),
  option: v.nullable(id),
  phases: v.pipe(v.array(v.strictObject({ id, name })), v.maxLength(100)),
  phase: v.nullable(id),
});
export type Presentation = v.InferOutput<typeof presentationSchema>;

const LOCAL_TIME = 'must be a local time such as 2026-10-16T17:48';
export const localTime = v.pipe(
  v.string(),
  v.regex(/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}$/, LOCAL_TIME),
  // A day that is not in the calendar would be counted on into the next month.
  v.check((text) => {
    const at = new Date(`${text}Z`);
    return !Number.isNaN(at.getTime()) && at.toISOString().startsWith(text);
  }, LOCAL_TIME),
);

/** What one message changes. With `reset` everything before it is forgotten: a snapshot. */
export const changeSchema = v.strictObject({
  reset: v.optional(v.boolean(), false),
  elements: v.optional(v.array(elementSchema), []),
  materials: v.optional(v.array(sourceMaterialSchema), []),
  luminaires: v.optional(v.array(luminaireSchema), []),
  cameras: v.optional(v.array(savedCameraSchema), []),
  /** All of the model's photometric files. */
  photometry: v.optional(v.pipe(v.array(photometrySchema), v.maxLength(500))),
  remove: v.optional(
    v.strictObject({
      elements: v.optional(v.array(id), []),
      materials: v.optional(v.array(id), []),
      luminaires: v.optional(v.array(id), []),
      cameras: v.optional(v.array(id), []),
    }),
    {},
  ),
  site: v.optional(siteSchema),
  basePoint: v.optional(basePointSchema),
  presentation: v.optional(presentationSchema),
  camera: v.optional(cameraSchema),
  time: v.optional(localTime),
  /** What is wrong with the file that it was read from, a sentence each. */
  remarks: v.optional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(1000))), v.maxLength(100))),
});
export type ModelChange = v.InferOutput<typeof changeSchema>;
export type ModelChangeInput = v.InferInput<typeof changeSchema>;
