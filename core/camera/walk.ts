import * as v from 'valibot';
import { add, distance, dot, mix, normalise, scale, subtract, type Vec3 } from '../geometry/vec3';
import { cameraSchema, type Camera } from '../model/schema';

/** A way through views, one after the other: a walkthrough. */
export const walkSchema = v.strictObject({
  stops: v.pipe(v.array(cameraSchema), v.minLength(2), v.maxLength(50)),
  /** Of the whole walk. */
  seconds: v.pipe(v.number(), v.finite(), v.minValue(0.1), v.maxValue(600)),
  /** Sets off and arrives slowly; otherwise at one pace throughout. */
  eased: v.boolean(),
});
export type Walk = v.InferOutput<typeof walkSchema>;

/** A walk as a project keeps it: its stops by name, and perhaps one alone so far. */
export const keptWalkSchema = v.strictObject({
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  stops: v.pipe(
    v.array(v.strictObject({ name: v.pipe(v.string(), v.maxLength(200)), ...cameraSchema.entries })),
    v.minLength(1),
    v.maxLength(50),
  ),
  seconds: walkSchema.entries.seconds,
  eased: v.boolean(),
});
export type KeptWalk = v.InferOutput<typeof keptWalkSchema>;

/** What is walked, without the names of its stops. */
export const walkOf = ({ stops, seconds, eased }: KeptWalk): Walk => ({
  stops: stops.map(({ position, target, focalMm }) => ({ position, target, focalMm })),
  seconds,
  eased,
});

/** Metres a second that people stroll at; common practice. */
export const WALKING_PACE = 1.4;

/** Looking round by a radian takes as long as to walk so many metres, so that a turn on the spot takes its time. */
const METRES_A_RADIAN = 1.2;
/** Straight pieces that a leg is measured by. */
const PIECES = 64;

interface Leg {
  from: Camera;
  to: Camera;
  /** Places along the leg and how far along it they lie, metres. */
  places: readonly Vec3[];
  along: readonly number[];
  turnRad: number;
  effort: number;
}

/**
 * The way of a walk: `cameraAt` gives the camera at a moment, seconds, by that moment alone. Between stops it follows a centripetal
 * Catmull-Rom curve (Catmull & Rom 1974; Yuksel et al. 2011), which has neither loops nor cusps, at one pace on each leg; the eye
 * turns by the shortest way, the lens changes by ratios.
 */
export class WalkWay {
  private readonly legs: readonly Leg[];
  private readonly effort: number;
  readonly lengthM: number;

  constructor(private readonly walk: Walk) {
    const places = walk.stops.map((stop): Vec3 => stop.position);
    this.legs = walk.stops.slice(1).map((to, i) => legBetween(walk.stops[i]!, to, places, i));
    this.effort = this.legs.reduce((sum, leg) => sum + leg.effort, 0);
    this.lengthM = this.legs.reduce((sum, leg) => sum + leg.along.at(-1)!, 0);
  }

  cameraAt(seconds: number): Camera {
    const share = Math.min(1, Math.max(0, seconds / this.walk.seconds));
    let left = (this.walk.eased ? share * share * (3 - 2 * share) : share) * this.effort;
    for (const leg of this.legs) {
      if (left < leg.effort) return onLeg(leg, left / leg.effort);
      left -= leg.effort;
    }
    return this.walk.stops.at(-1)!;
  }
}

/** Number of pictures of a walk at so many a second, from its start on. */
export const frameCount = ({ seconds }: Pick<Walk, 'seconds'>, framesPerSecond: number): number =>
  Math.max(1, Math.round(seconds * framesPerSecond));

function legBetween(from: Camera, to: Camera, stops: readonly Vec3[], i: number): Leg {
  const places = Array.from({ length: PIECES + 1 }, (_, k) => curve(stops, i, k / PIECES));
  const along = [0];
  for (let k = 1; k <= PIECES; k++) along.push(along[k - 1]! + distance(places[k - 1]!, places[k]!));
  const turnRad = Math.acos(Math.min(1, Math.max(-1, dot(facing(from), facing(to)))));
  return { from, to, places, along, turnRad, effort: along[PIECES]! + METRES_A_RADIAN * turnRad };
}

const facing = ({ position, target }: Camera): Vec3 => normalise(subtract(target, position));

function onLeg(leg: Leg, share: number): Camera {
  const { from, to, places, along } = leg;
  const metres = share * along.at(-1)!;
  let k = along.findIndex((m) => m > metres) - 1;
  if (k < 0) k = PIECES - 1;
  const piece = along[k + 1]! - along[k]!;
  const position = mix(places[k]!, places[k + 1]!, piece > 0 ? (metres - along[k]!) / piece : 0);
  // Turns begin and end softly at the stops.
  const turn = share * share * (3 - 2 * share);
  const ahead = turned(facing(from), facing(to), leg.turnRad, turn);
  const reach = distance(from.position, from.target) ** (1 - share) * distance(to.position, to.target) ** share;
  return {
    position: [...position],
    target: [...add(position, scale(ahead, reach))],
    focalMm: from.focalMm ** (1 - share) * to.focalMm ** share,
  };
}

/** From one direction to another by the shortest way; opposite ones by way of their left, level where that can be. */
function turned(a: Vec3, b: Vec3, angle: number, t: number): Vec3 {
  if (angle < 1e-6) return b;
  let beside = subtract(b, scale(a, dot(a, b)));
  if (Math.hypot(...beside) < 1e-6) beside = Math.hypot(a[0], a[1]) > 1e-6 ? [-a[1], a[0], 0] : [1, 0, 0];
  const across = normalise(beside);
  return add(scale(a, Math.cos(angle * t)), scale(across, Math.sin(angle * t)));
}

/** A place on the curve through all points, between two of them, by Barry and Goldman's pyramid (1988); beyond the ends it goes straight on. */
function curve(points: readonly Vec3[], i: number, share: number): Vec3 {
  const [b, c] = [points[i]!, points[i + 1]!];
  const step = Math.sqrt(distance(b, c));
  if (step < 1e-6) return b;
  const a = points[i - 1] ?? mix(b, c, -1);
  const d = points[i + 2] ?? mix(c, b, -1);
  const knots = [0, Math.sqrt(distance(a, b)), 0, 0];
  // A stop that is not left is no point of the curve.
  if (knots[1]! < 1e-6) return curve([mix(b, c, -1), ...points.slice(i)], 1, share);
  knots[2] = knots[1]! + step;
  const last = Math.sqrt(distance(c, d));
  if (last < 1e-6) return curve([...points.slice(0, i + 2), mix(c, b, -1)], i, share);
  knots[3] = knots[2] + last;
  const t = knots[1]! + step * share;
  const between = (p: Vec3, q: Vec3, from: number, to: number) => mix(p, q, (t - knots[from]!) / (knots[to]! - knots[from]!));
  const [ab, bc, cd] = [between(a, b, 0, 1), between(b, c, 1, 2), between(c, d, 2, 3)];
  return between(between(ab, bc, 0, 2), between(bc, cd, 1, 3), 1, 2);
}
