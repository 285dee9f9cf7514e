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

/** Of a person who stands, metres. */
const EYE_M = 1.65;
/** What is flatter than this, width over height, is a site rather than a building. */
const FLATTEST = 10;
const LEAST_HEIGHT_M = 2;
/** Each try is so much further away than the last. */
const STEP = 1.04;

/**
 * How an architect would photograph a building first: at three quarters, from eye height outside, level, so that its uprights stand
 * upright, and far enough to see all of it. What is flat, or too small to be a building, is looked at from above.
 */
export function firstLookOf({ min, max }: Bounds, aspect: number): Camera {
  const size = min.map((v, k) => max[k]! - v) as unknown as Vec3;
  if (size[2] < LEAST_HEIGHT_M || Math.max(size[0], size[1]) > FLATTEST * size[2]) return overviewOf({ min, max }, aspect);
  const eye = min[2] + EYE_M;
  const [x, y] = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2];
  const length = Math.hypot(FIRST_AWAY[0], FIRST_AWAY[1]);
  const from = (distance: number): Camera => ({
    position: [x + (FIRST_AWAY[0] / length) * distance, y + (FIRST_AWAY[1] / length) * distance, eye],
    target: [x, y, eye],
    focalMm: FOCAL_MM,
  });
  let distance = Math.hypot(size[0], size[1]) / 2 + NEAREST_M;
  while (!sees(from(distance), cornersOf(min, max), aspect)) distance *= STEP;
  return from(distance);
}

/** Whether all points lie within the picture's margin. */
function sees(camera: Camera, points: readonly Vec3[], aspect: number): boolean {
  const { origin, forward, right, up } = cameraFrame(camera, aspect);
  return points.every((point) => {
    const d = subtract(point, origin);
    const depth = dot(d, forward);
    return depth > NEAREST_M && [right, up].every((axis) => Math.abs(dot(d, axis)) <= (1 - MARGIN) * dot(axis, axis) * depth);
  });
}

const cornersOf = (min: readonly number[], max: readonly number[]): Vec3[] =>
  Array.from({ length: 8 }, (_, i) => [0, 1, 2].map((k) => (i & (1 << k) ? max : min)[k]!) as unknown as Vec3);
