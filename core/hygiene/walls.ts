import type { Vec3 } from '../geometry/vec3';
import { clip, polygonArea, type Point2 } from './clip';
import { corner, doubleArea, keyOf, nameOf, nudgeBy, refOf, type Body } from './body';
import { isInside } from './inside';
import { findingId, type Finding } from './finding';

/** A gap wider than this is meant, metres; one narrower than the other is none. */
export const DEFAULT_GAP_M = 0.03;
const LEAST_GAP_M = 0.0015;
const LEAST_OVERLAP_M2 = 0.0005;

/** A straight wall in plan. */
interface Strip {
  body: Body;
  /** Unit vector along it. */
  along: Point2;
  middle: Point2;
  halfLength: number;
  halfWidth: number;
  low: number;
  high: number;
  corners: Point2[];
}

/** Walls that run into each other by more than a corner needs, and ends that just fail to meet a wall. */
export function checkWalls(bodies: readonly Body[], widestGapM = DEFAULT_GAP_M): Finding[] {
  const strips = bodies.filter((b) => /^Wall/.test(b.element.class)).map(stripOf).filter((s) => s !== undefined); // prettier-ignore
  const out: Finding[] = [];
  strips.forEach((a, i) => {
    for (const b of strips.slice(i + 1)) {
      const overlap = overlapOf(a, b);
      if (overlap) out.push(overlap);
    }
    for (const end of [-1, 1]) {
      const gap = gapAt(a, end, strips, widestGapM, bodies);
      if (gap) out.push(gap);
    }
  });
  return dedupe(out);
}

/** The rectangle that a wall stands on, along the direction in which its upright faces have most area; undefined if it is not straight. */
function stripOf(body: Body): Strip | undefined {
  // Votes for directions in steps of a milliradian, each with the mean of what voted, doubled so that either way round is the same.
  const votes = new Map<number, [number, number]>();
  for (let t = 0; t < body.indices.length; t += 3) {
    const n = doubleArea(corner(body, body.indices[t]!), corner(body, body.indices[t + 1]!), corner(body, body.indices[t + 2]!));
    const level = Math.hypot(n[0], n[1]);
    if (level < 1e-9 || Math.abs(n[2]) > level * 0.05) continue;
    const doubled = 2 * Math.atan2(n[0], -n[1]);
    const step = Math.round((doubled * 1000 + 6283.2) % 6283.2) % 6283;
    const vote = votes.get(step) ?? [0, 0];
    votes.set(step, [vote[0] + level * Math.cos(doubled), vote[1] + level * Math.sin(doubled)]);
  }
  const [best] = [...votes.values()].sort((p, q) => Math.hypot(...q) - Math.hypot(...p));
  if (!best) return undefined;
  const angle = Math.atan2(best[1], best[0]) / 2;
  const along: Point2 = [Math.cos(angle), Math.sin(angle)];
  let [lowU, highU, lowV, highV] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < body.positions.length; i += 3) {
    const [x, y] = [body.positions[i]!, body.positions[i + 1]!];
    const [u, v] = [x * along[0] + y * along[1], y * along[0] - x * along[1]];
    [lowU, highU, lowV, highV] = [Math.min(lowU, u), Math.max(highU, u), Math.min(lowV, v), Math.max(highV, v)];
  }
  const [halfLength, halfWidth] = [(highU - lowU) / 2, (highV - lowV) / 2];
  // Bent walls are no strips.
  if (halfWidth * 2 > 1.2 || halfLength < halfWidth * 1.5) return undefined;
  const at = (u: number, v: number): Point2 => [u * along[0] - v * along[1], u * along[1] + v * along[0]];
  return {
    body, along, halfLength, halfWidth, middle: at((lowU + highU) / 2, (lowV + highV) / 2), low: body.bounds.min[2], high: body.bounds.max[2],
    corners: [at(lowU, lowV), at(highU, lowV), at(highU, highV), at(lowU, highV)],
  }; // prettier-ignore
}

function heightShared(a: Strip, b: Strip): number {
  return Math.min(a.high, b.high) - Math.max(a.low, b.low);
}

function near(a: Strip, b: Strip, reach: number): boolean {
  return (
    Math.hypot(a.middle[0] - b.middle[0], a.middle[1] - b.middle[1]) <= a.halfLength + b.halfLength + a.halfWidth + b.halfWidth + reach
  );
}

