import Delaunator from 'delaunator';
import { MOST_SIDE, NO_GROUND, type LandGrid } from './land';

/** The heights a terrain begins with: of surfaces, of points and contour lines, or level. */

export interface LandBase {
  grid: LandGrid;
  /** Row by row from the least y. */
  heights: Float32Array;
  /** It was made of lines and points, not of surfaces. */
  ofLines?: true;
}

/** Cells are no smaller than this, metres. */
const LEAST_CELL_M = 0.25;
/** Of its outline's box, that faces must cover to count as a surface; what covers less is lines. */
const COVERED = 0.1;
/** Steeper faces are walls, not ground. */
const LEAST_UP = 0.2;
/** More points than the grid could show are thinned evenly; what lies further off is no place on earth. */
const MOST_POINTS = 300_000;
const FURTHEST_M = 1e8;

/** A grid over a rectangle, as fine as it may be. */
export function gridOver(x0: number, y0: number, x1: number, y1: number): LandGrid {
  const [width, depth] = [Math.max(1, x1 - x0), Math.max(1, y1 - y0)];
  const cellM = Math.max(LEAST_CELL_M, Math.max(width, depth) / (MOST_SIDE - 2));
  return { x: x0, y: y0, cellM, columns: Math.ceil(width / cellM) + 1, rows: Math.ceil(depth / cellM) + 1 };
}

export function levelBase(x0: number, y0: number, x1: number, y1: number, z: number): LandBase {
  const grid = gridOver(x0, y0, x1, y1);
  return { grid, heights: new Float32Array(grid.columns * grid.rows).fill(z) };
}

/**
 * From triangles: x, y, z of three corners each, one after the other. Surfaces give their topmost height; where there are hardly any
 * faces seen from above, as with bands of contour lines, their corners are points. Undefined: too few of either.
 */
export function baseOf(triangles: ArrayLike<number>): LandBase | undefined {
  const bounds = boundsOf(triangles);
  if (!bounds) return undefined;
  const { x0, y0, x1, y1 } = bounds;
  let area = 0;
  for (let t = 0; t + 8 < triangles.length; t += 9) area += Math.max(0, upwardArea(triangles, t));
  if (area < COVERED * (x1 - x0) * (y1 - y0)) return baseOfPoints(triangles);
  const grid = gridOver(x0, y0, x1, y1);
  const heights = new Float32Array(grid.columns * grid.rows).fill(NO_GROUND);
  for (let t = 0; t + 8 < triangles.length; t += 9) if (upwardArea(triangles, t) > 0) raster(triangles, t, grid, heights);
  return { grid, heights };
}

/** From points, x, y, z one after the other: the surface of their Delaunay triangles; where several lie at one place, the highest. */
export function baseOfPoints(points: ArrayLike<number>): LandBase | undefined {
  const highest = new Map<string, [number, number, number]>();
  const stride = 3 * Math.max(1, Math.ceil(points.length / 3 / MOST_POINTS));
  for (let i = 0; i + 2 < points.length; i += stride) {
    const point: [number, number, number] = [points[i]!, points[i + 1]!, points[i + 2]!];
    if (!point.every((v) => Math.abs(v) <= FURTHEST_M)) continue;
    const key = `${point[0].toFixed(3)} ${point[1].toFixed(3)}`;
    const other = highest.get(key);
    if (!other || other[2] < point[2]) highest.set(key, point);
  }
  const all = [...highest.values()];
  const bounds = all.length >= 3 ? boundsOf(all.flat()) : undefined;
  if (!bounds) return undefined;
  const { triangles } = Delaunator.from(all);
  if (triangles.length === 0) return undefined;
  const grid = gridOver(bounds.x0, bounds.y0, bounds.x1, bounds.y1);
  const heights = new Float32Array(grid.columns * grid.rows).fill(NO_GROUND);
  const corners = new Float64Array(9);
  for (let t = 0; t < triangles.length; t += 3) {
    for (let k = 0; k < 3; k++) corners.set(all[triangles[t + k]!]!, k * 3);
    raster(corners, 0, grid, heights);
  }
  return { grid, heights, ofLines: true };
}

function boundsOf(points: ArrayLike<number>): { x0: number; y0: number; x1: number; y1: number } | undefined {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i + 2 < points.length; i += 3) {
    [x0, x1] = [Math.min(x0, points[i]!), Math.max(x1, points[i]!)];
    [y0, y1] = [Math.min(y0, points[i + 1]!), Math.max(y1, points[i + 1]!)];
  }
  return x1 > x0 && y1 > y0 && [x0, y0, x1, y1].every(Number.isFinite) ? { x0, y0, x1, y1 } : undefined;
}

/** Of a triangle as seen from above, m2; 0 where it looks down or is steep. */
function upwardArea(p: ArrayLike<number>, t: number): number {
  const [ux, uy, uz] = [p[t + 3]! - p[t]!, p[t + 4]! - p[t + 1]!, p[t + 5]! - p[t + 2]!];
  const [vx, vy, vz] = [p[t + 6]! - p[t]!, p[t + 7]! - p[t + 1]!, p[t + 8]! - p[t + 2]!];
  const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  const length = Math.hypot(nx, ny, nz);
  return length > 0 && nz / length > LEAST_UP ? nz / 2 : 0;
}

/** Gives the grid's points under a triangle its height, where that is above what is there. */
function raster(p: ArrayLike<number>, t: number, { x, y, cellM, columns, rows }: LandGrid, heights: Float32Array): void {
  const [ax, ay, az, bx, by, bz, cx, cy, cz] = Array.from({ length: 9 }, (_, k) => p[t + k]!) as [number, number, number, number, number, number, number, number, number];
  const twice = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
  if (twice === 0) return;
  const first = (least: number, from: number) => Math.max(0, Math.ceil((least - from) / cellM - 1e-6));
  const last = (most: number, from: number, count: number) => Math.min(count - 1, Math.floor((most - from) / cellM + 1e-6));
  for (let j = first(Math.min(ay, by, cy), y); j <= last(Math.max(ay, by, cy), y, rows); j++)
    for (let i = first(Math.min(ax, bx, cx), x); i <= last(Math.max(ax, bx, cx), x, columns); i++) {
      const [px, py] = [x + i * cellM, y + j * cellM];
      const u = ((by - cy) * (px - cx) + (cx - bx) * (py - cy)) / twice;
      const v = ((cy - ay) * (px - cx) + (ax - cx) * (py - cy)) / twice;
      const w = 1 - u - v;
      if (u < -1e-6 || v < -1e-6 || w < -1e-6) continue;
      const at = j * columns + i;
      heights[at] = Math.max(heights[at]!, u * az + v * bz + w * cz);
    }
} // prettier-ignore

const NUMBERS = /[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?/gi;

/** Points of a text: a line each with x, y and z, parted by spaces, tabs, commas or semicolons; other lines are left out. */
export function pointsOf(text: string): number[] {
  return text.split(/\r?\n/).flatMap((line) => {
    const numbers = /^[\s\d.,;:+\-e]*$/i.test(line) ? (line.match(NUMBERS) ?? []).map(Number) : [];
    // A number before them is that of the point.
    const point = numbers.length === 4 && Number.isInteger(numbers[0]) ? numbers.slice(1) : numbers.slice(0, 3);
    return point.length === 3 && point.every(Number.isFinite) ? point : [];
  });
}
