import { cameraFrame } from '../camera/camera';
import { WalkWay, type Walk } from '../camera/walk';
import { automaticEv } from '../image/exposure';
import type { Development } from '../image/tone';
import type { MovingPicture } from './moving-picture';
import { automaticWhite } from './white';

type Reading = Pick<Development, 'ev100' | 'white'>;

/** Exposure and white along a walk, at even moments from its start to its end. */
export interface Exposures {
  seconds: number;
  readings: readonly Reading[];
}

/** A small picture tells how light it is; its longer side, pixels. */
const METER_WIDTH = 208;
const MOST_READINGS = 24;

/** Exposure and white at a moment, straight between the readings. */
export function developmentAt({ seconds, readings }: Exposures, at: number): Reading {
  const x = Math.min(1, Math.max(0, at / seconds)) * (readings.length - 1);
  const i = Math.max(0, Math.min(readings.length - 2, Math.floor(x)));
  return mixed([readings[i]!, 1 + i - x], [readings[Math.min(i + 1, readings.length - 1)]!, x - i]);
}

/** Developments by weights that add up to 1. */
function mixed(...parts: readonly (readonly [Reading, number])[]): Reading {
  const sum = (value: (d: Reading) => number) => parts.reduce((total, [d, weight]) => total + value(d) * weight, 0);
  return { ev100: sum((d) => d.ev100), white: { x: sum((d) => d.white.x), y: sum((d) => d.white.y), degree: sum((d) => d.white.degree) } };
}

/**
 * Measures how a walk has to be exposed, about once a second or as often as `everyS` says, so that neither what lies in the sun nor a room is burnt out or
 * black; readings lean on their neighbours, as an eye adapts. Undefined when cancelled. The scene and its sky must be set, for each
 * moment by `light` where they change along the walk; camera and film are changed.
 */
export async function meterWalk(
  moving: MovingPicture,
  walk: Walk,
  aspect: number,
  { light, everyS = 1 }: { light?: (seconds: number) => void; everyS?: number } = {},
): Promise<Exposures | undefined> {
  const way = new WalkWay(walk);
  const last = Math.min(MOST_READINGS, Math.max(1, Math.ceil(way.seconds / everyS)));
  const width = Math.round(METER_WIDTH * Math.min(1, aspect));
  const read: Reading[] = [];
  for (let i = 0; i <= last; i++) {
    // Each reading stands for itself, so that it is the same whichever came before.
    moving.forget();
    const seconds = (i / last) * way.seconds;
    light?.(seconds);
    const picture = await moving.frame(cameraFrame(way.cameraAt(seconds), aspect), aspect, { width });
    if (!picture) return undefined;
    read.push({ ev100: automaticEv(picture.radiance), white: automaticWhite(picture.radiance, moving.pool.scene.filmData()) });
  }
  const readings = read.map((here, i) => mixed([read[i - 1] ?? here, 0.25], [here, 0.5], [read[i + 1] ?? here, 0.25]));
  return { seconds: way.seconds, readings };
}
