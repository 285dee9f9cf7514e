import { random } from '../random';
import type { Stroke } from './set-thing';

/** Where things of a row or an area stand, seen from above, before they are dropped to the ground. */

export type Place2 = readonly [number, number];

/** Along a line, evenly, the first at its beginning. */
export function alongLine(points: readonly Place2[], spacingM: number): Place2[] {
  const out: Place2[] = [];
  let left = 0;
  for (let i = 1; i < points.length; i++) {
    const [a, b] = [points[i - 1]!, points[i]!];
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    for (; left <= length + 1e-9; left += spacingM) {
      const t = length > 0 ? left / length : 0;
      out.push([a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]);
    }
    left -= length;
  }
  return out;
}

/** Whether a place lies within an outline (even-odd). */
export function isInside([x, y]: Place2, outline: readonly Place2[]): boolean {
  let inside = false;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [a, b] = [outline[i]!, outline[j]!];
    if (a[1] > y !== b[1] > y && x < ((b[0] - a[0]) * (y - a[1])) / (b[1] - a[1]) + a[0]) inside = !inside;
  }
  return inside;
}

/** Whether things grow at a place: within the outline, unless the last stroke of the brush over it says otherwise. */
export function growsAt(place: Place2, outline: readonly Place2[], strokes: readonly Stroke[]): boolean {
  const last = strokes.findLast(({ at, radiusM }) => Math.hypot(at[0] - place[0], at[1] - place[1]) <= radiusM);
  return last ? last.adds : isInside(place, outline);
}

/** Strokes without those that later ones hide wholly: they say nothing any more. */
export const withoutHidden = (strokes: readonly Stroke[]): Stroke[] =>
  strokes.filter(
    ({ at, radiusM }, i) =>
      !strokes.some((later, k) => k > i && Math.hypot(at[0] - later.at[0], at[1] - later.at[1]) + radiusM <= later.radiusM + 1e-9),
  );

export function areaOf(outline: readonly Place2[]): number {
  let sum = 0;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) sum += outline[j]![0] * outline[i]![1] - outline[i]![0] * outline[j]![1]; // prettier-ignore
  return Math.abs(sum) / 2;
}

/** Darts for each square of the least distance; with so many, hardly another would find room. */
const DARTS = 12;
/** Share of the plane's squares of the distance that darts fill, once no other finds room; measured in scatter.spec. */
const FILLED = 0.6;
const BLOCK = 16;

/** The distance that gives so many to a square metre, unless they would stand closer than the least. */
export const distanceFor = (perM2: number, leastM: number): number => Math.max(leastM, Math.sqrt(FILLED / perM2));

/**
 * Blue noise: places at random, none nearer to another than the distance (dart throwing; Cook 1986), in order of priority. A place
 * depends on the seed and where it is alone, so that areas are changed and brushed without those that stay moving.
 */
export function scatter(outline: readonly Place2[], strokes: readonly Stroke[], distanceM: number, seed: number, most: number): Place2[] {
  const bounds = boundsOf(outline, strokes);
  if (!bounds) return [];
  const blocks = (from: number, to: number): number[] => {
    const out: number[] = [];
    for (let i = Math.floor(from / (distanceM * BLOCK)) * BLOCK; i < Math.ceil(to / (distanceM * BLOCK)) * BLOCK; i++) out.push(i);
    return out;
  };
  const [columns, rows] = [blocks(bounds[0], bounds[2]), blocks(bounds[1], bounds[3])];
  if (columns.length * rows.length * DARTS > 4_000_000) return [];
  const count = columns.length * rows.length * DARTS;
  const [xs, ys, priorities] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  let n = 0;
  for (const j of rows)
    for (const i of columns) {
      const next = random((Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(seed + 1, 83492791)) | 0);
      for (let k = 0; k < DARTS; k++, n++) {
        xs[n] = (i + next()) * distanceM;
        ys[n] = (j + next()) * distanceM;
        priorities[n] = next();
      }
    }
  // Cells so small that each holds one at most.
  const cellM = distanceM / Math.SQRT2;
  const [left, low] = [columns[0]! * distanceM, rows[0]! * distanceM];
  const wide = Math.ceil((columns.length * distanceM) / cellM) + 5;
  const taken = new Int32Array(wide * (Math.ceil((rows.length * distanceM) / cellM) + 5)).fill(-1);
  const nearest = distanceM ** 2;
  const out: Place2[] = [];
  for (const dart of Uint32Array.from(priorities, (_, i) => i).sort((a, b) => priorities[a]! - priorities[b]!)) {
    const [x, y] = [xs[dart]!, ys[dart]!];
    const [ci, cj] = [Math.floor((x - left) / cellM) + 2, Math.floor((y - low) / cellM) + 2];
    let free = true;
    for (let j = cj - 2; j <= cj + 2 && free; j++)
      for (let i = ci - 2; i <= ci + 2 && free; i++) {
        const other = taken[j * wide + i]!;
        free = other < 0 || (xs[other]! - x) ** 2 + (ys[other]! - y) ** 2 >= nearest;
      }
    if (!free) continue;
    taken[cj * wide + ci] = dart;
    if (growsAt([x, y], outline, strokes)) out.push([x, y]);
    if (out.length >= most) break;
  }
  return out;
}

function boundsOf(outline: readonly Place2[], strokes: readonly Stroke[]): [number, number, number, number] | undefined {
  const corners = [
    ...outline,
    ...strokes.filter(({ adds }) => adds).flatMap(({ at: [x, y], radiusM: r }): Place2[] => [[x - r, y - r], [x + r, y + r]]),
  ]; // prettier-ignore
  if (corners.length === 0) return undefined;
  const [xs, ys] = [corners.map(([x]) => x), corners.map(([, y]) => y)];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}
