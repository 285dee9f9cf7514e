import { describe, expect, it } from 'vitest';
import { extinctionOf } from '../sky/fog';
import type { Sky } from '../sky/sky-map';
import type { SceneMemory } from './scene-memory';
import { darkSky, matt, quad, testScene, uniformSky } from './testing';

/** Fog, clouds, moon and stars as the kernel sees them. Statistical checks use fixed seeds; bounds are about four standard errors. */

const luminance = (scene: SceneMemory, p: number[], d: number[], count = 1, seed = 1) =>
  scene.kernel.measureRadiance(scene.scene, p[0]!, p[1]!, p[2]!, d[0]!, d[1]!, d[2]!, count, seed);
const lux = (scene: SceneMemory, p: number[], n: number[], count = 256) =>
  scene.kernel.measureIlluminance(scene.scene, p[0]!, p[1]!, p[2]!, n[0]!, n[1]!, n[2]!, count, 1);
const fog = (extinction: number, falloff = 0, albedo = 0.999): NonNullable<Sky['fog']> => ({
  extinction, falloff, albedo: [albedo, albedo, albedo], glow: [0, 0, 0],
}); // prettier-ignore
const wall = (metres: number, cdM2: number) => ({
  mesh: quad([metres, 50, -50], [metres, -50, -50], [metres, -50, 50], [metres, 50, 50]),
  finish: matt(0.5, { emissionCdM2: 2 * cdM2 }),
});

