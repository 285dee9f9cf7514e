import * as v from 'valibot';
import { frameCount, walkSchema, WalkWay, type SeenThrough } from '../camera/walk';
import { CUBE_FACES, faceWithMargin, fixedShape, PERSPECTIVE, platesOf, projectionSchema, type Plate } from '../camera/projection';
import { cameraSchema, type Camera } from '../model/schema';
import type { Condition } from '../project/conditions';
import type { Exposure } from '../project/project';
import type { Cuts } from '../project/sections';
import { shownSchema } from '../model/shown';
import { styleSchema, type Drawing } from '../project/style';
import type { ChosenGrading } from '../scene/grading-of';
import type { Scene } from '../scene/scene';
import type { SkyInput } from '../sky/sky-map';

/** Named steps of quality: samples a pixel. */
export const PRINT_QUALITIES = {
  proof: { samples: 32 },
  standard: { samples: 128 },
  fine: { samples: 512 },
} as const;
export type PrintQuality = keyof typeof PRINT_QUALITIES;

export const MAX_PRINT_SIDE = 8192;
/** Of an all-round picture. */
export const MAX_ROUND_WIDTH = 16384;
/** Of a walk: each is one piece, whose film tells how it is steadied. */
const MAX_WALK = { width: 3840, height: 2160 };
/** More samples than these are not taken, whatever noise is left. */
export const MOST_SAMPLES = 4096;

/** How a picture is written. */
export const PICTURE_FORMATS = {
  png: { words: 'PNG, 8 bit', ending: 'png', most: MAX_ROUND_WIDTH },
  png16: { words: 'PNG, 16 bit', ending: 'png', most: MAX_ROUND_WIDTH },
  jpeg: { words: 'JPEG', ending: 'jpg', most: MAX_ROUND_WIDTH },
  webp: { words: 'WebP', ending: 'webp', most: 16383 },
  exr: { words: 'OpenEXR, light in cd/m²', ending: 'exr', most: MAX_ROUND_WIDTH },
  svg: { words: 'SVG, lines alone', ending: 'svg', most: MAX_PRINT_SIDE },
  pdf: { words: 'PDF, lines alone', ending: 'pdf', most: MAX_PRINT_SIDE },
} as const;
export type PictureFormat = keyof typeof PICTURE_FORMATS;
/** Drawn in lines, not rendered. */
export const isDrawn = (format: PictureFormat): format is 'svg' | 'pdf' => format === 'svg' || format === 'pdf';

/** What a picture can be handed over with, to be worked on further. */
export const CHANNELS = {
  depth: 'depth, m',
  position: 'position, m',
  normal: 'normal',
  colour: 'base colour',
  direct: 'direct light',
  indirect: 'indirect light',
  emission: 'emission',
  elements: 'mask of elements',
  finishes: 'mask of finishes',
  layers: 'mask of layers',
} as const;
export type Channel = keyof typeof CHANNELS;
export const MASKS = ['elements', 'finishes', 'layers'] as const;
export type Mask = (typeof MASKS)[number];
export const isMask = (channel: Channel): channel is Mask => (MASKS as readonly Channel[]).includes(channel);

const keysOf = <K extends string>(of: Record<K, unknown>): [K, ...K[]] => Object.keys(of) as [K, ...K[]];

const share = v.pipe(v.number(), v.minValue(0), v.maxValue(1));
const whiteBalanceSchema = v.strictObject({ x: v.pipe(share, v.minValue(0.01)), y: v.pipe(share, v.minValue(0.01)), degree: share });
const place = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(MAX_ROUND_WIDTH));
const side = (max: number) => v.pipe(v.number(), v.integer(), v.minValue(16), v.maxValue(max));

export const FRAME_RATES = [24, 25, 30, 50, 60] as const;
const MOST_FRAMES = 6000;

