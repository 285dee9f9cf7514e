import { meanScale, transformPoint, translation, type Mat4 } from '../geometry/mat4';
import type { Place2 } from './scatter';
import type { SetThing } from './set-thing';

/** Moves, turns and sizes what is set, and puts several in line. */

const rounded = (value: number) => Math.round(value * 1000) / 1000;

/** Where a thing, a row or an area has its middle. */
export function middleOf({ pattern, members }: SetThing): Place2 {
  const points: readonly Place2[] = pattern.kind === 'row' ? pattern.points : pattern.kind === 'area' && pattern.outline.length > 0 ? pattern.outline : []; // prettier-ignore
  if (points.length > 0) return mean(points);
  const feet = Array.from({ length: members.length / 3 }, (_, i): Place2 => [members[i * 3]!, members[i * 3 + 1]!]);
  return feet.length > 0 ? mean(feet) : [0, 0];
}

const mean = (points: readonly Place2[]): Place2 => [0, 1].map((axis) => points.reduce((sum, point) => sum + point[axis]!, 0) / points.length) as unknown as Place2; // prettier-ignore

/** The thing moved aside, its members with it at the heights they had. */
export const movedBy = (thing: SetThing, dx: number, dy: number): SetThing => carried(thing, translation(dx, dy, 0));

/** The thing after a movement, a turn about the vertical and a change of size alike in all directions, its members with it. */
export function carried(thing: SetThing, by: Mat4): SetThing {
  const place = ([x, y]: Place2): [number, number] => {
    const [px, py] = transformPoint(by, [x, y, 0]);
    return [rounded(px), rounded(py)];
  };
  const members: number[] = [];
  for (let i = 0; i < thing.members.length; i += 3)
    members.push(...transformPoint(by, [thing.members[i]!, thing.members[i + 1]!, thing.members[i + 2]!]).map(rounded));
  const turn = (Math.atan2(by[1]!, by[0]!) * 180) / Math.PI;
  const turned = thing.turnDeg !== undefined && { turnDeg: between(thing.turnDeg + turn) };
  const rest = { ...thing, ...turned, size: Math.min(20, Math.max(0.05, thing.size * meanScale(by))), members };
  const { pattern } = thing;
  if (pattern.kind === 'row') return { ...rest, pattern: { ...pattern, points: pattern.points.map(place) } };
  if (pattern.kind === 'one') return rest;
  const strokes = pattern.strokes.map((stroke) => ({ ...stroke, at: place(stroke.at) }));
  const surface = pattern.onSurfaceAt && { onSurfaceAt: place(pattern.onSurfaceAt) };
  return { ...rest, pattern: { ...pattern, outline: pattern.outline.map(place), strokes, ...surface } };
}

/** Degrees from -180 to 180, to a hundredth. */
const between = (deg: number): number => Math.round(((((deg + 540) % 360) + 360) % 360) * 100 - 18_000) / 100;

/** The line through the two that lie furthest apart. */
function ends(places: readonly Place2[]): [Place2, Place2] {
  let best: [Place2, Place2] = [places[0]!, places[1]!];
  let far = -1;
  for (const a of places)
    for (const b of places) {
      const away = Math.hypot(a[0] - b[0], a[1] - b[1]);
      if (away > far) [far, best] = [away, [a, b]];
    }
  return best;
}

/** Share of the way between two ends at which a place lies. */
function along([x, y]: Place2, [a, b]: readonly [Place2, Place2]): number {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  return ((x - a[0]) * dx + (y - a[1]) * dy) / (dx * dx + dy * dy || 1);
}

/** Each on the line between the two that lie furthest apart; where `evenly`, at the same distance from the next, in their order. */
export function inLine(places: readonly Place2[], evenly: boolean): Place2[] {
  if (places.length < 2) return [...places];
  const line = ends(places);
  const shares = places.map((place) => along(place, line));
  const order = shares.map((_, i) => i).sort((i, j) => shares[i]! - shares[j]!);
  return shares.map((share, i): Place2 => {
    const t = evenly ? order.indexOf(i) / (places.length - 1) : share;
    return [line[0][0] + (line[1][0] - line[0][0]) * t, line[0][1] + (line[1][1] - line[0][1]) * t];
  });
}

/** What has its middle in a box of the plan. */
export function isInBox(thing: SetThing, [a, b]: readonly [Place2, Place2]): boolean {
  const [x, y] = middleOf(thing);
  return x >= Math.min(a[0], b[0]) && x <= Math.max(a[0], b[0]) && y >= Math.min(a[1], b[1]) && y <= Math.max(a[1], b[1]);
}
