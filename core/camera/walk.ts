import * as v from 'valibot';
import { add, distance, dot, mix, normalise, scale, subtract, type Vec3 } from '../geometry/vec3';
import { cameraSchema, type Camera } from '../model/schema';
import { shownSchema } from '../model/shown';

export const MOST_STOPS = 50;
/** How a stop is come to from the one before. */
export const STOP_WAYS = ['leg', 'cut', 'dissolve'] as const;
const stopEntries = {
  ...cameraSchema.entries,
  /** Seconds that the camera stands there. */
  holdS: v.optional(v.pipe(v.number(), v.minValue(0), v.maxValue(120))),
  /** Without: along a leg. */
  by: v.optional(v.picklist(STOP_WAYS)),
  /** From here on: what is shown of the models, a kept condition, an option of a source, the local time of day in minutes. */
  shown: v.optional(shownSchema),
  condition: v.optional(v.pipe(v.string(), v.minLength(1), v.maxLength(64))),
  option: v.optional(v.strictObject({ source: v.pipe(v.string(), v.maxLength(200)), option: v.pipe(v.string(), v.maxLength(200)) })),
  minutes: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1439))),
};
const walkEntries = {
  /** Seconds of all legs together; holds come on top. */
  seconds: v.pipe(v.number(), v.finite(), v.minValue(0.1), v.maxValue(600)),
  /** Sets off and arrives slowly; otherwise at one pace throughout. */
  eased: v.boolean(),
  /** A place that is looked at all the way. */
  lookAt: v.optional(cameraSchema.entries.target),
};

/** A way through views, one after the other: a walkthrough. */
export const walkSchema = v.strictObject({
  stops: v.pipe(v.array(v.strictObject(stopEntries)), v.minLength(2), v.maxLength(MOST_STOPS)),
  ...walkEntries,
});
export type Walk = v.InferOutput<typeof walkSchema>;
export type Stop = Walk['stops'][number];

/** A walk as a project keeps it: its stops by name, and perhaps one alone so far. */
export const keptWalkSchema = v.strictObject({
  name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  stops: v.pipe(
    v.array(v.strictObject({ name: v.pipe(v.string(), v.maxLength(200)), ...stopEntries })),
    v.minLength(1),
    v.maxLength(MOST_STOPS),
  ),
  ...walkEntries,
});
export type KeptWalk = v.InferOutput<typeof keptWalkSchema>;

/** What is walked, without the names of its stops. */
export const walkOf = ({ stops, seconds, eased, lookAt }: KeptWalk): Walk => ({
  stops: stops.map((stop) => {
    const walked: Partial<typeof stop> = { ...stop };
    delete walked.name;
    return walked as Stop;
  }),
  seconds,
  eased,
  ...(lookAt && { lookAt }),
});

/** Seconds from the first picture to the last. */
export const durationOf = ({ stops, seconds }: { stops: readonly Pick<Stop, 'holdS'>[]; seconds: number }): number =>
  seconds + stops.reduce((sum, { holdS = 0 }) => sum + holdS, 0);

/** Seconds that one shot takes to pass over into the next. */
export const DISSOLVE_S = 1;

/** Metres a second that people stroll at; common practice. */
export const WALKING_PACE = 1.4;

/** Looking round by a radian takes as long as to walk so many metres, so that a turn on the spot takes its time. */
export const METRES_A_RADIAN = 1.2;
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

/** A stretch of time: the camera stands, or goes along legs without a stop between that it holds at. */
interface Span {
  startS: number;
  seconds: number;
  legs: readonly Leg[];
  /** Where it stands. */
  at: Camera | undefined;
}

/** A camera, and how much of the picture it has while one shot passes over into the next. */
export interface SeenThrough {
  camera: Camera;
  weight: number;
  /** The moment that its shot stands at, seconds: while they pass over, the one at its end or the other at its beginning. */
  shotS: number;
}

/** Just before a moment. */
const A_LITTLE_S = 1e-4;

/**
 * The way of a walk: `cameraAt` gives the camera at a moment, seconds, by that moment alone. Between stops it follows a centripetal
 * Catmull-Rom curve (Catmull & Rom 1974; Yuksel et al. 2011), which has neither loops nor cusps, at one pace on each leg; the eye
 * turns by the shortest way, the lens changes by ratios. A cut or a dissolve ends one curve and begins another.
 */
export class WalkWay {
  private readonly spans: readonly Span[];
  readonly lengthM: number;
  readonly seconds: number;
  /** Moments at which the camera is at each stop for the first time, seconds. */
  readonly stopsAt: readonly number[];
  /** Moments at which one shot ends and another begins, and whether they dissolve. */
  readonly cuts: readonly { at: number; dissolves: boolean }[];

