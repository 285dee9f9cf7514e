import { length, normalise, subtract, type Vec3 } from '../geometry/vec3';
import type { Camera } from '../model/schema';
import { FRAME_WIDTH_MM } from './camera';

/** Views as they are drawn: in parallel, straight from above or from a side, or all three at once. */

export const PARALLEL_VIEWS = ['plan', 'south', 'north', 'west', 'east', 'axonometric'] as const;
export type ParallelView = (typeof PARALLEL_VIEWS)[number];

/** From where, as a direction; plan a little off the vertical, so that y stays up. Isometric: the three axes are shortened alike. */
const FROM: Readonly<Record<ParallelView, Vec3>> = {
  plan: [0, -1e-4, 1],
  south: [0, -1, 0],
  north: [0, 1, 0],
  west: [-1, 0, 0],
  east: [1, 0, 0],
  axonometric: [-1, -1, 1],
};
/** So far off, for each metre that is seen across: what lies behind the eye, such as a far shore, is left out. */
const AWAY = 2;
const [LEAST_AWAY_M, MOST_AWAY_M] = [40, 400];

/** Metres across the view that are as wide as the picture, at what the camera looks at. */
export function widthSeenM({ position, target, focalMm, parallelM }: Camera): number {
  return parallelM ?? Math.max(0.1, (length(subtract(target, position)) * FRAME_WIDTH_MM) / focalMm);
}

/** What the camera looks at, drawn in parallel and about as large. */
export function parallelView(camera: Camera, view: ParallelView): Camera {
  const { target, focalMm } = camera;
  const from = normalise(FROM[view]);
  const parallelM = Math.round(widthSeenM(camera) * 100) / 100;
  const away = Math.min(MOST_AWAY_M, Math.max(LEAST_AWAY_M, parallelM * AWAY));
  const position = target.map((value, axis) => value + from[axis]! * away) as [number, number, number];
  return { position, target: [...target], focalMm, parallelM };
}
