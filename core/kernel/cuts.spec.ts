import { describe, expect, it } from 'vitest';
import { cameraFrame } from '../camera/camera';
import { IDENTITY } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import { prepareMesh } from '../geometry/prepare-mesh';
import { MeshBuilder } from '../geometry/shapes';
import { isClosed } from '../geometry/is-closed';
import type { Vec3 } from '../geometry/vec3';
import { planesOf, planeThrough, DEFAULT_FILLS, type Cuts, type Section } from '../project/sections';
import * as L from './assembly/layout';
import { box, darkSky, matt, quad, testScene, uniformSky } from './testing';

const cutBy = (...cuts: Section['cut'][]): Cuts => ({
  planes: cuts.flatMap((cut) => planesOf({ name: 's', cut })),
  fills: { ...DEFAULT_FILLS, others: '#ff0000', earth: '#00ff00' },
});

/** A wall 4 m long, 0.3 m thick and 3 m high with an opening 1 m wide and 1.2 m high, its sill at 0.9 m. */
function wallWithOpening(): Mesh {
  const rectangle = (x0: number, x1: number, z0: number, z1: number) => [[x0, z0], [x1, z0], [x1, z1], [x0, z1]] as const;
  return new MeshBuilder().prism(rectangle(0, 4, 0, 3), [rectangle(1.5, 2.5, 0.9, 2.1)], ([x, z], end) => [x, end === 0 ? 0.3 : 0, z]).build();
} // prettier-ignore

/** An upright cylinder of radius 1 about the z axis, z from 0 to 3. */
function cylinder(sides: number): Mesh {
  const positions: number[] = [];
  const indices: number[] = [];
  for (let i = 0; i < sides; i++) {
    const [x, y] = [Math.cos((2 * Math.PI * i) / sides), Math.sin((2 * Math.PI * i) / sides)];
    positions.push(x, y, 0, x, y, 3);
    const [a, b, c, d] = [i * 2, ((i + 1) % sides) * 2, i * 2 + 1, ((i + 1) % sides) * 2 + 1];
    indices.push(a, b, d, a, d, c);
    if (i > 1) indices.push(0, a, a - 2, 1, a - 1, c);
  }
  return { positions: new Float32Array(positions), indices: new Uint32Array(indices) };
}

const SIZE = 400;
const ACROSS_M = 8;

/** Square metres that are seen red, looked at in parallel from outside. */
function redArea(meshes: Mesh[], cuts: Cuts, position: Vec3, target: Vec3): number {
  const scene = testScene(meshes.map((mesh) => ({ mesh, finish: matt(0.5) })), darkSky()); // prettier-ignore
  scene.setCuts(cuts);
  scene.camera(cameraFrame({ position: [...position], target: [...target], focalMm: 35, parallelM: ACROSS_M }, 1));
  scene.setFilm(SIZE, SIZE);
  const out = scene.memory.allocate(SIZE * SIZE * L.CHANNELS_SIZE);
  scene.kernel.renderChannels(scene.scene, 0, 0, SIZE, SIZE, out);
  const floats = scene.memory.floats(out, (SIZE * SIZE * L.CHANNELS_SIZE) / 4);
  let red = 0;
  for (let i = 0; i < SIZE * SIZE; i++) if (floats[i * 12 + 7]! > 0.9 && floats[i * 12 + 8]! < 0.1) red++;
  return red * (ACROSS_M / SIZE) ** 2;
}

