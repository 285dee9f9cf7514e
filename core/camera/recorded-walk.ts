import { normalise, scale, subtract } from '../geometry/vec3';
import type { Camera } from '../model/schema';
import { METRES_A_RADIAN, MOST_STOPS, type KeptWalk } from './walk';

/** Where the eye was at a moment, seconds. */
export interface PlaceAt {
  atS: number;
  camera: Camera;
}

/** Who rests for so long stands there in the walk as well; shorter rests are part of walking. */
const LEAST_HOLD_S = 1;
const MOST_HOLD_S = 120;
/** How far the walk may leave the way that was gone, metres; farther where that would need too many stops. */
const TOLERANCE_M = 0.1;

/**
 * A walk from the places that an eye has gone through, in the order of their moments: stops where the way bends (Douglas & Peucker 1973),
 * by place, direction and lens together, and where the eye stood. Undefined: it went nowhere.
 */
export function recordedWalk(name: string, places: readonly PlaceAt[]): KeptWalk | undefined {
  const rests = restsOf(places);
  if (rests.length < 2) return undefined;
  const points = rests.map(({ camera }) => featuresOf(camera));
  // Where the eye stood is a stop in any case; where longest, if that is more often than a walk may have stops.
  const last = rests.length - 1;
  const stood = rests.flatMap(({ holdS }, i) => (holdS > 0 && i > 0 && i < last ? [i] : []));
  const longest = stood.sort((a, b) => rests[b]!.holdS - rests[a]!.holdS).slice(0, MOST_STOPS - 2);
  const fixed = [0, ...longest.sort((a, b) => a - b), last];
  const kept = withBends(points, fixed);
  const held = rests.reduce((sum, { holdS }) => sum + holdS, 0);
  const seconds = places.at(-1)!.atS - places[0]!.atS - held;
  return {
    name,
    stops: kept.map((i, k) => {
      const { camera, holdS } = rests[i]!;
      return {
        name: `${name}, ${String(k + 1)}`,
        ...camera,
        ...(holdS > 0 && { holdS: Math.min(MOST_HOLD_S, Math.round(holdS * 10) / 10) }),
      };
    }),
    seconds: Math.min(600, Math.max(0.1, Math.round(seconds * 10) / 10)),
    eased: false,
  };
}

/** Places that differ from the one before, and how long the eye stood there beyond a moment. */
function restsOf(places: readonly PlaceAt[]): { camera: Camera; holdS: number }[] {
  const out: { camera: Camera; from: number; holdS: number }[] = [];
  for (const { atS, camera } of places) {
    const last = out.at(-1);
    if (last && apart(featuresOf(last.camera), featuresOf(camera)) < 1e-6) {
      const stood = atS - last.from;
      last.holdS = stood >= LEAST_HOLD_S ? stood : 0;
    } else out.push({ camera, from: atS, holdS: 0 });
  }
  return out;
}

/** Place, direction and lens as one point, in metres that each is worth. */
function featuresOf({ position, target, focalMm }: Camera): readonly number[] {
  const direction = scale(normalise(subtract(target, position)), METRES_A_RADIAN);
  return [...position, ...direction, Math.log(focalMm) * METRES_A_RADIAN];
}

const apart = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((value, i) => value - b[i]!));

/** `fixed`, and one after the other the point that is farthest off the line through those that are there, while there is room. */
function withBends(points: readonly (readonly number[])[], fixed: readonly number[]): readonly number[] {
  const legs = fixed.slice(1).map((to, i) => farthestOff(points, fixed[i]!, to));
  while (legs.length + 1 < MOST_STOPS) {
    const worst = legs.reduce((a, b) => (b.offM > a.offM ? b : a));
    if (worst.offM <= TOLERANCE_M) break;
    legs.splice(legs.indexOf(worst), 1, farthestOff(points, worst.from, worst.at), farthestOff(points, worst.at, worst.to));
  }
  return [fixed[0]!, ...legs.map(({ to }) => to)];
}

/** Of the points between two, the one that is farthest off the line through those. */
function farthestOff(
  points: readonly (readonly number[])[],
  from: number,
  to: number,
): { from: number; to: number; at: number; offM: number } {
  let [at, offM] = [from, 0];
  for (let i = from + 1; i < to; i++) {
    const off = offLine(points[i]!, points[from]!, points[to]!);
    if (off > offM) [at, offM] = [i, off];
  }
  return { from, to, at, offM };
}

/** How far a point lies from the stretch between two. */
function offLine(point: readonly number[], a: readonly number[], b: readonly number[]): number {
  const along = b.map((value, i) => value - a[i]!);
  const squared = along.reduce((sum, value) => sum + value * value, 0);
  const t = squared > 0 ? along.reduce((sum, value, i) => sum + value * (point[i]! - a[i]!), 0) / squared : 0;
  const share = Math.min(1, Math.max(0, t));
  return apart(
    point,
    a.map((value, i) => value + along[i]! * share),
  );
}
