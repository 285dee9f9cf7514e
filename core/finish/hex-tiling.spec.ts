import { describe, expect, it } from 'vitest';
import { SceneMemory } from '../kernel/scene-memory';
import { kernelModule, matt, quad, uniformSky } from '../kernel/testing';
import { prepareMesh } from '../geometry/prepare-mesh';
import { IDENTITY } from '../geometry/mat4';
import { random } from '../random';
import { blended, patchesAt, pcg2d } from './hex-tiling';
import { generateMaps } from './maps/generate';
import { meanTexel } from './maps/mean';

/** A smooth random signal that repeats every unit, mean 0.5. */
function signal(): (u: number, v: number) => number {
  const next = random(5);
  const waves = Array.from({ length: 24 }, () => ({
    i: Math.floor(next() * 13) - 6,
    j: Math.floor(next() * 13) - 6,
    phase: next() * 2 * Math.PI,
  })).filter(({ i, j }) => i !== 0 || j !== 0);
  return (u, v) =>
    0.5 + (0.1 / Math.sqrt(waves.length / 2)) * waves.reduce((sum, w) => sum + Math.cos(2 * Math.PI * (w.i * u + w.j * v) + w.phase), 0);
}

const broken = (f: (u: number, v: number) => number, mean: number) => (u: number, v: number) => {
  const patches = patchesAt(u, v);
  return blended(patches.map((p) => f(u + p.u, v + p.v)) as [number, number, number], patches, mean);
};

/** Correlation between a field and itself moved by (du, dv), over 16 x 16 repeats. */
function autocorrelation(f: (u: number, v: number) => number, du: number, dv: number): number {
  let [sumA, sumB, aa, bb, ab, n] = [0, 0, 0, 0, 0, 0];
  for (let y = 0; y < 16; y += 0.11)
    for (let x = 0; x < 16; x += 0.11) {
      const [a, b] = [f(x, y), f(x + du, y + dv)];
      sumA += a;
      sumB += b;
      aa += a * a;
      bb += b * b;
      ab += a * b;
      n++;
    }
  return (ab - (sumA * sumB) / n) / Math.sqrt((aa - sumA ** 2 / n) * (bb - sumB ** 2 / n));
}

describe('repeat breaking', () => {
  it('leaves no repeat, by autocorrelation, and as much contrast as there was', () => {
    const f = signal();
    const g = broken(f, 0.5);
    for (const [du, dv] of [[1, 0], [0, 1], [1, 1], [3, 2]] as const) {
      expect(autocorrelation(f, du, dv)).toBeCloseTo(1, 6);
      // 21,000 places in about 770 independent patches: four standard errors are 0.15.
      expect(Math.abs(autocorrelation(g, du, dv))).toBeLessThan(0.15);
    } // prettier-ignore
    const spread = (field: typeof f) => {
      let [sum, squares, n] = [0, 0, 0];
      for (let y = 0; y < 12; y += 0.09)
        for (let x = 0; x < 12; x += 0.09) {
          sum += field(x, y);
          squares += field(x, y) ** 2;
          n++;
        }
      return { mean: sum / n, deviation: Math.sqrt(squares / n - (sum / n) ** 2) };
    };
    const [before, after] = [spread(f), spread(g)];
    expect(Math.abs(after.mean - before.mean)).toBeLessThan(0.01);
    expect(Math.abs(after.deviation / before.deviation - 1)).toBeLessThan(0.05);
  });

  it('has no seams: it changes no faster across the borders of patches than inside', () => {
    const g = broken(signal(), 0.5);
    const h = 1e-5;
    for (let i = 0; i < 4000; i++) {
      const [x, y] = [i * 0.00371, i * 0.00113];
      expect(Math.abs(g(x + h, y) - g(x, y))).toBeLessThan(40 * h);
    }
  });

  it('weighs its three patches to one, and moves them evenly', () => {
    const counts = new Array<number>(16).fill(0);
    for (let j = -40; j < 40; j++)
      for (let i = -40; i < 40; i++) counts[Math.floor(pcg2d(i, j)[0] * 4) * 4 + Math.floor(pcg2d(i, j)[1] * 4)]!++;
    // Chi-squared of 15 degrees of freedom, at one in ten thousand: 44.3.
    expect(counts.reduce((sum, n) => sum + (n - 400) ** 2 / 400, 0)).toBeLessThan(44.3);
    for (const [u, v] of [[0.1, 0.2], [-3.4, 7.7], [120.3, -0.01]] as const)
      expect(patchesAt(u, v).reduce((sum, p) => sum + p.weight, 0)).toBeCloseTo(1, 12); // prettier-ignore
  });

  it('is the same in the kernel', () => {
    const maps = generateMaps('gravel', 64)!;
    const image = { width: 64, height: 64, texels: maps.base };
    const scene = new SceneMemory(kernelModule());
    scene.setSky(uniformSky(1000));
    const finish = matt(1, { maps: 'gravel', widthM: 0.5, heightM: 0.5, breakRepeat: true });
    scene.setScene(
      { instances: [{ mesh: 'q', transform: IDENTITY, finish, emissionScale: 1, lens: false }], lamps: [] },
      { mesh: () => prepareMesh(quad([-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0])), maps: () => ({ base: image, surface: undefined }) },
    );
    scene.settings({ seed: 1, maxDepth: 1 });
    const mean = meanTexel(image.texels, 64, 64, true);
    const next = random(3);
    for (let i = 0; i < 60; i++) {
      const [x, y] = [next() * 16 - 8, next() * 16 - 8];
      const patches = patchesAt(x / 0.5, y / 0.5);
      const expected = [0, 1, 2].map((k) =>
        blended(
          patches.map((p) => texel(image.texels, 64, x / 0.5 + p.u, y / 0.5 + p.v, k)) as [number, number, number],
          patches,
          mean[k]!,
        ),
      );
      const luminance = 0.2126 * expected[0]! + 0.7152 * expected[1]! + 0.0722 * expected[2]!;
      // 1,024 cosine-weighted draws of an even sky have no spread; what differs is f32 against f64.
      expect(Math.abs(scene.kernel.measureRadiance(scene.scene, x, y, 1, 0, 0, -1, 64, 1) / 1000 - luminance)).toBeLessThan(2e-3);
    }
  });
});

/** A bilinear, repeating, linear lookup. */
function texel(texels: Uint8Array, size: number, u: number, v: number, channel: number): number {
  const linear = (i: number, j: number) => {
    const c = texels[((((j % size) + size) % size) * size + (((i % size) + size) % size)) * 4 + channel]! / 255;
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
  };
  const [x, y] = [u * size - 0.5, v * size - 0.5];
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const [a, b] = [x - i, y - j];
  return (1 - b) * ((1 - a) * linear(i, j) + a * linear(i + 1, j)) + b * ((1 - a) * linear(i, j + 1) + a * linear(i + 1, j + 1));
}
