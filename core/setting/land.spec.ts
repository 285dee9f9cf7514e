import { describe, expect, it } from 'vitest';
import { prepareMesh } from '../geometry/prepare-mesh';
import type { Mesh } from '../geometry/mesh';
import { random } from '../random';
import { isOnPath, pathMeshes, placesUnder, rounded } from './laid-path';
import { MEADOW, type LandGrid, type Shaping } from './land';
import { baseOf, baseOfPoints, gridOver, levelBase, pointsOf } from './land-base';
import { coversOf, folded, heightAt, heightsAfter } from './terrain';
import { terrainMeshes } from './terrain-mesh';
import { sheetMesh } from './water-sheet';

const grid: LandGrid = { x: -10, y: -10, cellM: 0.5, columns: 41, rows: 41 };
const level = () => new Float32Array(41 * 41).fill(2);
const stroke = (does: Shaping['does'], amount: number, more: Partial<Shaping> = {}): Shaping => ({
  does,
  along: [[0, 0]],
  radiusM: 4,
  amount,
  ...more,
});
const at = (heights: Float32Array, x: number, y: number, on = grid) => heightAt(heights, on, [x, y])!;
/** Seen from above, m2; what looks down counts as less. */
const areaOf = ({ positions: p, indices }: Mesh) => {
  let area = 0;
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [indices[t]! * 3, indices[t + 1]! * 3, indices[t + 2]! * 3];
    area += ((p[b]! - p[a]!) * (p[c + 1]! - p[a + 1]!) - (p[b + 1]! - p[a + 1]!) * (p[c]! - p[a]!)) / 2;
  }
  return area;
}; // prettier-ignore

describe('the brush', () => {
  it('raises, lowers and flattens within its reach, wholly in the middle', () => {
    const raised = heightsAfter(level(), grid, [stroke('raise', 1.5)]);
    expect([at(raised, 0, 0), at(raised, 4, 0), at(raised, 5, 5)]).toEqual([3.5, 2, 2]);
    expect(at(raised, 2, 0)).toBeCloseTo(2.75, 6);
    expect(at(heightsAfter(level(), grid, [stroke('lower', 1)]), 0, 0)).toBe(1);
    const flat = heightsAfter(raised, grid, [stroke('flatten', 2.4)]);
    for (const x of [0, 1, 2, 2.5]) expect(at(flat, x, 0)).toBeCloseTo(2.4, 5);
    expect(at(flat, 4, 0)).toBe(2);
  });

  it('follows the way that it was drawn', () => {
    const raised = heightsAfter(level(), grid, [stroke('raise', 1, { along: [[-6, 0], [6, 0]], radiusM: 2 })]); // prettier-ignore
    for (const x of [-6, -3, 0.25, 6]) expect(at(raised, x, 0)).toBeCloseTo(3, 5);
    expect(at(raised, 0, 3)).toBe(2);
  });

  it('roughens alike each time, and smooths what is rough', () => {
    const rough = heightsAfter(level(), grid, [stroke('roughen', 0.6)]);
    expect(rough).toEqual(heightsAfter(level(), grid, [stroke('roughen', 0.6)]));
    const unevenness = (heights: Float32Array) => {
      let sum = 0;
      for (let i = 1; i < 41; i++) sum += Math.abs(heights[20 * 41 + i]! - heights[20 * 41 + i - 1]!);
      return sum;
    };
    expect(unevenness(rough)).toBeGreaterThan(0.3);
    expect(Math.max(...rough.map((z) => Math.abs(z - 2)))).toBeLessThanOrEqual(0.6);
    const smooth = heightsAfter(
      rough,
      grid,
      Array.from({ length: 4 }, () => stroke('smooth', 1, { radiusM: 8 })),
    );
    expect(unevenness(smooth)).toBeLessThan(unevenness(rough) / 2);
  });
});

