import { add, scale, type Vec3 } from '../geometry/vec3';

/** Somebody who walks through a model: on floors, stairs and ramps, stopped by what stands in the way, kept from water and edges. */

export const EYE_HEIGHT_M = 1.65;
/** What a ray meets; doors and leaves let through, and nobody stands on water. */
export interface Met {
  distance: number;
  /** Of the face, of any length. */
  normal: Vec3;
  kind: 'solid' | 'open' | 'water';
}
export type Cast = (from: Vec3, direction: Vec3, reachM: number) => Met | undefined;

/** From the middle of a body to its side. */
const BODY_M = 0.22;
/** So high a step is taken: risers of stairs, kerbs; lower things are stepped over. */
const STEP_M = 0.4;
/** Deeper nobody steps down in walking; further down one falls, but not off a quay. */
const DROP_M = 1.2;
/** Over the feet, where a body is stopped: shins, hips, shoulders, head. */
const HEIGHTS_M = [STEP_M + 0.08, 0.9, 1.35, 1.7];
/** Height of somebody's crown. */
const CROWN_M = 1.8;
const MOST_OPEN = 6;
const ON_M = 0.02;
const BESIDE = [[0.1, 0], [-0.1, 0], [0, 0.1], [0, -0.1]] as const; // prettier-ignore
/** Longer ways are taken in pieces. */
const PIECE_M = 0.2;

export class Walker {
  constructor(private readonly cast: Cast) {}

  /** The eye of who stands here; undefined: there is nothing to stand on. */
  stand(eye: Vec3, reachM = 6): Vec3 | undefined {
    const floor = this.floor([eye[0], eye[1], eye[2] + 0.3], reachM + 0.3);
    return floor === undefined ? undefined : [eye[0], eye[1], floor + EYE_HEIGHT_M];
  }

  /** The eye after a step aside and ahead, as far as that goes; along a wall where it would go into one. */
  step(eye: Vec3, dx: number, dy: number): Vec3 {
    const pieces = Math.max(1, Math.ceil(Math.hypot(dx, dy) / PIECE_M));
    // Over water, or where there is nothing, one floats back to where there is.
    if (this.floor([eye[0], eye[1], eye[2] - EYE_HEIGHT_M + STEP_M], STEP_M + DROP_M) === undefined)
      return [eye[0] + dx, eye[1] + dy, eye[2]];
    let at = eye;
    for (let i = 0; i < pieces; i++) at = this.piece(at, dx / pieces, dy / pieces);
    return at;
  }

  private piece(eye: Vec3, dx: number, dy: number): Vec3 {
    const wall = this.wallAhead(eye, dx, dy);
    if (!wall) return this.onFloor(eye, dx, dy) ?? eye;
    // What is left of the way runs along the wall.
    const size = Math.hypot(wall[0], wall[1]);
    if (size < 1e-6) return eye;
    const [nx, ny] = [wall[0] / size, wall[1] / size];
    const into = dx * nx + dy * ny;
    const [sx, sy] = [dx - into * nx, dy - into * ny];
    if (Math.hypot(sx, sy) < 1e-4 || this.wallAhead(eye, sx, sy)) return eye;
    return this.onFloor(eye, sx, sy) ?? eye;
  }

  /** The normal of what a body would meet on its way; undefined: nothing. */
  private wallAhead(eye: Vec3, dx: number, dy: number): Vec3 | undefined {
    const length = Math.hypot(dx, dy);
    if (length < 1e-9) return undefined;
    const way: Vec3 = [dx / length, dy / length, 0];
    const side: Vec3 = [-way[1], way[0], 0];
    const feet = eye[2] - EYE_HEIGHT_M;
    for (const height of HEIGHTS_M)
      for (const aside of [0, BODY_M, -BODY_M]) {
        const from = add([eye[0], eye[1], feet + height], scale(side, aside));
        const met = this.through(from, way, length + BODY_M);
        if (met) return met.normal;
      }
    // A table's edge may pass between those; it lies over or under a body that has come to it.
    const ahead = add([eye[0], eye[1], feet + STEP_M], scale(way, length + BODY_M * 0.8));
    return this.through(ahead, [0, 0, 1], CROWN_M - STEP_M) && scale(way, -1);
  }

  private onFloor(eye: Vec3, dx: number, dy: number): Vec3 | undefined {
    const feet = eye[2] - EYE_HEIGHT_M;
    const floor = this.floor([eye[0] + dx, eye[1] + dy, feet + STEP_M], STEP_M + DROP_M);
    return floor === undefined ? undefined : [eye[0] + dx, eye[1] + dy, floor + EYE_HEIGHT_M];
  }

  /** Height of what is stood on below a place; undefined: nothing within reach, or water. */
  private floor(from: Vec3, reachM: number): number | undefined {
    let met = this.cast(from, [0, 0, -1], reachM);
    // A door's leaf stands on the floor, which is seen beside it.
    for (const [x, y] of BESIDE) if (met?.kind === 'open') met = this.cast([from[0] + x, from[1] + y, from[2]], [0, 0, -1], reachM);
    if (met?.kind === 'open') met = this.through(from, [0, 0, -1], reachM);
    return met && met.kind !== 'water' ? from[2] - met.distance : undefined;
  }

  /** The first thing on a way that does not let through. */
  private through(from: Vec3, way: Vec3, reachM: number): Met | undefined {
    let [at, left] = [from, reachM];
    for (let i = 0; i < MOST_OPEN && left > 0; i++) {
      const met = this.cast(at, way, left);
      if (met?.kind !== 'open') return met && { ...met, distance: reachM - left + met.distance };
      at = add(at, scale(way, met.distance + ON_M));
      left -= met.distance + ON_M;
    }
    return undefined;
  }
}
