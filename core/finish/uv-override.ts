import * as v from 'valibot';
import type { FaceEdge } from '../geometry/face-edge';
import { samePlane } from '../geometry/face-lay';
import type { FaceLay, Plane } from '../geometry/mesh';
import type { Variation } from './finish';

const finite = v.pipe(v.number(), v.finite());
const degrees = v.pipe(finite, v.minValue(-360), v.maxValue(360));
const moved = v.strictTuple([finite, finite]);
const MOST_FACES = 100;

/** How a person lays the maps of a finish on one element, in place of where chance puts them. */
export const uvOverrideSchema = v.strictObject({
  /** Anticlockwise, seen from the face's front. */
  turnDeg: degrees,
  /** Along the maps' own axes, metres. */
  offsetM: moved,
  /** On single faces, beside what holds for the element. */
  faces: v.optional(
    v.pipe(
      v.array(v.strictObject({ plane: v.strictTuple([finite, finite, finite, finite]), turnDeg: degrees, offsetM: moved })),
      v.maxLength(MOST_FACES),
    ),
  ),
  /** The element as a whole is left to chance. */
  onlyFaces: v.optional(v.literal(true)),
});
export type UvOverride = v.InferOutput<typeof uvOverrideSchema>;

/** The same, turned further about where the maps begin. */
export const turnedFurther = (laid: UvOverride | undefined, deg: number): UvOverride => ({
  turnDeg: ((laid?.turnDeg ?? 0) + deg) % 360,
  offsetM: laid?.offsetM ?? [0, 0],
  ...(laid?.faces && { faces: laid.faces }),
});

export const faceLayOf = (laid: UvOverride | undefined, plane: Plane): FaceLay | undefined =>
  laid?.faces?.find((f) => samePlane(f.plane, plane));

/** The same with another lay of one face, or with none; null: nothing is laid by hand any more. */
export function withFace(laid: UvOverride | undefined, plane: Plane, lay: Omit<FaceLay, 'plane'> | undefined): UvOverride | null {
  const others = (laid?.faces ?? []).filter((f) => !samePlane(f.plane, plane));
  const faces = lay
    ? [
        ...others,
        { plane: [...plane] as [number, number, number, number], turnDeg: lay.turnDeg, offsetM: [...lay.offsetM] as [number, number] },
      ]
    : others;
  if (faces.length === 0) return laid && !laid.onlyFaces ? { turnDeg: laid.turnDeg, offsetM: laid.offsetM } : null;
  return laid ? { ...laid, faces } : { turnDeg: 0, offsetM: [0, 0], faces, onlyFaces: true };
}

/** The same without what holds for the element as a whole. */
export const withoutWhole = (laid: UvOverride | undefined): UvOverride | null =>
  laid?.faces ? { turnDeg: 0, offsetM: [0, 0], faces: laid.faces, onlyFaces: true } : null;

/**
 * Lays maps so that they begin at the near end of an edge and run along it: what was up in them (+v) lies along the edge.
 * `scale`: metres of the world for one of the edge's.
 */
export function overrideAlong({ near, far }: FaceEdge, scale: number): UvOverride {
  const [du, dv] = [far[0] - near[0], far[1] - near[1]];
  const turn = Math.atan2(-du, dv);
  const [c, s] = [Math.cos(turn) * scale, Math.sin(turn) * scale];
  // As the kernel and the surface batches turn an element's coordinates.
  const u = c * near[0] + s * near[1];
  const w = c * near[1] - s * near[0];
  return { turnDeg: (turn * 180) / Math.PI, offsetM: [0 - u, 0 - w] };
}

/**
 * The same for one face of an element that has its maps with a turn and offsets of its own already (`assigned`), so that both
 * together lay them along the edge. `before`: how the face is laid now, which the edge's coordinates have in them.
 */
export function faceOverrideAlong(
  { near, far }: FaceEdge,
  before: FaceLay | undefined,
  assigned: Variation,
  scale: number,
): Omit<FaceLay, 'plane'> {
  const undo = (p: readonly [number, number]): [number, number] => {
    if (!before) return [...p];
    const turn = (before.turnDeg * Math.PI) / 180;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const [u, w] = [p[0] - before.offsetM[0], p[1] - before.offsetM[1]];
    return [c * u - s * w, c * w + s * u];
  };
  const larger = scale / assigned.size;
  const wanted = overrideAlong({ near: undo(near), far: undo(far) }, larger);
  const [u, w] = [(wanted.offsetM[0] - assigned.uM) / larger, (wanted.offsetM[1] - assigned.vM) / larger];
  const [c, s] = [Math.cos(assigned.turnRad), Math.sin(assigned.turnRad)];
  return { turnDeg: (wanted.turnDeg - (assigned.turnRad * 180) / Math.PI) % 360, offsetM: [c * u - s * w, c * w + s * u] };
}
