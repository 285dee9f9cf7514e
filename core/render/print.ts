import * as v from 'valibot';
import { frameCount, walkSchema, WalkWay } from '../camera/walk';
import { SCREEN_WHITE } from '../image/white-balance';
import { cameraSchema, type Camera } from '../model/schema';
import type { ChosenGrading } from '../scene/grading-of';
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

const share = v.pipe(v.number(), v.minValue(0), v.maxValue(1));
const whiteBalanceSchema = v.strictObject({ x: v.pipe(share, v.minValue(0.01)), y: v.pipe(share, v.minValue(0.01)), degree: share });
const side = (max: number) => v.pipe(v.number(), v.integer(), v.minValue(16), v.maxValue(max));

export const FRAME_RATES = [24, 25, 30] as const;
const MOST_FRAMES = 6000;

/** What a person orders: one picture, or those of a walk, which then gives the cameras. */
export const printOrderSchema = v.strictObject({
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  camera: cameraSchema,
  width: side(MAX_PRINT_WIDTH),
  height: side(MAX_PRINT_HEIGHT),
  quality: v.picklist(['proof', 'standard', 'fine']),
  seed: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(0xffffffff)),
  denoise: v.boolean(),
  ev100: v.pipe(v.number(), v.finite(), v.minValue(-10), v.maxValue(24)),
  white: v.optional(whiteBalanceSchema, SCREEN_WHITE),
  /** The moment that what moves is seen at, seconds. */
  timeS: v.optional(v.pipe(v.number(), v.finite(), v.minValue(0), v.maxValue(1e6)), 0),
  walk: v.optional(
    v.pipe(
      /** Metered: exposed, or its white found, for each place on the way; otherwise as the order says. */
      v.strictObject({
        ...walkSchema.entries,
        framesPerSecond: v.picklist(FRAME_RATES),
        metered: v.optional(v.boolean(), false),
        meteredWhite: v.optional(v.boolean(), false),
      }),
      v.check((walk) => frameCount(walk, walk.framesPerSecond) <= MOST_FRAMES, `A walk has ${String(MOST_FRAMES)} pictures at most.`),
    ),
  ),
});
export type PrintOrder = v.InferOutput<typeof printOrderSchema>;

/** One picture of an order: where from, and the moment that what moves is seen at, seconds. */
export interface PrintFrame {
  camera: Camera;
  timeS: number;
}

export const framesIn = ({ walk }: PrintOrder): number => (walk ? frameCount(walk, walk.framesPerSecond) : 1);

/** The pictures of an order, each by its number alone: the same whichever were made before. */
export function frameOf(order: PrintOrder): (number: number) => PrintFrame {
  const { walk, camera, timeS } = order;
  if (!walk) return () => ({ camera, timeS });
  const way = new WalkWay(walk);
  return (number) => {
    const seconds = number / walk.framesPerSecond;
    return { camera: way.cameraAt(seconds), timeS: timeS + seconds };
  };
}

/** An order with everything it depends on frozen, so that a resumed print shows the building it was ordered of. */
export interface PrintSpec {
  order: PrintOrder;
  scene: Scene;
  sky: SkyInput;
  /** Orders of before there was any have none. */
  grading?: ChosenGrading;
  /** What the file's metadata will tell. */
  metadata: Record<string, string>;
}
