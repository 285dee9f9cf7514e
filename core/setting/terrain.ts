import { hash01, smoothstep } from '../finish/maps/noise';
import type { Place2 } from './scatter';
import { MEADOW, NO_GROUND, type LandGrid, type Shaping } from './land';

/** Heights and covers of a terrain's grid after all that was done with the brush. */

export const isGround = (z: number): boolean => z > NO_GROUND / 2;

/** Smooth noise over the plane, -1 to 1. */
export function planeNoise(x: number, y: number, scaleM: number, seed: number): number {
  const [u, v] = [x / scaleM, y / scaleM];
  const [i, j] = [Math.floor(u), Math.floor(v)];
  const [fx, fy] = [smoothstep(0, 1, u - i), smoothstep(0, 1, v - j)];
  const low = hash01(i, j, seed) * (1 - fx) + hash01(i + 1, j, seed) * fx;
  const high = hash01(i, j + 1, seed) * (1 - fx) + hash01(i + 1, j + 1, seed) * fx;
  return (low * (1 - fy) + high * fy) * 2 - 1;
}

/** Distance of a place from where a brush went. */
export function awayFrom([x, y]: Place2, along: readonly Place2[]): number {
  let nearest = Infinity;
  for (const [i, [bx, by]] of along.entries()) {
    const [ax, ay] = along[Math.max(0, i - 1)]!;
    const [dx, dy] = [bx - ax, by - ay];
    const length = dx * dx + dy * dy;
    const t = length > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length)) : 0;
    nearest = Math.min(nearest, Math.hypot(ax + dx * t - x, ay + dy * t - y));
  }
  return nearest;
}

/** Columns and rows of the grid that a brush reached. */
function reach({ x, y, cellM, columns, rows }: LandGrid, along: readonly Place2[], radiusM: number) {
  const [xs, ys] = [along.map((place) => place[0]), along.map((place) => place[1])];
  const clamp = (value: number, most: number) => Math.min(most, Math.max(0, value));
  return {
    left: clamp(Math.floor((Math.min(...xs) - radiusM - x) / cellM), columns),
    right: clamp(Math.ceil((Math.max(...xs) + radiusM - x) / cellM) + 1, columns),
    low: clamp(Math.floor((Math.min(...ys) - radiusM - y) / cellM), rows),
    high: clamp(Math.ceil((Math.max(...ys) + radiusM - y) / cellM) + 1, rows),
  };
}

/** Of the radius, that is wholly flattened. */
const LEVEL_SHARE = 0.7;
/** Waves of roughened ground, as shares of the brush. */
const ROUGH = [0.5, 0.22, 0.1];

/** Heights, row by row from the least y, after one stroke more; they are changed in place. */
export function shape(heights: Float32Array, grid: LandGrid, { does, along, radiusM, amount }: Shaping): void {
  if (does === 'cover') return;
  const { left, right, low, high } = reach(grid, along, radiusM);
  const { columns, rows } = grid;
  const before = does === 'smooth' ? heights.slice() : heights;
  for (let j = low; j < high; j++)
    for (let i = left; i < right; i++) {
      const at = j * columns + i;
      const z = before[at]!;
      if (!isGround(z)) continue;
      const place: Place2 = [grid.x + i * grid.cellM, grid.y + j * grid.cellM];
      const away = awayFrom(place, along) / radiusM;
      if (away >= 1) continue;
      const soft = 1 - smoothstep(0, 1, away);
      if (does === 'raise') heights[at] = z + amount * soft;
      else if (does === 'lower') heights[at] = z - amount * soft;
      else if (does === 'flatten') heights[at] = z + (amount - z) * (1 - smoothstep(LEVEL_SHARE, 1, away));
      else if (does === 'roughen') {
        const noise = ROUGH.reduce((sum, scale, k) => sum + planeNoise(...place, Math.max(grid.cellM * 2, radiusM * scale), 11 + k) / 2 ** k, 0);
        heights[at] = z + (amount * soft * noise) / 1.75;
      } else {
        let [sum, count] = [0, 0];
        for (let dj = -2; dj <= 2; dj++)
          for (let di = -2; di <= 2; di++) {
            const [ni, nj] = [i + di, j + dj];
            const near = ni >= 0 && nj >= 0 && ni < columns && nj < rows ? before[nj * columns + ni]! : NO_GROUND;
            if (!isGround(near)) continue;
            sum += near;
            count++;
          }
        heights[at] = z + (sum / count - z) * Math.min(1, amount) * soft;
      }
    }
} // prettier-ignore

export function heightsAfter(base: Float32Array, grid: LandGrid, shaping: readonly Shaping[]): Float32Array {
  const heights = base.slice();
  for (const stroke of shaping) shape(heights, grid, stroke);
  return heights;
}