function overlapOf(a: Strip, b: Strip): Finding | undefined {
  const height = heightShared(a, b);
  if (height < 0.05 || !near(a, b, 0)) return undefined;
  const shared = clip(a.corners, b.corners);
  if (shared.length < 3) return undefined;
  const areaM2 = polygonArea(shared);
  // A corner takes up the two widths; more along it means that one runs through the other.
  const sine = Math.abs(a.along[0] * b.along[1] - a.along[1] * b.along[0]);
  const cornerM2 = (4 * a.halfWidth * b.halfWidth) / Math.max(sine, 0.02);
  const parallel = sine < 0.05;
  if (areaM2 < LEAST_OVERLAP_M2 || (!parallel && areaM2 <= cornerM2 * 1.05)) return undefined;
  const place = centre(shared, (Math.max(a.low, b.low) + Math.min(a.high, b.high)) / 2);
  return {
    id: findingId('wall-overlaps', keyOf(a.body), keyOf(b.body)),
    check: 'wall-overlaps',
    severity: 'warning',
    words: `${nameOf(a.body)} and ${nameOf(b.body)} overlap by ${(areaM2 * height).toFixed(3)} m³.`,
    elements: [refOf(a.body), refOf(b.body)],
    place,
    sizeM: Math.sqrt(areaM2) + height / 2,
    remedy: null,
  };
}

/** A wall's end that comes close to another wall without meeting it, nor any other. */
function gapAt(a: Strip, end: number, strips: readonly Strip[], widestM: number, bodies: readonly Body[]): Finding | undefined {
  const tip: Point2 = [a.middle[0] + a.along[0] * a.halfLength * end, a.middle[1] + a.along[1] * a.halfLength * end];
  let best: { other: Strip; gap: number } | undefined;
  for (const other of strips) {
    if (other === a || heightShared(a, other) < 0.05 || !near(a, other, widestM)) continue;
    const gap = distanceToStrip(tip, a, end, other);
    if (gap === undefined) continue;
    if (gap <= LEAST_GAP_M) return undefined;
    if (gap <= widestM && (!best || gap < best.gap)) best = { other, gap };
  }
  if (!best) return undefined;
  const { other, gap } = best;
  // A column or anything else may stand in the gap.
  const between: Vec3 = [
    tip[0] + (a.along[0] * gap * end) / 2,
    tip[1] + (a.along[1] * gap * end) / 2,
    (Math.max(a.low, other.low) + Math.min(a.high, other.high)) / 2,
  ];
  if (isInside(between, bodies)) return undefined;
  const ids = [keyOf(a.body), keyOf(other.body)];
  return {
    id: findingId('wall-gaps', ...ids),
    check: 'wall-gaps',
    severity: 'fault',
    words: `${nameOf(a.body)} ends ${(gap * 1000).toFixed(0)} mm before ${nameOf(other.body)}; light comes through.`,
    elements: [refOf(a.body), refOf(other.body)],
    place: [tip[0], tip[1], (Math.max(a.low, other.low) + Math.min(a.high, other.high)) / 2],
    sizeM: heightShared(a, other),
    remedy: {
      label: `Move ${nameOf(a.body).slice(0, 60)} by ${(gap * 1000).toFixed(0)} mm`,
      command: nudgeBy(a.body, [a.along[0] * gap * end, a.along[1] * gap * end, 0]),
    },
  };
}

/** How far the middle of a wall's end is from another wall, going on along the wall; undefined: it would miss it. */
function distanceToStrip(tip: Point2, a: Strip, end: number, b: Strip): number | undefined {
  const across: Point2 = [-b.along[1], b.along[0]];
  const inB = (p: Point2): Point2 => [(p[0] - b.middle[0]) * b.along[0] + (p[1] - b.middle[1]) * b.along[1], (p[0] - b.middle[0]) * across[0] + (p[1] - b.middle[1]) * across[1]]; // prettier-ignore
  const [u, v] = inB(tip);
  const [du, dv] = [(a.along[0] * b.along[0] + a.along[1] * b.along[1]) * end, (a.along[0] * across[0] + a.along[1] * across[1]) * end];
  let [enter, leave] = [-Infinity, Infinity];
  for (const [x, d, half] of [
    [u, du, b.halfLength + a.halfWidth],
    [v, dv, b.halfWidth],
  ] as const) {
    // prettier-ignore
    if (Math.abs(d) < 1e-6) {
      if (Math.abs(x) > half + 1e-6) return undefined;
      continue;
    }
    const [s, t] = [(-half - x) / d, (half - x) / d];
    enter = Math.max(enter, Math.min(s, t));
    leave = Math.min(leave, Math.max(s, t));
  }
  if (enter > leave || leave < -1e-6) return undefined;
  return Math.max(0, enter);
}

function centre(points: readonly Point2[], z: number): Vec3 {
  return [points.reduce((s, p) => s + p[0], 0) / points.length, points.reduce((s, p) => s + p[1], 0) / points.length, z];
}

function dedupe(findings: readonly Finding[]): Finding[] {
  const seen = new Set<string>();
  return findings.filter((f) => !seen.has(f.id) && seen.add(f.id));
}