describe('fog', () => {
  it('leaves 2 % at the distance of visibility (Koschmieder 1924)', () => {
    const scene = testScene([wall(45, 100)], { ...darkSky(), fog: fog(extinctionOf(45), 0, 0) });
    scene.settings({ seed: 1, maxDepth: 4 });
    expect(Math.abs(luminance(scene, [0, 0, 0], [1, 0, 0], 60_000) / 100 - 0.02)).toBeLessThan(4 * Math.sqrt((0.02 * 0.98) / 60_000));
  });

  it('takes light by exp(-extinction x distance) where it only absorbs (Beer-Lambert)', () => {
    for (const metres of [10, 60, 200]) {
      const scene = testScene([wall(metres, 100)], { ...darkSky(), fog: fog(0.01, 0, 0) });
      scene.settings({ seed: 1, maxDepth: 4 });
      const left = Math.exp(-0.01 * metres);
      const error = 4 * Math.sqrt((left * (1 - left)) / 40_000);
      expect(Math.abs(luminance(scene, [0, 0, 0], [1, 0, 0], 40_000) / 100 - left)).toBeLessThan(error);
    }
  });

  it('thins with height: the depth of a way upwards is (s / k)(1 - exp(-k z)) (analytic)', () => {
    const ceiling = { mesh: quad([-50, -50, 40], [-50, 50, 40], [50, 50, 40], [50, -50, 40]), finish: matt(0.5, { emissionCdM2: 200 }) };
    const scene = testScene([ceiling], { ...darkSky(), fog: fog(0.05, 1 / 20, 0) });
    scene.settings({ seed: 1, maxDepth: 4 });
    const left = Math.exp(-(0.05 * 20) * (1 - Math.exp(-2)));
    expect(Math.abs(luminance(scene, [0, 0, 0], [0, 0, 1], 40_000) / 100 - left)).toBeLessThan(4 * Math.sqrt((left * (1 - left)) / 40_000));
  });

  it('is as deep from far above, where its layer is thin and low', () => {
    // From 400 m down into a layer of 4 m: all of it is crossed, s / k.
    const ground = { mesh: quad([-500, -500, 0], [500, -500, 0], [500, 500, 0], [-500, 500, 0]), finish: matt(0.5, { emissionCdM2: 200 }) };
    const scene = testScene([ground], { ...darkSky(), fog: fog(0.2, 1 / 4, 0) });
    scene.settings({ seed: 1, maxDepth: 4 });
    const left = Math.exp(-0.2 * 4);
    expect(Math.abs(luminance(scene, [0, 0, 400], [0, 0, -1], 40_000) / 100 - left)).toBeLessThan(
      4 * Math.sqrt((left * (1 - left)) / 40_000),
    );
  });

  it('lies on the lowest ground, however high above the sea that is', () => {
    const seen = (z: number) => {
      const ground = { mesh: quad([-500, -500, z], [500, -500, z], [500, 500, z], [-500, 500, z]), finish: { ...matt(0.5, { emissionCdM2: 200 }), family: 'ground' as const } }; // prettier-ignore
      const scene = testScene([ground], { ...darkSky(), fog: fog(0.2, 1 / 4, 0) });
      scene.settings({ seed: 1, maxDepth: 4 });
      return luminance(scene, [0, 0, z + 20], [0, 0, -1], 40_000);
    };
    expect(Math.abs(seen(480) / seen(0) - 1)).toBeLessThan(0.03);
  });

  it('is invisible over white ground under an even sky, as nothing is lost in it (furnace)', () => {
    const ground = { mesh: quad([-1e4, -1e4, 0], [1e4, -1e4, 0], [1e4, 1e4, 0], [-1e4, 1e4, 0]), finish: matt(1) };
    const scene = testScene([ground], { ...uniformSky(1000), fog: fog(0.02, 1 / 50, 1) });
    scene.settings({ seed: 1, maxDepth: 400 });
    expect(Math.abs(luminance(scene, [0, 0, 1], [0.8, 0, 0.6], 4000) / 1000 - 1)).toBeLessThan(0.02);
  });

  it('sends back the sun’s light once scattered as a slab does (closed form: phase x E (1 - exp(-2 s z)) / 2 for light from behind the eye)', () => {
    const sun: Sky = {
      ...darkSky(),
      sun: { direction: [0, 0, 1], normalLux: [1e5, 1e5, 1e5], radiance: [0, 0, 0], radiusRad: 0.00465 },
      fog: fog(0.01, 1e-9, 0.5),
    };
    const solidAngle = 2 * Math.PI * (1 - Math.cos(0.00465));
    sun.sun.radiance = [1e5 / solidAngle, 1e5 / solidAngle, 1e5 / solidAngle];
    // Looking down from 30 m at a black ground, the fog above being cut off by looking from within an upper layer that the sun has to cross too.
    const scene = testScene([{ mesh: quad([-500, -500, 0], [500, -500, 0], [500, 500, 0], [-500, 500, 0]), finish: matt(0) }], sun);
    scene.settings({ seed: 1, maxDepth: 1 });
    const seen = luminance(scene, [0, 0, 30], [0, 0, -1], 60_000);
    // The sun crosses endless fog above: nothing arrives in an even layer without end.
    expect(seen).toBe(0);
    const layered = testScene([{ mesh: quad([-500, -500, 0], [500, -500, 0], [500, 500, 0], [-500, 500, 0]), finish: matt(0) }], {
      ...sun,
      fog: fog(0.01, 1 / 40, 0.5),
    });
    layered.settings({ seed: 1, maxDepth: 1 });
    const g = 0.7;
    const back = (1 - g * g) / (4 * Math.PI * (1 + g) ** 3);
    // Integrated over height, from the eye at 30 m down: albedo x phase x E x s(z) exp(-T(z to above)) exp(-T(z to 30)).
    const above = (z: number) => 0.01 * 40 * Math.exp(-z / 40);
    let sum = 0;
    for (let i = 0; i < 3000; i++) {
      const z = (i + 0.5) / 100;
      sum += 0.01 * Math.exp(-z / 40) * Math.exp(-above(z)) * Math.exp(-(above(z) - above(30))) * 0.01;
    }
    const want = 0.5 * back * 1e5 * sum;
    expect(Math.abs(luminance(layered, [0, 0, 30], [0, 0, -1], 200_000) / want - 1)).toBeLessThan(0.03);
  });
});

