import { dot, scale, subtract, type Vec3 } from '../geometry/vec3';
import type { Bounds } from '../geometry/mesh';
import type { Camera } from '../model/schema';
import { cameraFrame } from './camera';

/** From the front left and a little above, as one first walks up to a building. */
const FIRST_AWAY: Vec3 = [-0.62, -0.72, 0.28];
const FOCAL_MM = 28;
/** Share of the picture that stays free about what is seen. */
const MARGIN = 0.08;
const NEAREST_M = 0.5;

/** A camera that sees the whole of a box, from where it is looked at now, or as it is looked at first. `aspect`: width over height. */
export function overviewOf({ min, max }: Bounds, aspect: number, now?: Camera): Camera {
  const middle = min.map((v, k) => (v + max[k]!) / 2) as unknown as Vec3;
  const away = now ? subtract(now.position, now.target) : FIRST_AWAY;
  const target: [number, number, number] = [middle[0], middle[1], middle[2]];
  const focalMm = now?.focalMm ?? FOCAL_MM;
  const length = Math.hypot(...away) || 1;
  const at = (distance: number) => middle.map((v, k) => v + (away[k]! / length) * distance) as [number, number, number];
  const { forward, right, up } = cameraFrame({ position: at(1), target, focalMm }, aspect);
  // Edges of the picture at unit distance are where `right` and `up` end.
  let distance = NEAREST_M;
  for (const corner of cornersOf(min, max)) {
    const d = subtract(corner, middle);
    const depth = dot(d, forward);
    for (const axis of [right, up]) {
      const half = Math.hypot(...axis) * (1 - MARGIN);
      distance = Math.max(distance, Math.abs(dot(d, scale(axis, 1 / Math.hypot(...axis)))) / half - depth);
    }
  }
  return { position: at(distance), target, focalMm };
}

const cornersOf = (min: readonly number[], max: readonly number[]): Vec3[] =>
  Array.from({ length: 8 }, (_, i) => [0, 1, 2].map((k) => (i & (1 << k) ? max : min)[k]!) as unknown as Vec3);
