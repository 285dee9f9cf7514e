import { describe, expect, it } from 'vitest';
import { IDENTITY, type Mat4 } from '../geometry/mat4';
import { prepareMesh } from '../geometry/prepare-mesh';
import { MeshBuilder } from '../geometry/shapes';
import { box, matt, quad, testScene, uniformSky } from '../kernel/testing';
import type { SceneInstance } from '../scene/scene';
import { bakedModel, cubeLight } from './baked-surfaces';
import { smoothLight } from './smooth-light';
import { subdivide, type GrowingMesh } from './subdivide';
import { codeLight, decodeLight, isShownIn } from './viewing';

function growing(positions: number[], indices: number[]): GrowingMesh {
  const corners = positions.length / 3;
  return { positions: [...positions], indices: [...indices], normals: Array.from({ length: corners }, () => [0, 0, 1]).flat(), uvs: positions.flatMap((v, i) => (i % 3 === 2 ? [] : [v])) }; // prettier-ignore
}
const at = ({ positions }: GrowingMesh, i: number) => [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!] as const;

describe('surfaces that hold light', () => {
  it('have no long edge, the same area, and no gap where they meet', () => {
    const mesh = growing([0, 0, 0, 7, 0, 0, 7, 3, 0, 0, 3, 0], [0, 1, 2, 0, 2, 3]);
    subdivide(mesh, 0.7);
    let area = 0;
    const edges = new Map<string, number>();
    for (let t = 0; t < mesh.indices.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => at(mesh, mesh.indices[t + k]!)) as unknown as [readonly number[], readonly number[], readonly number[]];
      area += ((b[0]! - a[0]!) * (c[1]! - a[1]!) - (b[1]! - a[1]!) * (c[0]! - a[0]!)) / 2;
      for (const [p, q] of [[a, b], [b, c], [c, a]] as const) {
        expect(Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)).toBeLessThanOrEqual(0.7);
        const key = [p, q].map((end) => end.map((v) => v.toFixed(5)).join()).sort().join('|');
        edges.set(key, (edges.get(key) ?? 0) + 1);
      } // prettier-ignore
    }
    expect(area).toBeCloseTo(21, 9);
    // Every edge belongs to two triangles but for those of the rim.
    const rim = [...edges].filter(([, count]) => count === 1).length;
    expect([...edges.values()].every((count) => count <= 2)).toBe(true);
    expect(rim * 0.7).toBeGreaterThanOrEqual(20);
    // Coordinates run on evenly.
    for (let i = 0; i < mesh.uvs.length; i += 2) expect([mesh.uvs[i], mesh.uvs[i + 1]]).toEqual([mesh.positions[(i / 2) * 3], mesh.positions[(i / 2) * 3 + 1]]);
  }); // prettier-ignore

  it('are gathered by finish and by the looks that show them, with a point of light for each corner, off the surface', () => {
    const floor = prepareMesh(quad([-2, -2, 0], [2, -2, 0], [2, 2, 0], [-2, 2, 0]));
    const part = (element: string, finish = matt(0.5)): SceneInstance => ({ source: 's', element, part: 0, material: 'm', mesh: 'floor', transform: IDENTITY, finish, emissionScale: 1, lens: false }); // prettier-ignore
    const oak = matt(0.5);
    const both = [part('a', oak), part('b', oak)];
    // A second state, of a view that hides one of the two.
    const model = bakedModel(
      [
        [both, [both[0]!]],
        [[both[1]!], []],
      ],
      { mesh: () => floor },
    );
    expect(model.surfaces.map(({ extras }) => extras.shown)).toEqual([
      [0b11, 0],
      [0b01, 0b01],
    ]);
    const [first, second] = model.surfaces.map(
      ({ extras }) =>
        (look: number, state: number) =>
          isShownIn(extras, look, state),
    ) as [(l: number, s: number) => boolean, (l: number, s: number) => boolean];
    expect([first(0, 0), first(1, 0), first(0, 1), second(0, 0), second(1, 0), second(0, 1), second(0, 7)]).toEqual([true, true, false, true, false, true, true]); // prettier-ignore
    expect(model.points.length / 6).toBe(model.surfaces.reduce((sum, { mesh }) => sum + mesh.positions.length / 3, 0));
    for (let i = 0; i < model.points.length; i += 6) expect(model.points[i + 2]).toBeCloseTo(0.012, 5);
  });

  it('keep their normals square to their faces under uneven scale', () => {
    // A roof at 45 degrees, stretched four times along x.
    const roof = prepareMesh(quad([0, 0, 0], [1, 0, 1], [1, 1, 1], [0, 1, 0]));
    const transform: Mat4 = [4, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
    const part: SceneInstance = { source: 's', element: 'e', part: 0, material: 'm', mesh: 'roof', transform, finish: matt(0.5), emissionScale: 1, lens: false }; // prettier-ignore
    const { normals } = bakedModel([[[part]]], { mesh: () => roof }).surfaces[0]!.mesh;
    [-1 / Math.sqrt(17), 0, 4 / Math.sqrt(17)].forEach((n, c) => { expect(Math.abs(normals[c]!)).toBeCloseTo(Math.abs(n), 5); }); // prettier-ignore
  });

  it('of too many parts are boxes for the smallest, which take as much room', () => {
    const fine = prepareMesh(new MeshBuilder().tube([[0, 0, 0], [0, 0, 2]], 0.1, 400).build()); // prettier-ignore
    const oak = matt(0.5);
    const scaled = (by: number, x: number): Mat4 => [by, 0, 0, 0, 0, by, 0, 0, 0, 0, by, 0, x, 0, 0, 1];
    const part = (i: number): SceneInstance => ({ source: 's', element: String(i), part: 0, material: 'm', mesh: 'tube', transform: scaled(i === 0 ? 3 : 1, i), finish: oak, emissionScale: 1, lens: false }); // prettier-ignore
    const parts = Array.from({ length: 1000 }, (_, i) => part(999 - i));
    const model = bakedModel([[parts]], { mesh: () => fine });
    const boxed = Number(/the shapes of the (\d+) smallest parts, which are boxes/.exec(model.leftOut[0]!)![1]);
    expect(model.leftOut).toHaveLength(1);
    expect(boxed).toBeGreaterThan(100);
    const heights = model.surfaces.map(({ mesh }) => Math.max(...mesh.positions.filter((_, i) => i % 3 === 2)));
    // The largest keeps its shape, and each box is as high as what it stands for.
    expect(Math.max(...heights)).toBeCloseTo(6, 5);
    expect(Math.min(...heights)).toBeCloseTo(2, 5);
    const corners = model.surfaces.reduce((sum, { mesh }) => sum + mesh.positions.length / 3, 0);
    expect(corners).toBeLessThan(700_000 + 24 * boxed + 5000);
  });

  it('tell light by a cube where they are small and fine: by where each corner faces', () => {
    const light = new Float32Array([1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4, 5, 5, 5, 6, 6, 6]);
    expect([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, 0, -1]].map((n) => cubeLight(light, 0, n, 0))).toEqual([1, 2, 3, 6]); // prettier-ignore
    expect(cubeLight(light, 0, [Math.SQRT1_2, 0, Math.SQRT1_2], 1)).toBeCloseTo((1 + 5) / 2);
  });

  it('lose noise to their neighbours, and what is buried takes theirs', () => {
    const mesh = growing([0, 0, 0, 6, 0, 0, 6, 6, 0, 0, 6, 0], [0, 1, 2, 0, 2, 3]);
    subdivide(mesh, 0.5);
    const light = new Float32Array(mesh.positions.length).map((_, i) => 100 + (((i * 7919) % 41) - 20));
    const buried = 60;
    light.fill(0, buried * 3, buried * 3 + 3);
    smoothLight(mesh, light);
    for (const value of light) expect(Math.abs(value - 100)).toBeLessThan(12);
  });

  it('keep light in a byte to two per cent of what is shown white', () => {
    for (const value of [0, 0.02, 0.18, 0.5, 1, 2.5]) expect(Math.abs(decodeLight(codeLight(value)) - value)).toBeLessThan(0.02 * Math.max(1, value)); // prettier-ignore
  });
});