const orderSchema = v.strictObject({
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  camera: cameraSchema,
  projection: v.optional(projectionSchema, PERSPECTIVE),
  width: side(MAX_ROUND_WIDTH),
  height: side(MAX_PRINT_SIDE),
  /** A part of the picture alone, pixels of the whole. */
  region: v.optional(v.strictObject({ left: place, top: place, width: side(MAX_ROUND_WIDTH), height: side(MAX_PRINT_SIDE) })),
  quality: v.picklist(['proof', 'standard', 'fine']),
  /** Samples until no more noise than this is left, as a share of the light; the quality then tells the bounces alone. */
  noise: v.optional(v.pipe(v.number(), v.minValue(0.002), v.maxValue(0.5))),
  format: v.optional(v.picklist(keysOf(PICTURE_FORMATS)), 'png'),
  channels: v.optional(v.array(v.picklist(keysOf(CHANNELS))), []),
  /** Places that it is asked of whether they are in sight, as the crow flies. */
  sights: v.optional(v.pipe(v.array(cameraSchema.entries.position), v.maxLength(200))),
  seed: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(0xffffffff)),
  denoise: v.boolean(),
  /** Without: as the state that is printed says, metered where that is automatic. The white likewise. */
  ev100: v.optional(v.pipe(v.number(), v.finite(), v.minValue(-10), v.maxValue(24))),
  white: v.optional(whiteBalanceSchema),
  /** Under a kept condition, and with an option of a source, in place of what is shown now. */
  condition: v.optional(v.pipe(v.string(), v.maxLength(64))),
  /** Sections that it is seen with, by their ids; without: none. */
  sections: v.optional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(200))), v.maxLength(32))),
  /** What it is shown as, in place of what is shown now. */
  style: v.optional(styleSchema),
  /** What is shown of the models; without: what is shown then. */
  shown: v.optional(shownSchema),
  option: v.optional(v.strictObject({ source: v.pipe(v.string(), v.maxLength(200)), option: v.pipe(v.string(), v.maxLength(200)) })),
  /** The moment that what moves is seen at, seconds. */
  timeS: v.optional(v.pipe(v.number(), v.finite(), v.minValue(0), v.maxValue(1e6)), 0),
  walk: v.optional(
    v.pipe(
      /** Metered: exposed, or its white found, for each place on the way; otherwise as the order says. */
      v.strictObject({
        ...walkSchema.entries,
        framesPerSecond: v.picklist(FRAME_RATES),
        /** Of a turn, for which the shutter is open: 180 is half of each picture's time; 0: an instant. */
        shutterDeg: v.optional(v.pipe(v.number(), v.minValue(0), v.maxValue(360)), 0),
        /** As a film beside the single pictures. */
        film: v.optional(v.picklist(['none', 'mp4', 'webm']), 'none'),
        metered: v.optional(v.boolean(), false),
        meteredWhite: v.optional(v.boolean(), false),
      }),
      v.check((walk) => frameCount(walk, walk.framesPerSecond) <= MOST_FRAMES, `A walk has ${String(MOST_FRAMES)} pictures at most.`),
    ),
  ),
});

/** What a person orders: one picture, or those of a walk, which then gives the cameras. */
export const printOrderSchema = v.pipe(
  orderSchema,
  v.rawCheck(({ dataset, addIssue }) => {
    const fault = dataset.typed ? faultOf(dataset.value) : undefined;
    if (fault) addIssue({ message: fault });
  }),
);
export type PrintOrder = v.InferOutput<typeof printOrderSchema>;
/** As it is asked for: what is plain may be left out. */
export type PrintRequest = v.InferInput<typeof printOrderSchema>;

/** What of an order does not go together, in words. */
function faultOf({ projection, width, height, region, format, walk, channels }: v.InferOutput<typeof orderSchema>): string | undefined {
  const shape = fixedShape(projection);
  if (shape !== undefined && height !== Math.round(width * shape))
    return `A picture of this projection that is ${String(width)} wide has a height of ${String(Math.round(width * shape))}.`;
  if (projection.kind !== 'equirectangular' && projection.kind !== 'cube' && width > MAX_PRINT_SIDE)
    return `Its width is ${String(MAX_PRINT_SIDE)} at most; only all-round pictures are wider.`;
  if (Math.max(width, height) > PICTURE_FORMATS[format].most)
    return `A ${PICTURE_FORMATS[format].words} file has no more than ${String(PICTURE_FORMATS[format].most)} pixels a side.`;
  if (region && (region.left + region.width > width || region.top + region.height > height))
    return 'The region reaches beyond the picture.';
  const isPlain = projection.kind === 'perspective' || projection.kind === 'orthographic';
  if (region && !isPlain) return 'A region is of a picture that does not go all round.';
  if (
    isDrawn(format) &&
    (walk || region || channels.length > 0 || (projection.kind !== 'perspective' && projection.kind !== 'orthographic'))
  )
    return 'A drawing in lines is one whole picture without channels, which does not go all round.';
  if (projection.kind === 'cube' && channels.length > 0) return 'Channels are of one picture, not of the six faces of a cube.';
  if (walk && (width > MAX_WALK.width || height > MAX_WALK.height))
    return `The pictures of a walk are ${String(MAX_WALK.width)} x ${String(MAX_WALK.height)} at most.`;
  if (walk && walk.film !== 'none' && format === 'exr') return 'A film is made of developed pictures, not of OpenEXR.';
  if (walk && (!isPlain || region || channels.length > 0)) return 'A walk has whole pictures without channels, which do not go all round.';
  return undefined;
}

