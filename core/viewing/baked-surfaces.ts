import type { Finish } from '../finish/finish';
import { meanScale, transformNormal, invert, transformPoint, determinant, type Mat4 } from '../geometry/mat4';
import { meshBounds } from '../geometry/mesh';
import { prepareMesh, type PreparedMesh } from '../geometry/prepare-mesh';
import { MeshBuilder } from '../geometry/shapes';
import { normalise, type Vec3 } from '../geometry/vec3';
import { inRepeats } from '../finish/repeats';
import { isPlantingClass } from '../setting/setting-model';
import type { SceneAssets } from '../scene/rendered-scene';
import type { SceneInstance } from '../scene/scene';
import { subdivide, type GrowingMesh } from './subdivide';
import type { SurfaceExtras } from './viewing';

/** What a viewer draws: surfaces of one finish together, fine enough to hold light at their corners; and plants, many of one shape. */

export interface BakedSurface {
  finish: Finish;
  extras: SurfaceExtras;
  mesh: GrowingMesh;
  /** Corners whose light is that of a cube about them: the first of its six points, for each corner; -1: each has its own. */
  cubes: number[];
}
export interface Planted {
  finish: Finish;
  mesh: PreparedMesh;
  extras: SurfaceExtras;
  transforms: Mat4[];
}
export interface BakedModel {
  surfaces: BakedSurface[];
  planted: Planted[];
  /** Places and normals that light is asked for, f32x6, surface by surface, then the cubes' points. */
  points: Float32Array<ArrayBuffer>;
  /** Of each surface, where its corners' points begin. */
  firstPoint: number[];
  firstCube: number;
  /** What was left out to keep the file small, in words. */
  leftOut: string[];
}

/** On what is so large at most, edges are no longer than this, metres. */
const EDGES = [[30, 0.7], [150, 2.5], [600, 12], [Infinity, 300]] as const; // prettier-ignore
const CELL_M = 10;
/** Shapes with more corners for their size are lit by a cube about them. */
const DENSE_CORNERS = 700;
const SMALL_M = 4;
/** Triangles of plants that a laptop draws well. */
const MOST_PLANTED = 900_000;
const MOST_CORNERS = 700_000;
/** Beyond them the smaller parts are boxes. */
const MOST_BOXES = 120_000;
/** Off the surface, and off its edges, metres: corners often stand in a neighbouring wall. */
const LIFT_M = 0.012;
const INSET_M = 0.06;

const LETS_THROUGH = /door|planting/i;

/**
 * Gathers what all looks show, in each state of what views show. Each scene is of the same models, so that an element's part is
 * known by its names.
 */
export function bakedModel(states: readonly (readonly (readonly SceneInstance[])[])[], assets: Pick<SceneAssets, 'mesh'>): BakedModel {
  const parts = new Map<string, Part>();
  for (const [state, looks] of states.entries())
    for (const [look, instances] of looks.entries())
      for (const instance of instances) {
        const key = `${instance.source}|${instance.element}|${String(instance.part)}|${instance.mesh}|${instance.finish.id}`;
        const part = parts.get(key) ?? { instance, shown: states.map(() => 0), scales: looks.map(() => 0) };
        part.shown[state]! |= 1 << look;
        part.scales[look] = instance.emissionScale;
        parts.set(key, part);
      }
  const surfaces = new Map<string, BakedSurface>();
  const planted = new Map<string, Planted>();
  const cubePoints: number[] = [];
  const leftOut: string[] = [];
  const box = boxes();
  let corners = 0;
  let boxed = 0;
  let dropped = 0;
  for (const { instance, shown, scales, mesh } of largestFirst([...parts.values()], assets)) {
    const { finish } = instance;
    const extras = extrasOf(instance, shown, scales);
    if (isPlantingClass(instance.class)) {
      const key = `${instance.mesh}|${finish.id}|${shown.join()}`;
      const kind = planted.get(key) ?? { finish, mesh, extras, transforms: [] };
      kind.transforms.push(instance.transform);
      planted.set(key, kind);
      continue;
    }
    const isBox = corners > MOST_CORNERS;
    if (isBox && boxed >= MOST_BOXES) {
      dropped++;
      continue;
    }
    const key = JSON.stringify([finish.id, finish, extras, cellOf(instance, mesh)]);
    let surface = surfaces.get(key);
    if (!surface) surfaces.set(key, (surface = { finish, extras, mesh: { positions: [], normals: [], uvs: [], indices: [] }, cubes: [] }));
    if (isBox) {
      addPlaced(surface, instance, box(instance.mesh, mesh), cubePoints, true);
      boxed++;
      continue;
    }
    const before = surface.mesh.positions.length / 3;
    addPlaced(surface, instance, mesh, cubePoints);
    corners += surface.mesh.positions.length / 3 - before;
  }
  if (boxed > 0) leftOut.push(`the shapes of the ${String(boxed)} smallest parts, which are boxes`);
  if (dropped > 0) leftOut.push(`${String(dropped)} parts, beyond ${String(MOST_BOXES)} of them`);
  const kept = fewest([...planted.values()], leftOut);
  const list = [...surfaces.values()];
  const total = list.reduce((sum, { mesh }) => sum + mesh.positions.length / 3, 0);
  const points = new Float32Array(total * 6 + cubePoints.length);
  const firstPoint: number[] = [];
  let at = 0;
  for (const surface of list) {
    firstPoint.push(at);
    lightPoints(surface.mesh, points, at);
    at += surface.mesh.positions.length / 3;
  }
  points.set(cubePoints, at * 6);
  return { surfaces: list, planted: kept, points, firstPoint, firstCube: at, leftOut };
}

