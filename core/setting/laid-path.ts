import type { Mesh } from '../geometry/mesh';
import type { LaidPath } from './land';
import { alongLine, type Place2 } from './scatter';
import { awayFrom } from './terrain';

/** A path or road laid along a line over what lies under it. */

/** Heights are asked for so far apart along the line, and so often across. */
const STEP_M = 0.75;
const ACROSS = 5;
/** It lies so much over the ground, so that no unevenness comes through. */
const RAISED_M = 0.045;
/** Its sides go down. */
const DEPTH_M = 0.5;
const ROUNDS = 3;

/** The line with its corners rounded (Chaikin 1974); its ends stay. */
export function rounded(points: readonly Place2[]): Place2[] {
  let line = [...points];
  for (let round = 0; round < ROUNDS && points.length > 2; round++) {
    const next: Place2[] = [line[0]!];
    for (let i = 1; i < line.length; i++) {
      const [a, b] = [line[i - 1]!, line[i]!];
      const at = (t: number): Place2 => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
      if (i > 1) next.push(at(0.25));
      if (i < line.length - 1) next.push(at(0.75));
    }
    line = [...next, line.at(-1)!];
  }
  return line;
}

interface Station {
  at: Place2;
  /** Unit, to the left of its way. */
  left: Place2;
}

function stationsOf(points: readonly Place2[]): Station[] {
  const line = rounded(points);
  const places = alongLine(line, STEP_M);
  const end = line.at(-1)!;
  if (Math.hypot(places.at(-1)![0] - end[0], places.at(-1)![1] - end[1]) > 0.05) places.push(end);
  return places.map((at, i) => {
    const [a, b] = [places[Math.max(0, i - 1)]!, places[Math.min(places.length - 1, i + 1)]!];
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    return { at, left: [-(b[1] - a[1]) / length, (b[0] - a[0]) / length] };
  });
}

type Laid = Pick<LaidPath, 'points' | 'widthM' | 'kerb' | 'finish'>;

/** Places whose heights a path needs, from left to right, station after station. */
export function placesUnder({ points, widthM }: Laid): Place2[] {
  return stationsOf(points).flatMap(({ at, left }) =>
    Array.from({ length: ACROSS }, (_, k): Place2 => {
      const side = widthM * (0.5 - k / (ACROSS - 1));
      return [at[0] + left[0] * side, at[1] + left[1] * side];
    }),
  );
}

/** Its meshes; `heights`: under the places that it needs, not a number where nothing lies there. */
export function pathMeshes(path: Laid, heights: ArrayLike<number>): { finish: string; mesh: Mesh }[] {
  const stations = stationsOf(path.points);
  const levels = levelsOf(stations.length, heights);
  if (!levels) return [];
  const { widthM, kerb } = path;
  const offsets = Array.from({ length: ACROSS }, (_, k) => widthM * (0.5 - k / (ACROSS - 1)));
  const top = stations.map((_, i) => offsets.map((side, k): [number, number] => [side, levels[i * ACROSS + k]!]));
  // Down at the left, across, down at the right.
  const surface = sweep(stations, top.map((row) => [[row[0]![0], row[0]![1] - DEPTH_M], ...row, [row.at(-1)![0], row.at(-1)![1] - DEPTH_M]]));
  if (!kerb) return [{ finish: path.finish, mesh: surface }];
  const kerbs = [1, -1].map((side) =>
    sweep(stations, top.map((row) => {
      const [inner, z] = row[side > 0 ? 0 : ACROSS - 1]!;
      const [outer, up] = [inner + side * kerb.widthM, z + kerb.heightM];
      const profile: [number, number][] = [[outer, z - DEPTH_M], [outer, up], [inner, up], [inner, z - DEPTH_M]];
      return side > 0 ? profile : profile.reverse();
    })),
  );
  return [{ finish: path.finish, mesh: surface }, { finish: kerb.finish, mesh: joined(kerbs) }];
} // prettier-ignore

/** Heights of the surface, calmed along the way; what has none takes its neighbour's. */
function levelsOf(count: number, heights: ArrayLike<number>): Float64Array | undefined {
  const levels = Float64Array.from(heights);
  const known = levels.findIndex(Number.isFinite);
  if (known < 0) return undefined;
  for (let i = known - 1; i >= 0; i--) levels[i] = levels[i + 1]!;
  for (let i = known; i < levels.length; i++) if (!Number.isFinite(levels[i])) levels[i] = levels[i - 1]!;
  const at = (station: number, k: number) => levels[Math.min(count - 1, Math.max(0, station)) * ACROSS + k]!;
  // Never under the ground that was asked about.
  return levels.map((z, n) => {
    const [station, k] = [Math.floor(n / ACROSS), n % ACROSS];
    const calm = [-2, -1, 0, 1, 2].reduce((sum, d) => sum + at(station + d, k), 0) / 5;
    return Math.max(z, calm) + RAISED_M;
  });
}

/** A profile, aside to the left and height, drawn along stations; seen from where it runs from left to right. Both ends are closed. */
function sweep(stations: readonly Station[], profiles: readonly (readonly (readonly [number, number])[])[]): Mesh {
  const many = profiles[0]!.length;
  const positions = stations.flatMap(({ at, left }, i) => profiles[i]!.flatMap(([side, z]) => [at[0] + left[0] * side, at[1] + left[1] * side, z]));
  const indices: number[] = [];
  for (let i = 1; i < stations.length; i++)
    for (let k = 1; k < many; k++) {
      const [a, b, c, d] = [(i - 1) * many + k - 1, (i - 1) * many + k, i * many + k, i * many + k - 1];
      indices.push(a, b, c, a, c, d);
    }
  const last = (stations.length - 1) * many;
  for (let k = 2; k < many; k++) indices.push(0, k, k - 1, last, last + k - 1, last + k);
  return { positions: new Float32Array(positions), indices: new Uint32Array(indices) };
} // prettier-ignore

function joined(meshes: readonly Mesh[]): Mesh {
  const positions = meshes.flatMap((mesh) => [...mesh.positions]);
  let before = 0;
  const indices = meshes.flatMap((mesh) => {
    const from = before;
    before += mesh.positions.length / 3;
    return Array.from(mesh.indices, (index) => index + from);
  });
  return { positions: new Float32Array(positions), indices: new Uint32Array(indices) };
}

/** Whether a place lies on a path or its kerb. */
export const isOnPath = (place: Place2, { points, widthM, kerb }: Laid): boolean =>
  awayFrom(place, rounded(points)) <= widthM / 2 + (kerb?.widthM ?? 0) + 0.1;