describe('a section', () => {
  // So that no ray runs along a side of what is measured.
  const down: [Vec3, Vec3] = [
    [0.003, 0.013, 20],
    [0.003, 0.013, 0],
  ];

  it('has a cut face as large as the model says: of a box, a cylinder, a wall with an opening', () => {
    const plan = (z: number) => cutBy(planeThrough([0, 0, 1], [0, 0, z]));
    expect(redArea([box([-1, -1.5, 0], [1, 1.5, 3])], plan(1.1), ...down)).toBeCloseTo(6, 1);
    expect(redArea([cylinder(96)], plan(1.1), ...down)).toBeCloseTo(48 * Math.sin((2 * Math.PI) / 96), 1);
    expect(redArea([wallWithOpening()], plan(1.1), ...down)).toBeCloseTo(3 * 0.3, 1);
    expect(redArea([wallWithOpening()], plan(0.5), ...down)).toBeCloseTo(4 * 0.3, 1);
    // Upright along the wall: its elevation but for the opening. Askew: the cut is longer.
    const along = cutBy(planeThrough([0, -1, 0], [0, 0.15, 0]));
    expect(redArea([wallWithOpening()], along, [2.003, -20, 1.507], [2.003, 0, 1.507])).toBeCloseTo(4 * 3 - 1.2, 1);
    const askew = cutBy(planeThrough([0, -1, 1], [0, 0, 1]));
    expect(redArea([box([-1, -1.5, 0], [1, 1.5, 3])], askew, [0.003, -20, 21], [0.003, 0, 1])).toBeCloseTo(2 * 2.5 * Math.SQRT2, 1);
  });

  it('shows of a box what lies in it, and each of several planes cuts', () => {
    const inner: Section['cut'] = { kind: 'box', middle: [0, 0, 1], sizeM: [1, 2, 1], turnDeg: 30 };
    expect(redArea([box([-3, -3, 0], [3, 3, 3])], cutBy(inner), ...down)).toBeCloseTo(2, 1);
    const two = cutBy(planeThrough([0, 0, 1], [0, 0, 1]), planeThrough([1, 0, 0], [0.5, 0, 0]));
    expect(redArea([box([-1, -1.5, 0], [1, 1.5, 3])], two, ...down)).toBeCloseTo(4.5, 1);
  });

  it('does not fill what is no body, and what stands before the cut hides it', () => {
    const sheet = quad([-1, 0, 0], [1, 0, 0], [1, 0, 3], [-1, 0, 3]);
    const plan = cutBy(planeThrough([0, 0, 1], [0, 0, 1.1]));
    expect(redArea([sheet], plan, ...down)).toBe(0);
    const body = box([-1, -1, 0], [1, 1, 3]);
    const only = { ...plan, planes: plan.planes.map((plane) => ({ ...plane, layers: ['other'] })) };
    expect(redArea([body], only, ...down)).toBe(0);
    // A lid within the body below the cut is inside it, and not seen.
    expect(redArea([body, quad([-0.5, -0.5, 0.5], [0.5, -0.5, 0.5], [0.5, 0.5, 0.5], [-0.5, 0.5, 0.5])], plan, ...down)).toBeCloseTo(4, 1);
    expect([body, wallWithOpening(), cylinder(24)].map(isClosed)).toEqual([true, true, true]);
    expect([sheet, box([0, 0, 0], [1, 1, 1], true), { ...body, indices: body.indices.slice(6) }].map(isClosed)).toEqual([
      false,
      false,
      false,
    ]);
  });

  it('lets light in through what is cut away, and earth fills what lies under the ground', () => {
    // A closed room is dark; without its lid the floor has the light of the whole sky that it sees.
    const room = [
      box([-2, -2, -0.2], [2, 2, 0]), box([-2, -2, 0], [-1.8, 2, 3]), box([1.8, -2, 0], [2, 2, 3]), box([-1.8, -2, 0], [1.8, -1.8, 3]),
      box([-1.8, 1.8, 0], [1.8, 2, 3]), box([-2, -2, 3], [2, 2, 3.2]),
    ]; // prettier-ignore
    const scene = testScene(room.map((mesh) => ({ mesh, finish: matt(0.5) })), uniformSky(100)); // prettier-ignore
    const floor = () => scene.kernel.traceAny(0, 0, 0.01, 0.1, 0.05, 0.99, 50, -1);
    expect(floor()).toBeTruthy();
    scene.setCuts(cutBy(planeThrough([0, 0, 1], [0, 0, 2])));
    expect(floor()).toBeFalsy();
    scene.kernel.setUncut(1);
    expect(floor()).toBeTruthy();
    scene.kernel.setUncut(0);
    scene.setCuts(undefined);
    expect(floor()).toBeTruthy();

    const ground = testScene([{ mesh: quad([-9, -9, 1], [9, -9, 1], [9, 9, 1], [-9, 9, 1]), finish: { ...matt(0.5), family: 'ground' } }], darkSky()); // prettier-ignore
    ground.setCuts(cutBy(planeThrough([0, -1, 0], [0, 0, 0])));
    const under = (z: number) => ground.kernel.traceClosest(0, -5, z, 0, 1, 0, Infinity, -1) && ground.kernel.hitDistance.value;
    expect(under(0.5)).toBeCloseTo(5);
    expect(under(1.5)).toBeFalsy();
    ground.setCuts({ ...cutBy(planeThrough([0, -1, 0], [0, 0, 0])), fills: { classes: {}, others: '#ff0000' } });
    expect(under(0.5)).toBeFalsy();
  });

  it('fills what becomes ground while the section is shown', () => {
    const sheet = quad([-9, -9, 1], [9, -9, 1], [9, 9, 1], [-9, 9, 1]);
    const scene = testScene([{ mesh: sheet, finish: matt(0.5) }], darkSky());
    scene.setCuts(cutBy(planeThrough([0, -1, 0], [0, 0, 0])));
    const under = () => Boolean(scene.kernel.traceClosest(0, -5, 0.5, 0, 1, 0, Infinity, -1));
    expect(under()).toBe(false);
    const ground = { mesh: '0', transform: IDENTITY, finish: { ...matt(0.5), family: 'ground' as const }, emissionScale: 1, lens: false };
    scene.setScene({ instances: [ground], lamps: [] }, { mesh: () => prepareMesh(sheet), maps: () => undefined });
    expect(under()).toBe(true);
  });
});