describe('ground is made of', () => {
  it('surfaces, at the height of their faces, without walls and undersides', () => {
    // A slope of one in ten, with a slab over a corner of it and its underside.
    const slope = [0, 0, 0, 20, 0, 2, 20, 20, 2, 0, 0, 0, 20, 20, 2, 0, 20, 0];
    const slab = [12, 12, 4, 16, 12, 4, 16, 16, 4, 12, 12, 3, 16, 16, 3, 16, 12, 3];
    const { grid: of, heights } = baseOf([...slope, ...slab])!;
    expect(at(heights, 10, 5, of)).toBeCloseTo(1, 5);
    expect(at(heights, 15, 13, of)).toBeCloseTo(4, 5);
  });

  it('contour lines drawn as narrow bands', () => {
    const band = (x: number, z: number) => [x, 0, z, x + 0.04, 0, z, x + 0.04, 30, z, x, 0, z, x + 0.04, 30, z, x, 30, z];
    const { grid: of, heights } = baseOf([0, 10, 20, 30].flatMap((x) => band(x, x / 5)))!;
    expect(at(heights, 15, 15, of)).toBeCloseTo(3, 1);
    expect(at(heights, 27, 5, of)).toBeCloseTo(5.4, 1);
  });

  it('points of a text, as a plane that they lie in', () => {
    const next = random(5);
    const plane = (x: number, y: number) => 3 + 0.1 * x - 0.05 * y;
    const lines = Array.from({ length: 400 }, (_, i) => {
      const [x, y] = [next() * 50, next() * 40];
      return `${String(i)}; ${x.toFixed(4)}; ${y.toFixed(4)}; ${plane(x, y).toFixed(5)}`;
    });
    const points = pointsOf(`name; x; y; z\n${lines.join('\n')}\nno point\n`);
    expect(points.length).toBe(1200);
    const { grid: of, heights } = baseOfPoints(points)!;
    for (const [x, y] of [[25, 20], [10, 30], [40, 8]] as const) expect(at(heights, x, y, of)).toBeCloseTo(plane(x, y), 3); // prettier-ignore
    expect(pointsOf('1.5 2 3\n-4,5,6\n7e2\t8\t9')).toEqual([1.5, 2, 3, -4, 5, 6, 700, 8, 9]);
  });

  it('nothing where there is too little', () => {
    expect([baseOf([]), baseOfPoints([0, 0, 1, 1, 1, 2]), baseOfPoints([0, 0, 0, 1, 1, 0, 2, 2, 0])]).toEqual([
      undefined,
      undefined,
      undefined,
    ]);
  });
});

describe('three thousand strokes', () => {
  it('are all there: many become the heights that the next ones begin from, and none is forgotten', () => {
    const next = random(11);
    const any = (i: number) =>
      stroke(i % 5 === 0 ? 'smooth' : 'raise', next() - 0.5, { along: [[next() * 20 - 10, next() * 20 - 10]], radiusM: 2 });
    let base: Float32Array = level();
    let shaping: Shaping[] = [];
    const all: Shaping[] = [stroke('cover', 0, { finish: 'gravel', radiusM: 3 })];
    shaping.push(...all);
    for (let i = 0; i < 3000; i++) {
      const one = any(i);
      all.push(one);
      shaping.push(one);
      const fold = folded(base, grid, shaping);
      if (fold) [base, shaping] = [fold.heights, fold.shaping];
      expect(shaping.length).toBeLessThanOrEqual(16);
    }
    expect(heightsAfter(base, grid, shaping)).toEqual(heightsAfter(level(), grid, all));
    expect(shaping[0]).toMatchObject({ does: 'cover', finish: 'gravel' });
  });
});