describe('baked light', () => {
  const bake = (scene: ReturnType<typeof testScene>, points: number[], count: number): Float32Array => {
    const [from, to] = [scene.memory.allocate(points.length * 4), scene.memory.allocate((points.length / 6) * 12)];
    scene.memory.write(from, Float32Array.from(points));
    scene.settings({ seed: 5, maxDepth: 6 });
    scene.kernel.bakeLight(scene.scene, from, 0, points.length / 6, count, to);
    return Float32Array.from(scene.memory.floats(to, (points.length / 6) * 3));
  };

  it('is pi times the radiance of an even sky, half of it at the foot of a black wall, and none of the sun’s own', () => {
    const wall = { mesh: quad([0, -400, 0], [0, 400, 0], [0, 400, 800], [0, -400, 800]), finish: matt(0) };
    const ground = { mesh: box([-500, -500, -1], [500, 500, 0]), finish: matt(0) };
    const sky = { ...uniformSky(100), sun: { direction: [0.5, 0, Math.sqrt(0.75)] as [number, number, number], normalLux: [50_000, 50_000, 50_000] as [number, number, number], radiance: [7.4e8, 7.4e8, 7.4e8] as [number, number, number], radiusRad: 0.00465 } }; // prettier-ignore
    const scene = testScene([wall, ground], sky);
    const [foot, , , before] = bake(scene, [0.5, 0, 0.01, 0, 0, 1, 200, 0, 0.01, 0, 0, 1], 3000);
    const [open] = bake(testScene([ground], sky), [200, 0, 0.01, 0, 0, 1], 3000);
    // View factor of the sky at the foot of an endless wall: one half (any table of view factors).
    expect(foot! / (100 * Math.PI)).toBeCloseTo(0.5, 1);
    expect(open! / (100 * Math.PI)).toBeCloseTo(1, 1);
    // Before a strip of height H at distance d, (1 - d / sqrt(d2 + H2)) / 2 of the sky is hidden; this one is not quite endless.
    expect(before! / (100 * Math.PI)).toBeGreaterThan(1 - (1 - 200 / Math.hypot(200, 800)) / 2);
    expect(before! / (100 * Math.PI)).toBeLessThan(0.75);
    // The same point with the sun has its 43,000 lux more.
    expect(scene.kernel.measureIlluminance(scene.scene, 200, 0, 0.01, 0, 0, 1, 200, 3)).toBeGreaterThan(40_000);
  });
});
