import { describe, expect, it } from 'vitest';
import type { Finish } from '../finish/finish';
import { prepareMesh } from '../geometry/prepare-mesh';
import { IDENTITY } from '../geometry/mat4';
import { image, onlySun, SUN_LUX, WHITE, type Texel } from './test-face';
import { box, darkSky, kernelModule, matt, quad, testScene, uniformSky } from './testing';
import { SceneMemory } from './scene-memory';
import { overcastSky, clearSky, skyHorizontalLux } from '../sky/sky-map';
import { meshVolume } from '../geometry/mesh';

/** Statistical checks use fixed seeds; their bounds are about four standard errors, stated beside each. */

const lux = (scene: SceneMemory, p: number[], n: number[], count = 4096, seed = 1) =>
  scene.kernel.measureIlluminance(scene.scene, p[0]!, p[1]!, p[2]!, n[0]!, n[1]!, n[2]!, count, seed);
const luminance = (scene: SceneMemory, p: number[], d: number[], count = 1, seed = 1) =>
  scene.kernel.measureRadiance(scene.scene, p[0]!, p[1]!, p[2]!, d[0]!, d[1]!, d[2]!, count, seed);

describe('light transport', () => {
  it('returns exactly the emission over 1 - r in a closed furnace (analytic: geometric series)', () => {
    for (const r of [0.2, 0.5, 0.8]) {
      const scene = testScene([{ mesh: box([-1, -1, -1], [1, 1, 1], true), finish: matt(r, { emissionCdM2: 100 / r }) }], darkSky());
      scene.settings({ seed: 1, maxDepth: 100 });
      // Emission is baseColour * emissionCdM2 = 100; every wall shows 100 / (1 - r).
      const seen = luminance(scene, [0.1, 0.2, 0.3], [0.6, 0.64, 0.48], 20000);
      expect(Math.abs(seen / (100 / (1 - r)) - 1)).toBeLessThan(0.02);
    }
  });

  it('is invisible against a uniform sky when it reflects everything (white furnace)', () => {
    const scene = testScene([{ mesh: box([-1, -1, -1], [1, 1, 1]), finish: matt(1) }], uniformSky(1000));
    scene.settings({ seed: 1, maxDepth: 200 });
    expect(
      luminance(
        scene,
        [3, 2.5, 2],
        [-3, -2.5, -2].map((v) => v / Math.hypot(3, 2.5, 2)),
        4000,
      ),
    ).toBeCloseTo(1000, -1);
  });

  it('meets the form factors of parallel and perpendicular unit squares (Howell, A Catalog of Radiation Heat Transfer)', () => {
    const emitter = matt(0.5, { emissionCdM2: 200 }); // shows 100 cd/m2
    const parallel = testScene([{ mesh: quad([0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]), finish: emitter }], darkSky());
    parallel.settings({ seed: 1, maxDepth: 0 });
    const perpendicular = testScene([{ mesh: quad([0, 0, 0], [0, 1, 0], [0, 1, 1], [0, 0, 1]), finish: emitter }], darkSky());
    perpendicular.settings({ seed: 1, maxDepth: 0 });
    const mean = (scene: SceneMemory) => {
      const n = 24;
      let sum = 0;
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j++) sum += lux(scene, [(i + 0.5) / n, (j + 0.5) / n, 0], [0, 0, 1], 64, i * n + j);
      return sum / (n * n) / (Math.PI * 100);
    };
    expect(Math.abs(mean(parallel) - 0.1998)).toBeLessThan(0.002);
    expect(Math.abs(mean(perpendicular) - 0.2)).toBeLessThan(0.003);
  });

  it('lights by the inverse square and the cosine from a lamp', () => {
    const lamp = {
      source: 's', id: 'l', position: [0, 0, 2] as const, axis: [0, 0, -1] as const, right: [1, 0, 0] as const, radiusM: 0,
      beam: { intensityCd: 800, cosInner: 1, cosOuter: -1 }, colour: [1, 1, 1] as [number, number, number],
    }; // prettier-ignore
    const scene = testScene([], darkSky(), [lamp]);
    expect(lux(scene, [0, 0, 0], [0, 0, 1], 4)).toBeCloseTo(200, 2);
    // d2 = 4 + 2.25, cos = 2 / d
    expect(lux(scene, [1.5, 0, 0], [0, 0, 1], 4)).toBeCloseTo((800 * 2) / Math.pow(6.25, 1.5), 2);
  });

  it('lights as Lambert’s polygon formula says under a square panel', () => {
    const scene = testScene(
      [{ mesh: quad([-0.5, -0.5, 1.5], [-0.5, 0.5, 1.5], [0.5, 0.5, 1.5], [0.5, -0.5, 1.5]), finish: matt(0.5, { emissionCdM2: 2000 }) }],
      darkSky(),
    );
    scene.settings({ seed: 1, maxDepth: 0 });
    // Below the middle of a rectangle 2a x 2b at height c: E = 4 L/2 [a'/sqrt(1+a'2) atan(b'/sqrt(1+a'2)) + ...]
    const a = 0.5 / 1.5;
    const s = Math.sqrt(1 + a * a);
    const expected = 4 * (1000 / 2) * 2 * (a / s) * Math.atan(a / s);
    expect(Math.abs(lux(scene, [0, 0, 0], [0, 0, 1], 20000) / expected - 1)).toBeLessThan(0.01);
  });

  it('lights by what a picture on a panel sheds', () => {
    const panel = quad([-0.5, -0.5, 6], [-0.5, 0.5, 6], [0.5, 0.5, 6], [0.5, -0.5, 6]);
    const dark: Texel = [0, 0, 0, 255];
    const lit = (texels: readonly Texel[], extra: Partial<Finish> = {}) => {
      const finish = matt(0, { emissionCdM2: 2000, emissionColour: [1, 1, 1], maps: 'glow', widthM: 1, heightM: 1, ...extra });
      const scene = new SceneMemory(kernelModule());
      scene.setSky(darkSky());
      scene.setScene(
        { instances: [{ mesh: 'p', transform: IDENTITY, finish, emissionScale: 1, lens: false }], lamps: [] },
        { mesh: () => prepareMesh(panel), maps: () => ({ base: image(1, 1, [WHITE]), surface: undefined, emission: image(4, 1, texels) }) },
      );
      scene.settings({ seed: 1, maxDepth: 0 });
      return lux(scene, [0, 0, 0], [0, 0, 1], 40000);
    };
    // From 6 m the panel is nearly a point: E = L A / d2 of what is lit of it; bounds of four standard errors.
    const whole = lit([WHITE, WHITE, WHITE, WHITE]);
    expect(Math.abs(whole / (2000 / 36) - 1)).toBeLessThan(0.02);
    for (const turn of [0, 90]) {
      expect(lit([WHITE, dark, dark, dark], { rotationDeg: turn }) / whole).toBeCloseTo(0.25, 2);
      expect(lit([dark, WHITE, WHITE, WHITE], { rotationDeg: turn, widthM: 0.5 }) / whole).toBeCloseTo(0.75, 2);
    }
    expect(lit([dark, dark, dark, dark])).toBe(0);
  });

  it('gives 7/9 pi Lz under the overcast sky of the CIE (Moon & Spencer 1942)', () => {
    const expected = (7 / 9) * Math.PI * 5000;
    expect(Math.abs(skyHorizontalLux(overcastSky(5000)) / expected - 1)).toBeLessThan(0.002);
    const scene = testScene([], overcastSky(5000));
    expect(Math.abs(lux(scene, [0, 0, 0], [0, 0, 1], 8192) / expected - 1)).toBeLessThan(0.01);
  });

  it('brings the sun’s and the sky’s illuminance to the ground', () => {
    const sky = clearSky({ trueAltitudeDeg: 50, azimuthDeg: 140, trueNorthDeg: 0 });
    const scene = testScene([], sky);
    const sun = (0.2126 * sky.sun.normalLux[0] + 0.7152 * sky.sun.normalLux[1] + 0.0722 * sky.sun.normalLux[2]) * sky.sun.direction[2];
    const expected = sun + skyHorizontalLux(sky);
    expect(Math.abs(lux(scene, [0, 0, 0], [0, 0, 1], 16384) / expected - 1)).toBeLessThan(0.01);
  });

  it('passes 0.88 to 0.93 of the light through a clear pane at normal incidence, less by Beer-Lambert when tinted', () => {
    const pane = (extra: object) =>
      testScene(
        [{ mesh: box([-5, -5, 1], [5, 5, 1.006]), finish: matt(1, { transmission: 1, ior: 1.5, roughness: 0, body: 'pane', ...extra }) }],
        uniformSky(1000),
      );
    const scene = pane({});
    // Two interfaces of 4 % with all their inner reflections: (1 - F) / (1 + F) = 0.923; what is missing comes from the sky behind.
    const clear = luminance(scene, [0, 0, 0], [0, 0, 1], 2000);
    expect(clear).toBeCloseTo(1000, 0);
    const tinted = pane({ attenuationColour: [0.735357, 0.735357, 0.735357], attenuationDistanceM: 0.006 }); // linear 0.5
    const below = testScene([], uniformSky(0));
    expect(below.scene).toBeGreaterThan(0);
    const f = 0.04;
    const t = 0.5;
    const through = ((1 - f) ** 2 * t) / (1 - f * f * t * t);
    const reflected = f + (f * (1 - f) ** 2 * t * t) / (1 - f * f * t * t);
    expect(Math.abs(luminance(tinted, [0, 0, 0], [0, 0, 1], 60000) / (1000 * (through + reflected)) - 1)).toBeLessThan(0.01);
  });

  it('gives the integrating sphere’s mean illuminance, Phi / (A (1 - r)), in a closed room', () => {
    const room = box([-2, -2, -2], [2, 2, 2], true);
    expect(meshVolume(room)).toBeCloseTo(-64, 5);
    const lamp = {
      source: 's', id: 'l', position: [0, 0, 0] as const, axis: [0, 0, -1] as const, right: [1, 0, 0] as const, radiusM: 0,
      beam: { intensityCd: 1000 / (4 * Math.PI), cosInner: 1, cosOuter: -1 }, colour: [1, 1, 1] as [number, number, number],
    }; // prettier-ignore
    const scene = testScene([{ mesh: room, finish: matt(0.5) }], darkSky(), [lamp]);
    scene.settings({ seed: 1, maxDepth: 60 });
    let sum = 0;
    const n = 20;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++)
        sum += lux(scene, [-2 + (4 * (i + 0.5)) / n, -2 + (4 * (j + 0.5)) / n, -1.9999], [0, 0, 1], 64, i * n + j);
    // The cube is symmetric, so one face's mean is the room's mean.
    expect(Math.abs(sum / (n * n) / (1000 / (96 * 0.5)) - 1)).toBeLessThan(0.02);
  });

  it('follows paths far enough for a white room, as pictures do', () => {
    // An integrating sphere of reflectance 0.8: E = Phi / (A (1 - r)); a path of 6 bounces has three quarters of it.
    const room = box([-2, -2, -2], [2, 2, 2], true);
    const lamp = {
      source: 's', id: 'l', position: [0, 0, 0] as const, axis: [0, 0, -1] as const, right: [1, 0, 0] as const, radiusM: 0,
      beam: { intensityCd: 1000 / (4 * Math.PI), cosInner: 1, cosOuter: -1 }, colour: [1, 1, 1] as [number, number, number],
    }; // prettier-ignore
    const scene = testScene([{ mesh: room, finish: matt(0.8) }], darkSky(), [lamp]);
    scene.settings({ seed: 1 });
    let sum = 0;
    const n = 20;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++)
        sum += lux(scene, [-2 + (4 * (i + 0.5)) / n, -2 + (4 * (j + 0.5)) / n, -1.9999], [0, 0, 1], 64, i * n + j);
    expect(Math.abs(sum / (n * n) / (1000 / (96 * 0.2)) - 1)).toBeLessThan(0.02);
  });

  it('does not depend on tile size, and two seeds agree within their own spread', () => {
    const scene = testScene(
      [{ mesh: box([-1, -1, -1], [1, 1, 1]), finish: matt(0.6) }],
      clearSky({ trueAltitudeDeg: 30, azimuthDeg: 200, trueNorthDeg: 0 }),
    );
    const render = (tile: number, seed: number, samples: number) => {
      scene.settings({ seed, maxDepth: 6 });
      scene.camera({ origin: [4, -4, 3], forward: [-0.62, 0.62, -0.46], right: [0.35, 0.35, 0], up: [-0.16, 0.16, 0.44] });
      scene.setFilm(48, 32);
      for (let y = 0; y < 32; y += tile)
        for (let x = 0; x < 48; x += tile)
          scene.kernel.renderTile(scene.scene, x, y, Math.min(48, x + tile), Math.min(32, y + tile), 0, samples);
      return Float32Array.from(scene.filmData());
    };
    const a = render(32, 1, 8);
    expect(render(7, 1, 8)).toEqual(a);
    const mean = (film: Float32Array) => film.reduce((sum, v, i) => sum + (i % 16 === 1 ? v : 0), 0);
    expect(Math.abs(mean(render(32, 2, 64)) / mean(render(32, 3, 64)) - 1)).toBeLessThan(0.02);
  });

  it('converges with one over the square root of the samples', () => {
    // Independent runs of the same measurement; the sampler is stratified, so the error may fall faster, never slower.
    const scene = testScene(
      [
        { mesh: box([-2, -2, 0], [2, 2, 3], true), finish: matt(0.5) },
        { mesh: quad([-0.3, -0.3, 2.9], [-0.3, 0.3, 2.9], [0.3, 0.3, 2.9], [0.3, -0.3, 2.9]), finish: matt(0.5, { emissionCdM2: 2000 }) },
      ],
      darkSky(),
    );
    const spread = (count: number) => {
      const values = Array.from({ length: 40 }, (_, seed) => lux(scene, [1, 1, 0.001], [0, 0, 1], count, seed + 100));
      const mean = values.reduce((s, v) => s + v, 0) / values.length;
      return Math.sqrt(values.reduce((s, v) => s + (v - mean) ** 2, 0) / values.length) / mean;
    };
    expect(spread(16) / spread(256)).toBeGreaterThan(3.2);
  });
});