/** So many strokes that move ground are kept as such: then they are heights. */
const FOLDED_AT = 16;

/**
 * What strokes have made of the ground, to begin the next ones from, once there are many; those that cover it stay strokes. Undefined:
 * they are few yet.
 */
export function folded(
  base: Float32Array,
  grid: LandGrid,
  shaping: readonly Shaping[],
): { heights: Float32Array; shaping: Shaping[] } | undefined {
  const covers = shaping.filter(({ does }) => does === 'cover');
  if (shaping.length - covers.length < FOLDED_AT) return undefined;
  return { heights: heightsAfter(base, grid, shaping), shaping: covers };
}

/** Height at a place, between the grid's points; undefined: there is no ground. */
export function heightAt(heights: ArrayLike<number>, { x, y, cellM, columns, rows }: LandGrid, [px, py]: Place2): number | undefined {
  const [u, v] = [(px - x) / cellM, (py - y) / cellM];
  const [i, j] = [Math.min(columns - 2, Math.floor(u)), Math.min(rows - 2, Math.floor(v))];
  if (!(u >= 0 && v >= 0 && u <= columns - 1 && v <= rows - 1)) return undefined;
  const [fx, fy] = [u - i, v - j];
  const at = j * columns + i;
  const corners = [heights[at]!, heights[at + 1]!, heights[at + columns]!, heights[at + columns + 1]!];
  if (!corners.every(isGround)) return undefined;
  const [a, b, c, d] = corners as [number, number, number, number];
  // The two triangles of a cell, as the mesh has them.
  return fx + fy <= 1 ? a + (b - a) * fx + (c - a) * fy : d + (c - d) * (1 - fx) + (b - d) * (1 - fy);
}

/** Edges of covers wander by so much, metres. */
const WANDER_M = 0.35;
/** Patches of a meadow beside its grass: where noise of a scale is above a bound. */
const PATCHES: readonly { finish: string; scaleM: number; above: number; seed: number }[] = [
  { finish: 'grass-dry', scaleM: 9, above: 0.3, seed: 21 },
  { finish: 'clover', scaleM: 5, above: 0.36, seed: 22 },
  { finish: 'grass-tall', scaleM: 14, above: 0.34, seed: 23 },
  { finish: 'soil', scaleM: 2.6, above: 0.72, seed: 24 },
];
const MEADOW_GRASS = 'grass';

/** How far each of the grid's points lies within each cover, metres or as noise has it: where none is above zero, `base` lies. */
export interface Covers {
  base: string;
  fields: Map<string, Float32Array>;
}

/** What covers the grid's points: the cover, and over it what was laid by brush, the last on top. */
export function coversOf(grid: LandGrid, cover: string, shaping: readonly Shaping[]): Covers {
  const { x, y, cellM, columns, rows } = grid;
  const fields = new Map<string, Float32Array>();
  const base = cover === MEADOW ? MEADOW_GRASS : cover;
  const field = (finish: string) => {
    let known = fields.get(finish);
    if (!known) fields.set(finish, (known = new Float32Array(columns * rows).fill(-1)));
    return known;
  };
  const paint = (finish: string, at: number, inside: number) => {
    const its = field(finish);
    its[at] = Math.max(its[at]!, inside);
    for (const [other, values] of fields) if (other !== finish) values[at] = Math.min(values[at]!, -inside);
  };
  if (cover === MEADOW)
    for (const { finish, scaleM, above, seed } of PATCHES)
      for (let j = 0; j < rows; j++)
        for (let i = 0; i < columns; i++) {
          const [px, py] = [x + i * cellM, y + j * cellM];
          paint(finish, j * columns + i, planeNoise(px, py, scaleM, seed) * 0.75 + planeNoise(px, py, scaleM / 3.3, seed + 50) * 0.25 - above);
        }
  for (const { does, along, radiusM, finish } of shaping) {
    if (does !== 'cover' || finish === undefined) continue;
    if (finish !== base) field(finish);
    const { left, right, low, high } = reach(grid, along, radiusM + 1);
    for (let j = low; j < high; j++)
      for (let i = left; i < right; i++) {
        const place: Place2 = [x + i * cellM, y + j * cellM];
        const wander = planeNoise(...place, 1.7, 31) * Math.min(WANDER_M, radiusM / 4);
        const inside = Math.max(-1, Math.min(1, radiusM - awayFrom(place, along) + wander));
        if (finish !== base) paint(finish, j * columns + i, inside);
        // The ground's own cover is laid by taking all others away.
        else for (const values of fields.values()) values[j * columns + i] = Math.min(values[j * columns + i]!, -inside);
      }
  }
  return { base, fields };
} // prettier-ignore