interface Part {
  instance: SceneInstance;
  shown: number[];
  scales: number[];
}

function largestFirst(parts: readonly Part[], assets: Pick<SceneAssets, 'mesh'>): (Part & { mesh: PreparedMesh })[] {
  const sizes = new Map<string, number>();
  const sized = parts.flatMap((part) => {
    const { mesh: key, transform } = part.instance;
    const mesh = assets.mesh(key);
    if (!mesh || mesh.indices.length === 0) return [];
    let size = sizes.get(key);
    if (size === undefined) {
      const { min, max } = meshBounds(mesh.positions);
      sizes.set(key, (size = Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2])));
    }
    return [{ ...part, mesh, size: size * meanScale(transform) }];
  });
  return sized.sort((a, b) => b.size - a.size);
}

/** The box about a mesh, made once for each. */
function boxes(): (key: string, mesh: PreparedMesh) => PreparedMesh {
  const made = new Map<string, PreparedMesh>();
  return (key, { positions }) => {
    let mesh = made.get(key);
    if (!mesh) {
      const { min, max } = meshBounds(positions);
      made.set(key, (mesh = prepareMesh(new MeshBuilder().box(min, max).build())));
    }
    return mesh;
  };
}

/** What lies near each other is drawn together, so that what is out of sight or hidden is left out. */
function cellOf({ transform }: SceneInstance, { positions }: PreparedMesh): string {
  const { min, max } = meshBounds(positions);
  const size = Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) * meanScale(transform);
  if (size > 2 * CELL_M) return '';
  const middle = transformPoint(transform, [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2]);
  return middle.map((v) => Math.floor(v / CELL_M)).join();
}

function extrasOf({ class: its = '', finish, lens }: SceneInstance, shown: number[], scales: readonly number[]): SurfaceExtras {
  const kind = isPlantingClass(its) ? 'planting' : finish.family === 'water' ? 'water' : LETS_THROUGH.test(its) || lens ? 'open' : 'solid';
  const emission = finish.emissionCdM2 > 0 ? { colour: [0, 0, 0], scales: [...scales] } : undefined;
  return { shown, kind, clear: finish.transmission > 0 || (finish.opacity < 1 && !finish.cutOut), ...(emission && { emission }) };
}

/** Nearest to fewest triangles first: many small plants before a few dense ones; the rest is named. */
function fewest(kinds: Planted[], leftOut: string[]): Planted[] {
  const trianglesOf = ({ mesh, transforms }: Planted) => (mesh.indices.length / 3) * transforms.length;
  let left = MOST_PLANTED;
  return [...kinds]
    .sort((a, b) => trianglesOf(a) - trianglesOf(b))
    .flatMap((kind) => {
      const each = kind.mesh.indices.length / 3;
      const count = Math.min(kind.transforms.length, Math.floor(left / each));
      left -= count * each;
      if (count < kind.transforms.length) leftOut.push(`${String(kind.transforms.length - count)} of ${kind.finish.name}`);
      return count === 0 ? [] : [{ ...kind, transforms: kind.transforms.slice(0, count) }];
    });
}

