import * as v from 'valibot';
import type { FaceEdge } from '../geometry/face-edge';

/** How a person lays the maps of a finish on one element, in place of where chance puts them. */
export const laidSchema = v.strictObject({
  /** Anticlockwise, seen from the face's front. */
  turnDeg: v.pipe(v.number(), v.finite(), v.minValue(-360), v.maxValue(360)),
  /** Along the maps' own axes, metres. */
  offsetM: v.strictTuple([v.pipe(v.number(), v.finite()), v.pipe(v.number(), v.finite())]),
});
export type Laid = v.InferOutput<typeof laidSchema>;

/** The same, turned further about where the maps begin. */
export const turnedFurther = (laid: Laid | undefined, deg: number): Laid => ({
  turnDeg: ((laid?.turnDeg ?? 0) + deg) % 360,
  offsetM: laid?.offsetM ?? [0, 0],
});

/**
 * Lays maps so that they begin at the near end of an edge and run along it: what was up in them (+v) lies along the edge.
 * `scale`: metres of the world for one of the edge's.
 */
export function laidAlong({ near, far }: FaceEdge, scale: number): Laid {
  const [du, dv] = [far[0] - near[0], far[1] - near[1]];
  const turn = Math.atan2(-du, dv);
  const [c, s] = [Math.cos(turn) * scale, Math.sin(turn) * scale];
  // As the kernel and the surface batches turn an element's coordinates.
  const u = c * near[0] + s * near[1];
  const w = c * near[1] - s * near[0];
  return { turnDeg: (turn * 180) / Math.PI, offsetM: [0 - u, 0 - w] };
}
