import { corner, doubleArea, type Body } from './body';
import type { Point2 } from './clip';

/** A straight piece of a wall in plan; a straight wall is one, a bent or curved one several. */
export interface Strip {
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

/** Thicker than this nothing is taken for a wall, metres. */
const THICKEST_M = 1.2;
const SHORTEST_M = 0.02;
/** A wall's own thickness may differ so much from the rectangle about it before it counts as bent. */
const PLINTH = 1.5;
/** Sections are cut this far above the foot: below sills, above skirtings. */
const CUT_M = 0.15;

export function stripsOf(body: Body): Strip[] {
  const whole = rectangleOf(body);
  const pieces = piecesOf(body);
  const thickest = Math.max(0, ...pieces.map((p) => p.halfWidth));
  const straight = whole && (thickest === 0 || whole.halfWidth <= thickest * PLINTH);
  return straight ? [whole] : pieces;
}

/** The rectangle that a wall stands on, along the direction in which its upright faces have most area; undefined if it is too wide for one. */
function rectangleOf(body: Body): Strip | undefined {
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
  if (halfWidth * 2 > THICKEST_M || halfLength < halfWidth * 1.5) return undefined;
  const at = (u: number, v: number): Point2 => [u * along[0] - v * along[1], u * along[1] + v * along[0]];
  return {
    body, along, halfLength, halfWidth, middle: at((lowU + highU) / 2, (lowV + highV) / 2), low: body.bounds.min[2], high: body.bounds.max[2],
    corners: [at(lowU, lowV), at(highU, lowV), at(highU, highV), at(lowU, highV)],
  }; // prettier-ignore
}

/** An edge of a wall's outline at the height of the section, its outer side to the right. */
interface Edge {
  from: Point2;
  to: Point2;
  normal: Point2;
}

/** Pairs of opposite edges of the section, as strips; the longest ones first, none over another. */
function piecesOf(body: Body): Strip[] {
  const [low, high] = [body.bounds.min[2], body.bounds.max[2]];
  const edges = sectionOf(body, low + Math.min(CUT_M, (high - low) / 4));
  const found: Strip[] = [];
  for (const { from, to, normal } of [...edges].sort((a, b) => lengthOf(b) - lengthOf(a))) {
    if (Math.hypot(to[0] - from[0], to[1] - from[1]) < SHORTEST_M) continue;
    const mid: Point2 = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2];
    const opposite = edges.map((edge) => ({ edge, distance: distanceThrough(mid, normal, edge) })).reduce((p, q) => (q.distance < p.distance ? q : p)); // prettier-ignore
    const thickness = opposite.distance;
    // An end is as long as the wall is thick, and what lies opposite is the other end.
    if (thickness > THICKEST_M || thickness < 1e-4) continue;
    const inner = (p: Point2, end: Point2): Point2 =>
      Math.hypot(end[0] - p[0], end[1] - p[1]) < thickness * 1.5 ? end : [p[0] - normal[0] * thickness, p[1] - normal[1] * thickness];
    const corners = [from, to, inner(to, opposite.edge.from), inner(from, opposite.edge.to)] as const;
    const between = (p: Point2, q: Point2): Point2 => [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
    const [start, end] = [between(corners[0], corners[3]), between(corners[1], corners[2])];
    const middle = between(start, end);
    if (found.some((other) => holds(other, middle))) continue;
    const halfLength = Math.hypot(end[0] - start[0], end[1] - start[1]) / 2;
    const along: Point2 = [(end[0] - start[0]) / halfLength / 2, (end[1] - start[1]) / halfLength / 2];
    found.push({ body, along, middle, halfLength, halfWidth: thickness / 2, low, high, corners: [...corners] });
  }
  return found;
}

const lengthOf = ({ from, to }: Edge) => Math.hypot(to[0] - from[0], to[1] - from[1]);

/** Whether a point lies on a strip, with a little about it. */
export function holds({ middle, along, halfLength, halfWidth }: Strip, [x, y]: Point2, reach = 0): boolean {
  const [dx, dy] = [x - middle[0], y - middle[1]];
  return Math.abs(dx * along[0] + dy * along[1]) <= halfLength + reach && Math.abs(dy * along[0] - dx * along[1]) <= halfWidth + reach;
}

/** How far it is from a point on one edge straight through the wall to another that faces away. */
function distanceThrough([x, y]: Point2, [nx, ny]: Point2, { from, to, normal }: Edge): number {
  if (nx * normal[0] + ny * normal[1] > -0.5) return Infinity;
  const [ex, ey] = [to[0] - from[0], to[1] - from[1]];
  const [px, py] = [from[0] - x, from[1] - y];
  const det = nx * ey - ny * ex;
  if (Math.abs(det) < 1e-12) return Infinity;
  const distance = (py * ex - px * ey) / det;
  const share = (ny * px - nx * py) / det;
  return distance > 0 && share >= -1e-6 && share <= 1 + 1e-6 ? distance : Infinity;
}

/** Cuts a body at a height. */
function sectionOf(body: Body, z: number): Edge[] {
  const edges: Edge[] = [];
  for (let t = 0; t < body.indices.length; t += 3) {
    const points = [0, 1, 2].map((k) => corner(body, body.indices[t + k]!));
    const n = doubleArea(points[0]!, points[1]!, points[2]!);
    const level = Math.hypot(n[0], n[1]);
    if (level < 1e-9) continue;
    const cut: Point2[] = [];
    points.forEach((p, k) => {
      const q = points[(k + 1) % 3]!;
      if (p[2] > z === q[2] > z) return;
      const s = (z - p[2]) / (q[2] - p[2]);
      cut.push([p[0] + (q[0] - p[0]) * s, p[1] + (q[1] - p[1]) * s]);
    });
    if (cut.length !== 2) continue;
    const normal: Point2 = [n[0] / level, n[1] / level];
    const [dx, dy] = [cut[1]![0] - cut[0]![0], cut[1]![1] - cut[0]![1]];
    const [from, to] = dy * normal[0] - dx * normal[1] >= 0 ? [cut[0]!, cut[1]!] : [cut[1]!, cut[0]!];
    edges.push({ from, to, normal });
  }
  return joined(edges);
}

/** Edges that go on in one line, as one. */
function joined(edges: readonly Edge[]): Edge[] {
  const key = ([x, y]: Point2) => `${x.toFixed(4)} ${y.toFixed(4)}`;
  const [starting, ending] = [new Map<string, Edge[]>(), new Map<string, Edge[]>()];
  for (const edge of edges) {
    starting.set(key(edge.from), [...(starting.get(key(edge.from)) ?? []), edge]);
    ending.set(key(edge.to), [...(ending.get(key(edge.to)) ?? []), edge]);
  }
  const goesOn = (a: Edge) => (b: Edge) => a !== b && a.normal[0] * b.normal[0] + a.normal[1] * b.normal[1] > 0.99999;
  const out: Edge[] = [];
  for (const first of edges) {
    if (ending.get(key(first.from))?.some(goesOn(first))) continue;
    let last = first;
    // No line of edges is longer than all of them.
    for (let i = 0; i < edges.length; i++) {
      const next = starting.get(key(last.to))?.find(goesOn(last));
      if (!next) break;
      last = next;
    }
    if (last.to !== first.from) out.push({ from: first.from, to: last.to, normal: first.normal });
  }
  return out;
}