describe('sun thrown by a polished floor', () => {
  const sky = onlySun([0, -Math.SQRT1_2, Math.SQRT1_2]);
  const wallSeen = (seed: number, samples: number) => {
    const floor = quad([-30, -30, 0], [30, -30, 0], [30, 2, 0], [-30, 2, 0]);
    const wall = quad([-30, 2, 0], [30, 2, 0], [30, 2, 9], [-30, 2, 9]);
    const scene = testScene(
      [
        { mesh: floor, finish: matt(1, { metalness: 1, roughness: 0.1, ior: 1.5 }) },
        { mesh: wall, finish: matt(0.5) },
      ],
      sky,
    );
    scene.settings({ seed, maxDepth: 2 });
    return scene.kernel.measureRadiance(scene.scene, 0, -3, 1.5, 0, 1, 0, samples, seed);
  };
  const alone = (0.5 * SUN_LUX * Math.SQRT1_2) / Math.PI;

  it('lights the wall as much again as the sun itself, and any few samples find it', () => {
    // A mirror of a white metal: the same light once more. The blurred lobe loses what it sends below and above the wall.
    expect(wallSeen(1, 20_000) / alone).toBeGreaterThan(1.8);
    expect(wallSeen(1, 20_000) / alone).toBeLessThan(2.1);
    const few = Array.from({ length: 40 }, (_, k) => wallSeen(k + 2, 64) / alone);
    const mean = few.reduce((sum, x) => sum + x, 0) / few.length;
    const spread = Math.sqrt(few.reduce((sum, x) => sum + (x - mean) ** 2, 0) / (few.length - 1));
    // With a sharp floor even twenty thousand samples are off by a tenth.
    expect(spread).toBeLessThan(0.15);
  });
});