  constructor(private readonly walk: Walk) {
    const { stops, seconds } = walk;
    const shots: Stop[][] = [];
    for (const stop of stops) {
      if (shots.length === 0 || (stop.by ?? 'leg') !== 'leg') shots.push([]);
      shots.at(-1)!.push(stop);
    }
    const legs = shots.map((shot) => {
      const places = shot.map((stop): Vec3 => stop.position);
      return shot.slice(1).map((to, i) => legBetween(shot[i]!, to, places, i));
    });
    this.lengthM = legs.flat().reduce((sum, leg) => sum + leg.along.at(-1)!, 0);
    const effort = legs.flat().reduce((sum, leg) => sum + leg.effort, 0);
    const spans: Span[] = [];
    const stopsAt: number[] = [];
    const cuts: { at: number; dissolves: boolean }[] = [];
    let now = 0;
    const push = (span: Omit<Span, 'startS'>) => {
      spans.push({ ...span, startS: now });
      now += span.seconds;
    };
    // Where nothing is gone, the time is shared among the legs alike.
    const shareOf = (run: readonly Leg[]) =>
      effort > 0 ? run.reduce((sum, leg) => sum + leg.effort, 0) / effort : run.length / Math.max(1, legs.flat().length);
    for (const [s, shot] of shots.entries()) {
      if (s > 0) cuts.push({ at: now, dissolves: shot[0]!.by === 'dissolve' });
      let run: Leg[] = [];
      let begun = now;
      const flush = () => {
        if (run.length > 0) push({ seconds: seconds * shareOf(run), legs: run, at: undefined });
        run = [];
      };
      for (const [k, stop] of shot.entries()) {
        if (k > 0) run.push(legs[s]![k - 1]!);
        const { holdS = 0 } = stop;
        stopsAt.push(begun + seconds * shareOf(run));
        if (holdS > 0) {
          flush();
          push({ seconds: holdS, legs: [], at: stop });
        }
        if (run.length === 0) begun = now;
      }
      flush();
    }
    this.spans = spans;
    this.seconds = now;
    this.stopsAt = stopsAt;
    this.cuts = cuts;
  }

  cameraAt(seconds: number): Camera {
    return this.looking(this.along(this.spans.findLast(({ startS }) => startS <= seconds) ?? this.spans[0], seconds));
  }

  /** What a picture of a moment is put together of: one camera, or two while one shot passes over into the next. */
  seenAt(seconds: number): SeenThrough[] {
    const cut = this.cuts.find(({ at, dissolves }) => dissolves && Math.abs(seconds - at) < DISSOLVE_S / 2);
    if (!cut) return [{ camera: this.cameraAt(seconds), weight: 1, shotS: seconds }];
    const after = this.spans.findIndex(({ startS }) => startS >= cut.at - 1e-9);
    const share = (seconds - cut.at) / DISSOLVE_S + 0.5;
    // The one goes on to its end and stands there, the other stands at its beginning until its time has come.
    const [a, b] = [this.spans[after - 1], this.spans[after]];
    return [
      { camera: this.looking(this.along(a, Math.min(seconds, cut.at))), weight: 1 - share, shotS: Math.min(seconds, cut.at - A_LITTLE_S) },
      { camera: this.looking(this.along(b, Math.max(seconds, cut.at))), weight: share, shotS: Math.max(seconds, cut.at) },
    ];
  }

  private along(span: Span | undefined, seconds: number): Camera {
    if (!span) return this.walk.stops.at(-1)!;
    if (span.at) return span.at;
    const share = span.seconds > 0 ? Math.min(1, Math.max(0, (seconds - span.startS) / span.seconds)) : 1;
    const effort = span.legs.reduce((sum, leg) => sum + leg.effort, 0);
    let left = (this.walk.eased ? share * share * (3 - 2 * share) : share) * effort;
    for (const leg of span.legs) {
      if (left < leg.effort) return onLeg(leg, left / leg.effort);
      left -= leg.effort;
    }
    return span.legs.at(-1)!.to;
  }

  private looking(camera: Camera): Camera {
    const { position, target, focalMm, upright, parallelM, nearM, aperture } = camera;
    return {
      position,
      target: this.walk.lookAt ?? target,
      focalMm,
      ...(upright && { upright }),
      ...(parallelM !== undefined && { parallelM }),
      ...(nearM !== undefined && { nearM }),
      ...(aperture && { aperture }),
    };
  }
}

/** Number of pictures of a walk at so many a second, from its start on. */
export const frameCount = (walk: Parameters<typeof durationOf>[0], framesPerSecond: number): number =>
  Math.max(1, Math.round(durationOf(walk) * framesPerSecond));

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
    focalMm: byRatio(from.focalMm, to.focalMm, share),
    ...lensOnLeg(from, to, share),
  };
}

const byRatio = (a: number, b: number, share: number): number => a ** (1 - share) * b ** share;

/** What stops hold beside their place: where both do, it passes over by ratios; else it holds as far as the middle of the leg. */
function lensOnLeg(from: Camera, to: Camera, share: number): Partial<Camera> {
  const nearer = share < 0.5 ? from : to;
  const between = (a: number | undefined, b: number | undefined, own: number | undefined) =>
    a !== undefined && b !== undefined ? byRatio(a, b, share) : own;
  const parallelM = between(from.parallelM, to.parallelM, nearer.parallelM);
  const nearM = between(from.nearM, to.nearM, nearer.nearM);
  const fNumber = between(from.aperture?.fNumber, to.aperture?.fNumber, nearer.aperture?.fNumber);
  const focusM = between(from.aperture?.focusM, to.aperture?.focusM, nearer.aperture?.focusM);
  return {
    ...(nearer.upright && { upright: true as const }),
    ...(parallelM !== undefined && { parallelM }),
    ...(nearM !== undefined && { nearM }),
    ...(fNumber !== undefined && { aperture: { fNumber, ...(focusM !== undefined && { focusM }) } }),
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
