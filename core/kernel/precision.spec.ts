import { describe, expect, it } from 'vitest';
import { cameraFrame } from '../camera/camera';
import { translation } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import { prepareMesh } from '../geometry/prepare-mesh';
import { random } from '../random';
import { CHANNELS_SIZE } from './assembly/layout';
import { onlySun, SUN_LUX } from './test-face';
import { SceneMemory } from './scene-memory';
import { box, darkSky, kernelModule, matt, quad, testScene, uniformSky } from './testing';

/** Where single precision runs out: square on, along an axis, from afar, far from the origin. */

const see = (scene: SceneMemory, p: readonly number[], d: readonly number[], count = 64) =>
  scene.kernel.measureRadiance(scene.scene, p[0]!, p[1]!, p[2]!, d[0]!, d[1]!, d[2]!, count, 3);

describe('a wall seen square on', () => {
  it('is as bright as from anywhere, whichever way it is turned', () => {
    let black = 0;
    for (let deg = 0; deg < 180; deg++) {
      const a = (deg * Math.PI) / 180;
      const [c, s] = [Math.cos(a), Math.sin(a)];
      const at = (along: number, z: number) => [-s * along, c * along, z];
      const scene = testScene([{ mesh: quad(at(-5, -5), at(5, -5), at(5, 5), at(-5, 5)), finish: matt(0.5) }], uniformSky(1000));
      scene.settings({ seed: 1, maxDepth: 1 });
      if (!(see(scene, [3 * c, 3 * s, 0.1], [-c, -s, 0], 16) > 100)) black++;
    }
    expect(black).toBe(0);
  });
});

describe('a ray along an axis', () => {
  it('meets a terrain also on the lines of its grid', () => {
    const [n, step] = [40, 1.5];
    const positions: number[] = [];
    const indices: number[] = [];
    for (let j = 0; j <= n; j++) for (let i = 0; i <= n; i++) positions.push(i * step, j * step, 0.2 * Math.sin(i) + 0.1 * Math.cos(2 * j));
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n; i++) {
        const a = j * (n + 1) + i;
        indices.push(a, a + 1, a + n + 2, a, a + n + 2, a + n + 1);
      }
    const scene = testScene([{ mesh: { positions: new Float32Array(positions), indices: new Uint32Array(indices) }, finish: matt(0.5) }], darkSky()); // prettier-ignore
    let missed = 0;
    for (let j = 1; j < n; j++)
      for (let i = 1; i < n; i++) if (!scene.kernel.traceClosest(i * step, j * step, 50, 0, 0, -1, 1e30, -1)) missed++;
    expect(missed).toBe(0);
  });
});

describe('from afar', () => {
  it.each([1000, 2000, 5000])('a sunlit place near the origin does not shadow itself, seen from %i m', (metres) => {
    const ground = { mesh: quad([-50, -50, 0], [50, -50, 0], [50, 50, 0], [-50, 50, 0]), finish: matt(0.5) };
    const scene = testScene([ground], onlySun([0, 0, 1]));
    scene.settings({ seed: 1, maxDepth: 1 });
    const next = random(7);
    let shadowed = 0;
    for (let i = 0; i < 500; i++) {
      const to = [next() * 20 - 10, next() * 20 - 10, 0];
      const a = next() * 2 * Math.PI;
      const from = [metres * 0.8 * Math.cos(a), metres * 0.8 * Math.sin(a), metres * 0.6];
      const way = to.map((v, k) => v - from[k]!);
      const length = Math.hypot(...way);
      const seen = see(scene, from, way.map((v) => v / length), 1); // prettier-ignore
      if (seen < (0.5 * SUN_LUX * 0.99) / Math.PI) shadowed++;
    }
    expect(shadowed).toBe(0);
  });
});

describe('far from the origin', () => {
  it.each([0, 1000, 3000, 9900])('a pane of 12 mm that takes half of the light takes it, %i m away', (metres) => {
    const half = matt(1, { transmission: 1, ior: 1, roughness: 0, body: 'pane', attenuationColour: [0.735357, 0.735357, 0.735357], attenuationDistanceM: 0.012 }); // prettier-ignore
    const pane = prepareMesh(box([-5, -5, 0], [5, 5, 0.012]));
    const floor = prepareMesh(quad([-5, -5, -1], [5, -5, -1], [5, 5, -1], [-5, 5, -1]));
    const scene = new SceneMemory(kernelModule());
    const at = translation(metres, metres / 2, 0);
    scene.setSky(onlySun([0, 0, 1]));
    const part = { transform: at, emissionScale: 1, lens: false };
    scene.setScene(
      { instances: [{ ...part, mesh: 'pane', finish: half }, { ...part, mesh: 'floor', finish: matt(0.5) }], lamps: [] },
      { mesh: (key) => (key === 'pane' ? pane : floor), maps: () => undefined },
    ); // prettier-ignore
    scene.settings({ seed: 1, maxDepth: 1 });
    const lux = scene.kernel.measureIlluminance(scene.scene, metres + 0.3, metres / 2 + 0.2, -0.99, 0, 0, 1, 64, 1);
    expect(lux / SUN_LUX).toBeCloseTo(0.5, 2);
    // And what is seen through it: half of what the floor shows, which has half of the sun.
    expect(see(scene, [metres + 0.3, metres / 2 + 0.2, 1], [0, 0, -1], 256) / ((0.5 * SUN_LUX) / Math.PI)).toBeCloseTo(0.25, 2);
  });
});

describe('the disc of the sun', () => {
  it('sheds its illuminance, of which rounding takes nothing', () => {
    const scene = testScene([], onlySun([0, 0, 1]));
    scene.settings({ seed: 1, maxDepth: 1 });
    expect(Math.abs(scene.kernel.measureIlluminance(scene.scene, 0, 0, 0, 0, 0, 1, 4096, 1) / SUN_LUX - 1)).toBeLessThan(5e-4);
  });
});

describe('depth', () => {
  it('counts from the eye, also where what is near is left out', () => {
    const wall: Mesh = quad([10, 20, -20], [10, -20, -20], [10, -20, 20], [10, 20, 20]);
    const scene = testScene([{ mesh: wall, finish: matt(0.5) }], uniformSky(100));
    scene.settings({ seed: 1, maxDepth: 1 });
    scene.setFilm(3, 3);
    scene.camera(cameraFrame({ position: [0, 0, 0], target: [1, 0, 0], focalMm: 35, nearM: 4 }, 1));
    const channels = scene.memory.allocate(9 * CHANNELS_SIZE);
    scene.kernel.renderChannels(scene.scene, 0, 0, 3, 3, channels);
    expect(scene.memory.floats(channels, (9 * CHANNELS_SIZE) / 4)[(4 * CHANNELS_SIZE) / 4]).toBeCloseTo(10, 4);
    scene.kernel.renderTile(scene.scene, 1, 1, 2, 2, 0, 4);
    const film = scene.filmData().subarray(4 * 12, 5 * 12);
    expect(film[11]! / film[7]!).toBeGreaterThan(9.9);
  });
});