/** One part in the project's metres, its coordinates in repeats of its maps. */
function addPlaced({ finish, mesh: to, cubes }: BakedSurface, { transform, variation }: SceneInstance, mesh: PreparedMesh, cubePoints: number[], isBox = false): void {
  const count = mesh.positions.length / 3;
  const part: GrowingMesh = { positions: [], normals: [], uvs: [...inRepeats(mesh.uvs, finish, variation, meanScale(transform))], indices: [...mesh.indices] };
  const mirrored = determinant(transform) < 0;
  const inverse = invert(transform) ?? transform;
  if (mirrored) for (let t = 0; t < part.indices.length; t += 3) [part.indices[t], part.indices[t + 1]] = [part.indices[t + 1]!, part.indices[t]!];
  const [low, high] = [[Infinity, Infinity, Infinity], [-Infinity, -Infinity, -Infinity]];
  for (let i = 0; i < count; i++) {
    const p = transformPoint(transform, [mesh.positions[i * 3]!, mesh.positions[i * 3 + 1]!, mesh.positions[i * 3 + 2]!]);
    const n = normalise(transformNormal(inverse, [mesh.normals[i * 3]!, mesh.normals[i * 3 + 1]!, mesh.normals[i * 3 + 2]!]));
    part.positions.push(...p);
    part.normals.push(...n);
    for (let k = 0; k < 3; k++) [low[k], high[k]] = [Math.min(low[k]!, p[k]!), Math.max(high[k]!, p[k]!)];
  }
  const size = Math.hypot(high[0]! - low[0]!, high[1]! - low[1]!, high[2]! - low[2]!);
  const dense = isBox || (count > DENSE_CORNERS && size < SMALL_M);
  if (!dense) subdivide(part, EDGES.find(([most]) => size <= most)![1]);
  const first = to.positions.length / 3;
  const cube = dense ? cubePoints.length / 6 : -1;
  if (dense) cubePoints.push(...cubeAbout(low as unknown as Vec3, high as unknown as Vec3));
  for (const value of part.positions) to.positions.push(value);
  for (const value of part.normals) to.normals.push(value);
  for (const value of part.uvs) to.uvs.push(value);
  for (const i of part.indices) to.indices.push(first + i);
  for (let i = first; i < to.positions.length / 3; i++) cubes.push(cube);
} // prettier-ignore

/** The middles of a box's six sides, a little outside, looking out: +x -x +y -y +z -z. */
function cubeAbout(low: Vec3, high: Vec3): number[] {
  const middle = low.map((v, k) => (v + high[k]!) / 2);
  return [0, 1, 2].flatMap((axis) =>
    [1, -1].flatMap((side) => {
      const place = [...middle];
      place[axis] = side > 0 ? high[axis]! + LIFT_M : low[axis]! - LIFT_M;
      return [...place, ...[0, 1, 2].map((k) => (k === axis ? side : 0))];
    }),
  );
}

/** Each corner's own, drawn a little towards the middles of the faces that it belongs to. */
function lightPoints({ positions, normals, indices }: GrowingMesh, out: Float32Array, first: number): void {
  const count = positions.length / 3;
  const [towards, weights] = [new Float64Array(count * 3), new Float64Array(count)];
  for (let t = 0; t < indices.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const at = indices[t + k]!;
      weights[at]!++;
      for (let c = 0; c < 3; c++)
        towards[at * 3 + c]! += (positions[indices[t]! * 3 + c]! + positions[indices[t + 1]! * 3 + c]! + positions[indices[t + 2]! * 3 + c]!) / 3;
    }
  for (let i = 0; i < count; i++) {
    const away = [0, 1, 2].map((c) => (weights[i]! > 0 ? towards[i * 3 + c]! / weights[i]! - positions[i * 3 + c]! : 0));
    const length = Math.hypot(...away);
    const share = length > 0 ? Math.min(0.3, INSET_M / length) : 0;
    for (let c = 0; c < 3; c++) {
      out[(first + i) * 6 + c] = positions[i * 3 + c]! + away[c]! * share + normals[i * 3 + c]! * LIFT_M;
      out[(first + i) * 6 + 3 + c] = normals[i * 3 + c]!;
    }
  }
} // prettier-ignore

/** Light of a corner that a cube tells, by where it faces; three values from each of six. */
export function cubeLight(light: Float32Array, cube: number, n: readonly number[], channel: number): number {
  let sum = 0;
  for (let axis = 0; axis < 3; axis++) {
    const side = n[axis]! >= 0 ? 0 : 1;
    sum += n[axis]! ** 2 * light[(cube + axis * 2 + side) * 3 + channel]!;
  }
  return sum;
}