describe('its meshes', () => {
  it('cover all of it once, by what each place is covered with', () => {
    const shaping = [
      stroke('cover', 0, { finish: 'gravel', radiusM: 3 }),
      stroke('cover', 0, { finish: 'soil', along: [[3, 0]], radiusM: 2 }),
    ];
    const meshes = terrainMeshes(level(), grid, coversOf(grid, 'grass', shaping));
    expect(meshes.map(({ finish }) => finish).sort()).toEqual(['grass', 'gravel', 'soil']);
    expect(meshes.reduce((sum, { mesh }) => sum + areaOf(mesh), 0)).toBeCloseTo(400, 2);
    // A disc of three metres without what soil lies on; edges wander by a third of a metre.
    const gravel = areaOf(meshes.find(({ finish }) => finish === 'gravel')!.mesh);
    expect(gravel).toBeGreaterThan(14);
    expect(gravel).toBeLessThan(32);
    const soil = areaOf(meshes.find(({ finish }) => finish === 'soil')!.mesh);
    expect(Math.abs(soil / (Math.PI * 4) - 1)).toBeLessThan(0.35);
  });

  it('a meadow has patches of several kinds, grass the most', () => {
    const wide = gridOver(0, 0, 100, 100);
    const { heights } = levelBase(0, 0, 100, 100, 0);
    const areas = new Map(terrainMeshes(heights, wide, coversOf(wide, MEADOW, [])).map(({ finish, mesh }) => [finish, areaOf(mesh)]));
    expect([...areas.keys()].sort()).toEqual(['clover', 'grass', 'grass-dry', 'grass-tall', 'soil']);
    expect(areas.get('grass')! / 10_000).toBeGreaterThan(0.4);
    for (const finish of ['clover', 'grass-dry', 'grass-tall']) expect(areas.get(finish)! / 10_000).toBeGreaterThan(0.03);
    expect(areas.get('soil')! / 10_000).toBeLessThan(0.05);
  });

  it('a path is as wide as told, over the ground, with kerbs at its sides', () => {
    const path = { points: [[0, 0], [20, 0]] as [number, number][], widthM: 3, finish: 'asphalt', kerb: { widthM: 0.15, heightM: 0.12, finish: 'setts' } }; // prettier-ignore
    const ground = ([x, y]: readonly [number, number]) => 1 + x * 0.02 + Math.sin(y) * 0.01;
    const meshes = pathMeshes(path, placesUnder(path).map(ground)); // prettier-ignore
    expect(areaOf(meshes[0]!.mesh)).toBeCloseTo(60, 2);
    expect(areaOf(meshes[1]!.mesh)).toBeCloseTo(2 * 20 * 0.15, 2);
    const { positions } = meshes[0]!.mesh;
    for (let i = 0; i < positions.length; i += 3) {
      const over = positions[i + 2]! - ground([positions[i]!, positions[i + 1]!]);
      expect(over > 0 ? over < 0.12 : over > -0.5).toBe(true);
    }
    expect(Math.max(...meshes[1]!.mesh.positions.filter((_, i) => i % 3 === 2))).toBeGreaterThan(1.4 + 0.12);
    expect([isOnPath([10, 1.6], path), isOnPath([10, 2], path)]).toEqual([true, false]);
    // Its sides close: no edge is open but where solids meet the ground.
    expect(prepareMesh(meshes[0]!.mesh).positions.length).toBeGreaterThan(0);
  });

  it('rounds the corners of its line, and keeps its ends', () => {
    const line = rounded([[0, 0], [10, 0], [10, 10]]); // prettier-ignore
    expect([line[0], line.at(-1)]).toEqual([
      [0, 0],
      [10, 10],
    ]);
    expect(Math.min(...line.map(([x, y]) => Math.hypot(x - 10, y)))).toBeGreaterThan(1);
  });

  it('water lies level within its outline, whichever way that runs', () => {
    const outline = [[0, 0], [4, 0], [4, 3], [2, 1], [0, 3]] as [number, number][]; // prettier-ignore
    for (const way of [outline, outline.toReversed()]) expect(areaOf(sheetMesh(way, 0.4)!)).toBeCloseTo(8, 5);
    expect(sheetMesh([[0, 0], [1, 1], [2, 2]], 0)).toBeUndefined(); // prettier-ignore
  });
});
