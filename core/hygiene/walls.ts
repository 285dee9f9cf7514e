import type { Vec3 } from '../geometry/vec3';
import { clip, polygonArea, type Point2 } from './clip';
import { keyOf, nameOf, nudgeBy, refOf, type Body } from './body';
import { isInside } from './inside';
import { findingId, type Finding } from './finding';
import { holds, stripsOf, type Strip } from './wall-plan';

/** A gap wider than this is meant, metres; one narrower than the other is none. */
export const DEFAULT_GAP_M = 0.03;
const LEAST_GAP_M = 0.0015;
const LEAST_OVERLAP_M2 = 0.0005;
/** Pieces of one wall that come so near go on into each other. */
const JOINT_M = 0.05;

/** A wall and the straight pieces that it is made of. */
interface Wall {
  body: Body;
  strips: Strip[];
}

/** Walls that run into each other by more than a corner needs, and ends that just fail to meet a wall. */
export function checkWalls(bodies: readonly Body[], widestGapM = DEFAULT_GAP_M): Finding[] {
  const walls = bodies.filter((b) => /^Wall/.test(b.element.class)).map((body): Wall => ({ body, strips: stripsOf(body) })); // prettier-ignore
  const strips = walls.flatMap((wall) => wall.strips);
  const out: Finding[] = [];
  walls.forEach((a, i) => {
    for (const b of walls.slice(i + 1)) {
      const overlap = boxesMeet(a.body, b.body) ? overlapOf(a, b) : undefined;
      if (overlap) out.push(overlap);
    }
    for (const strip of a.strips)
      for (const end of [-1, 1]) {
        const gap = gapAt(strip, end, a.strips, strips, widestGapM, bodies);
        if (gap) out.push(gap);
      }
  });
  return dedupe(out);
}

const boxesMeet = ({ bounds: a }: Body, { bounds: b }: Body): boolean =>
  [0, 1, 2].every((k) => a.min[k]! <= b.max[k]! && b.min[k]! <= a.max[k]!);

function heightShared(a: Strip, b: Strip): number {
  return Math.min(a.high, b.high) - Math.max(a.low, b.low);
}

function near(a: Strip, b: Strip, reach: number): boolean {
  return (
    Math.hypot(a.middle[0] - b.middle[0], a.middle[1] - b.middle[1]) <= a.halfLength + b.halfLength + a.halfWidth + b.halfWidth + reach
  );
}

/** What two strips share in plan. */
function sharedBy(a: Strip, b: Strip) {
  if (!near(a, b, 0)) return undefined;
  const outline = clip(a.corners, b.corners);
  if (outline.length < 3) return undefined;
  // A corner takes up the two widths; more along it means that one runs through the other.
  const sine = Math.abs(a.along[0] * b.along[1] - a.along[1] * b.along[0]);
  return {
    outline,
    areaM2: polygonArea(outline),
    cornerM2: (4 * a.halfWidth * b.halfWidth) / Math.max(sine, 0.02),
    parallel: sine < 0.05,
  };
}

function overlapOf(a: Wall, b: Wall): Finding | undefined {
  const [one, other] = [a.strips[0], b.strips[0]];
  if (!one || !other) return undefined;
  const height = heightShared(one, other);
  if (height < 0.05) return undefined;
  const shared = a.strips.flatMap((s) => b.strips.map((t) => sharedBy(s, t))).filter((s) => s !== undefined && s.areaM2 >= LEAST_OVERLAP_M2) as NonNullable<ReturnType<typeof sharedBy>>[]; // prettier-ignore
  const areaM2 = shared.reduce((sum, s) => sum + s.areaM2, 0);
  const cornerM2 = Math.max(0, ...shared.map((s) => s.cornerM2));
  if (shared.length === 0 || (!shared.some((s) => s.parallel) && areaM2 <= cornerM2 * 1.05)) return undefined;
  const largest = shared.reduce((p, q) => (q.areaM2 > p.areaM2 ? q : p));
  const place = centre(largest.outline, (Math.max(one.low, other.low) + Math.min(one.high, other.high)) / 2);
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
function gapAt(
  a: Strip,
  end: number,
  siblings: readonly Strip[],
  strips: readonly Strip[],
  widestM: number,
  bodies: readonly Body[],
): Finding | undefined {
  const tip: Point2 = [a.middle[0] + a.along[0] * a.halfLength * end, a.middle[1] + a.along[1] * a.halfLength * end];
  // Where a bent wall goes on, none of its pieces ends.
  if (siblings.some((other) => other !== a && holds(other, tip, JOINT_M))) return undefined;
  let best: { other: Strip; gap: number } | undefined;
  for (const other of strips) {
    if (other.body === a.body || heightShared(a, other) < 0.05 || !near(a, other, widestM)) continue;
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