describe('clouds', () => {
  const through = new Float32Array(16).fill(1);
  // Nothing comes through over the second column of four, which repeat each 400 m.
  for (let y = 0; y < 4; y++) through[y * 4 + 1] = 0;
  const sunny: Sky = {
    ...darkSky(),
    sun: { direction: [0, 0, 1], normalLux: [1000, 1000, 1000], radiance: [0, 0, 0], radiusRad: 0.00465 },
    clouds: { size: 4, through, repeatM: 400, heightM: 500, driftM: [0, 0] },
  };
  sunny.sun.radiance = sunny.sun.normalLux.map((e) => e / (2 * Math.PI * (1 - Math.cos(0.00465)))) as [number, number, number];

  it('shade the sun where they stand before it, softly, and drift', () => {
    const at = (x: number, driftM: [number, number] = [0, 0]) => {
      const scene = testScene([], { ...sunny, clouds: { ...sunny.clouds!, driftM } });
      scene.settings({ seed: 1, maxDepth: 1 });
      return lux(scene, [x, 0, 0], [0, 0, 1]);
    };
    expect(Math.abs(at(150) / 1000)).toBeLessThan(0.01);
    expect(Math.abs(at(50) / 1000 - 1)).toBeLessThan(0.01);
    expect(Math.abs(at(100) / 1000 - 0.5)).toBeLessThan(0.02);
    expect(Math.abs(at(250, [100, 0]) / 1000)).toBeLessThan(0.01);
  });

  it('throw their shadow along the sun’s rays', () => {
    const slanted: Sky = { ...sunny, sun: { ...sunny.sun, direction: [Math.SQRT1_2, 0, Math.SQRT1_2] } };
    const scene = testScene([], slanted);
    scene.settings({ seed: 1, maxDepth: 1 });
    // 500 m up along a ray at 45 degrees is 500 m on: 150 + 400 - 500.
    expect(lux(scene, [50, 0, 0], [Math.SQRT1_2, 0, Math.SQRT1_2]) / 1000).toBeLessThan(0.02);
  });
});

describe('the night', () => {
  it('shows the part of the moon that the sun lights', () => {
    const moon: Sky = {
      ...darkSky(),
      sun: { direction: [0, 1, 0], normalLux: [0.1, 0.1, 0.1], radiance: [1000, 1000, 1000], radiusRad: 0.0045, litFrom: [1, 0, 0] },
    };
    const scene = testScene([], moon);
    scene.settings({ seed: 1, maxDepth: 1 });
    const at = (x: number) => luminance(scene, [0, 0, 0], [x * 0.0045, Math.sqrt(1 - (x * 0.0045) ** 2), 0]);
    // Half moon: bright on the sun's side, twice its mean; dark on the other.
    expect(Math.abs(at(0.5) / 2000 - 1)).toBeLessThan(0.01);
    expect(at(-0.5)).toBe(0);
    expect(at(1.2)).toBe(0);
  });

  it('has about as many stars as are seen with the eye, and as bright', () => {
    const scene = testScene([], { ...darkSky(), stars: true });
    scene.settings({ seed: 1, maxDepth: 1 });
    // Integrated starlight of the upper half of the sky: the sum over the cells' mean light.
    let sum = 0;
    let seen = 0;
    const count = 400_000;
    for (let i = 0; i < count; i++) {
      const z = (i + 0.5) / count;
      const a = i * Math.PI * (3 - Math.sqrt(5));
      const r = Math.sqrt(1 - z * z);
      const light = luminance(scene, [0, 0, 0], [r * Math.cos(a), r * Math.sin(a), z]);
      sum += light;
      if (light > 0) seen++;
    }
    // Discs of 5.03e-7 sr, one to each of the 20,600 cells of a square degree: a share of 1.6e-3 of the half.
    expect(seen / count).toBeGreaterThan(0.0012);
    expect(seen / count).toBeLessThan(0.002);
    // Illuminance of a starlit sky without airglow, from stars of the eye's magnitudes: 1e-5 to 3e-4 lx (common value, from memory).
    const illuminance = (sum / count) * Math.PI;
    expect(illuminance).toBeGreaterThan(1e-5);
    expect(illuminance).toBeLessThan(3e-4);
  });
});
