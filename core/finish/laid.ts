import * as v from 'valibot';
import type { FaceEdge } from '../geometry/face-edge';
import { samePlane, type FaceLay, type Plane } from '../geometry/face-lay';
import type { Variation } from './variation';

const finite = v.pipe(v.number(), v.finite());
const degrees = v.pipe(finite, v.minValue(-360), v.maxValue(360));
const moved = v.strictTuple([finite, finite]);
const MOST_FACES = 100;

/** How a person lays the maps of a finish on one element, in place of where chance puts them. */
export const laidSchema = v.strictObject({
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
export type Laid = v.InferOutput<typeof laidSchema>;

/** The same, turned further about where the maps begin. */
export const turnedFurther = (laid: Laid | undefined, deg: number): Laid => ({
  turnDeg: ((laid?.turnDeg ?? 0) + deg) % 360,
  offsetM: laid?.offsetM ?? [0, 0],
  ...(laid?.faces && { faces: laid.faces }),
});

export const faceLayOf = (laid: Laid | undefined, plane: Plane): FaceLay | undefined => laid?.faces?.find((f) => samePlane(f.plane, plane));

/** The same with another lay of one face, or with none; null: nothing is laid by hand any more. */
export function withFace(laid: Laid | undefined, plane: Plane, lay: Omit<FaceLay, 'plane'> | undefined): Laid | null {
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
export const withoutWhole = (laid: Laid | undefined): Laid | null =>
  laid?.faces ? { turnDeg: 0, offsetM: [0, 0], faces: laid.faces, onlyFaces: true } : null;

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

/**
 * The same for one face of an element that wears its maps with a turn and offsets of its own already (`worn`), so that both
 * together lay them along the edge. `before`: how the face is laid now, which the edge's coordinates have in them.
 */
export function faceLaidAlong(
  { near, far }: FaceEdge,
  before: FaceLay | undefined,
  worn: Variation,
  scale: number,
): Omit<FaceLay, 'plane'> {
  const undo = (p: readonly [number, number]): [number, number] => {
    if (!before) return [...p];
    const turn = (before.turnDeg * Math.PI) / 180;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const [u, w] = [p[0] - before.offsetM[0], p[1] - before.offsetM[1]];
    return [c * u - s * w, c * w + s * u];
  };
  const larger = scale / worn.size;
  const wanted = laidAlong({ near: undo(near), far: undo(far) }, larger);
  const [u, w] = [(wanted.offsetM[0] - worn.uM) / larger, (wanted.offsetM[1] - worn.vM) / larger];
  const [c, s] = [Math.cos(worn.turnRad), Math.sin(worn.turnRad)];
  return { turnDeg: (wanted.turnDeg - (worn.turnRad * 180) / Math.PI) % 360, offsetM: [c * u - s * w, c * w + s * u] };
}