/** One picture of an order: what it is put together of, and the moment that what moves is seen at, seconds. */
export interface PrintFrame {
  plates: Plate[];
  camera: Camera;
  timeS: number;
  /** The part of the plate that is wanted. */
  region?: { left: number; top: number; width: number; height: number };
  /** Of a walk: the moment that its shot stands at, seconds. */
  shotS: number;
  /** The shot that comes next, while this one passes over into it, and its share. */
  over?: { plates: Plate[]; share: number; shotS: number };
}

/** What the pictures of an order are called: those of a walk by their number, from 1, as programs that make films count. */
export function frameNames({ walk, projection, format }: PrintOrder): string[] {
  const { ending } = PICTURE_FORMATS[format];
  if (walk) return Array.from({ length: frameCount(walk, walk.framesPerSecond) }, (_, i) => `${String(i + 1).padStart(5, '0')}.${ending}`);
  return (projection.kind === 'cube' ? CUBE_FACES : ['picture']).map((name) => `${name}.${ending}`);
}

export const framesIn = (order: PrintOrder): number => frameNames(order).length;

/** Size of each picture of an order, pixels. */
export const frameSize = ({ projection, width, height, region }: PrintOrder): { width: number; height: number } =>
  region ?? { width: projection.kind === 'cube' ? height : width, height };

/** Pixels. */
const FACE_MARGIN = 64;

/** The pictures of an order, each by its number alone: the same whichever were made before. */
export function frameOf(order: PrintOrder): (number: number) => PrintFrame {
  const { walk, camera, timeS, projection, width, height } = order;
  if (!walk) {
    const plates = platesOf(camera, projection, width, height);
    if (projection.kind !== 'cube') return () => ({ plates, camera, timeS, shotS: 0 });
    // What the denoiser looks at beyond a face are its neighbours.
    const margin = order.denoise ? Math.min(FACE_MARGIN, Math.ceil(height / 4)) : 0;
    return (face) => {
      const { plate, region } = faceWithMargin(camera, CUBE_FACES[face]!, height, margin);
      return { plates: [plate], region, camera, timeS, shotS: 0 };
    };
  }
  const way = new WalkWay(walk);
  return (number) => {
    const seconds = number / walk.framesPerSecond;
    const [seen, over] = way.seenAt(seconds) as [SeenThrough, SeenThrough?];
    const from = seen.camera;
    const frame = { plates: platesOf(from, projection, width, height), camera: from, timeS: timeS + seconds, shotS: seen.shotS };
    return over
      ? { ...frame, over: { plates: platesOf(over.camera, projection, width, height), share: over.weight, shotS: over.shotS } }
      : frame;
  };
}

/** Samples a pixel of each picture; with a target of noise, as many as there may be. */
export const samplesOf = ({ quality, noise }: PrintOrder): number => (noise ? MOST_SAMPLES : PRINT_QUALITIES[quality].samples);

/** Light and exposure of a print, and what of the models it shows; finishes stay as they are decided. */
export interface PrintedState {
  condition: Condition;
  /** Entries of what is shown, by their keys. */
  shown: Record<string, unknown>;
}

/** What is seen, and how it is developed. */
export interface PrintedScene {
  scene: Scene;
  /** Orders of before there was any have none. */
  grading?: ChosenGrading;
  /** How the state that is printed is exposed; for what the order leaves open. */
  exposure?: Exposure;
}

/** What a walk is seen under from a moment of its shots on, seconds: one of the scenes, by its number, and the sky. */
export interface LitFrom {
  shotS: number;
  scene: number;
  sky: SkyInput;
}

/** An order with everything it depends on frozen, so that a resumed print shows the building it was ordered of. */
export interface PrintSpec extends PrintedScene {
  order: PrintOrder;
  sky: SkyInput;
  /** What its sections cut away. */
  cuts?: Cuts;
  /** Lines and paper over it. */
  drawing?: Drawing;
  /** Where condition, option or time of day change along a walk: all that it is seen under, the spec's own scene first. */
  along?: { scenes: PrintedScene[]; lit: LitFrom[] };
  /** Of the elements that a mask shows: their names and layers, by source and id with a slash between. */
  named?: Record<string, { name: string; layer: string }>;
  /** What the state that is printed was, to be shown again. */
  state?: PrintedState;
  /** What the file's metadata will tell. */
  metadata: Record<string, string>;
}
