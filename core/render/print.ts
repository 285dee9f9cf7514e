import * as v from 'valibot';
import { cameraSchema } from '../model/schema';
import type { Scene } from '../scene/scene';
import type { SkyInput } from '../sky/sky-map';

/** Named steps of quality: samples a pixel and longest chain of bounces. */
export const PRINT_QUALITIES = {
  proof: { samples: 32, maxDepth: 6 },
  standard: { samples: 128, maxDepth: 10 },
  fine: { samples: 512, maxDepth: 12 },
} as const;
export type PrintQuality = keyof typeof PRINT_QUALITIES;

export const MAX_PRINT_WIDTH = 3840;
export const MAX_PRINT_HEIGHT = 2160;

const side = (max: number) => v.pipe(v.number(), v.integer(), v.minValue(16), v.maxValue(max));

/** What a person orders. */
export const printOrderSchema = v.strictObject({
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  camera: cameraSchema,
  width: side(MAX_PRINT_WIDTH),
  height: side(MAX_PRINT_HEIGHT),
  quality: v.picklist(['proof', 'standard', 'fine']),
  seed: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(0xffffffff)),
  denoise: v.boolean(),
  ev100: v.pipe(v.number(), v.finite(), v.minValue(-10), v.maxValue(24)),
  /** The moment that what moves is seen at, seconds. */
  timeS: v.optional(v.pipe(v.number(), v.finite(), v.minValue(0), v.maxValue(1e6)), 0),
});
export type PrintOrder = v.InferOutput<typeof printOrderSchema>;

/** An order with everything it depends on frozen, so that a resumed print shows the building it was ordered of. */
export interface PrintSpec {
  order: PrintOrder;
  scene: Scene;
  sky: SkyInput;
  /** What the file's metadata will tell. */
  metadata: Record<string, string>;
}

/** Largest luminance one indirect sample may add to a print, as a multiple of what is shown white. */
export const FIREFLY_LIMIT = 24;
