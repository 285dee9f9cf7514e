import { describe, expect, it } from 'vitest';
import { KernelPool } from '../kernel/pool';
import type { SceneMemory } from '../kernel/scene-memory';
import { box, matt, quad, testScene, uniformSky } from '../kernel/testing';
import { PIXEL_DEPTH, PIXEL_GUIDES, PIXEL_LUMINANCE_SQUARED, PIXEL_ODD, PIXEL_SIZE } from '../kernel/assembly/layout';
import { PictureBuffers } from './denoise';

/** The filter on films that are written by hand, so that what is true is known. */

const [width, height] = [64, 48];
const noThreads = () => {
  throw new Error('no threads here');
};

/** A camera over two level squares that meet at x = 0: the left one dark, the right one light. */
function twoSurfaces(before: Parameters<typeof testScene>[0] = []): SceneMemory {
  const scene = testScene(
    [
      { mesh: quad([-4, -4, 0], [0, -4, 0], [0, 4, 0], [-4, 4, 0]), finish: matt(0.1) },
      { mesh: quad([0, -4, 0], [4, -4, 0], [4, 4, 0], [0, 4, 0]), finish: matt(0.8) },
      ...before,
    ],
    uniformSky(1000),
  );
  scene.camera({ origin: [0, 0, 2], forward: [0, 0, -1], right: [0.66, 0, 0], up: [0, 0.5, 0] });
  scene.settings({ seed: 4, maxDepth: 2, clampCdM2: 0 });
  scene.setFilm(width, height);
  return scene;
}

async function rendered(samples: number, scene = twoSurfaces()): Promise<{ scene: SceneMemory; pool: KernelPool }> {
  const pool = new KernelPool(scene, noThreads, 0);
  await pool.run({ kind: 'render', width, height, tile: 16, first: 0, count: samples, step: 1, offsetX: 0, offsetY: 0 });
  return { scene, pool };
}

const green = (radiance: Float32Array, x: number, y: number) => radiance[(y * width + x) * 4 + 1]!;
const developed = async (pool: KernelPool, denoise: boolean) =>
  Float32Array.from((await new PictureBuffers(pool, width, height).radiance(denoise))!);

describe('the denoiser', () => {
  it('keeps the edge between two surfaces where it is', async () => {
    const { pool } = await rendered(8);
    const clean = await developed(pool, true);
    for (let y = 4; y < height - 4; y++) {
      expect(green(clean, 30, y)).toBeLessThan(150);
      expect(green(clean, 33, y)).toBeGreaterThan(650);
    }
  });

  it('is guided by what lies behind a pane, also by samples that the pane happens to throw back', async () => {
    const pane = { ...matt(1), body: 'pane' as const, transmission: 1, ior: 1.52, roughness: 0 };
    const { scene } = await rendered(16, twoSurfaces([{ mesh: box([-3, -3, 1], [3, 3, 1.02]), finish: pane }]));
    const film = scene.filmData();
    let strays = 0;
    for (let i = 0; i < film.length; i += PIXEL_SIZE / 4) {
      const depth = film[i + PIXEL_DEPTH / 4]! / film[i + PIXEL_GUIDES / 4]!;
      if (depth < 1.9 || depth > 2.8) strays++;
    }
    // At its back face a pane throws 4 in 100 back, so that otherwise half of all pixels would have one among sixteen.
    expect(strays).toBe(0);
  });

  it('takes the noise out of an even surface', async () => {
    const { pool } = await rendered(4);
    const spread = (radiance: Float32Array) => {
      const values: number[] = [];
      for (let y = 8; y < height - 8; y++) for (let x = 40; x < 60; x++) values.push(green(radiance, x, y));
      const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
      return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length) / mean;
    };
    expect(spread(await developed(pool, true))).toBeLessThan(spread(await developed(pool, false)) / 4);
  });

  it('spreads a single spark instead of leaving or losing it', async () => {
    const { scene, pool } = await rendered(16);
    const before = await developed(pool, false);
    const at = (24 * width + 50) * (PIXEL_SIZE / 4);
    const film = scene.filmData();
    // Sixteen samples of about 254 cd/m2 (0.8 x 1000 / pi), one of them three hundred times as bright.
    for (let c = 0; c < 3; c++) {
      film[at + c] = film[at + c]! + 80_000;
      film[at + PIXEL_ODD / 4 + c] = film[at + PIXEL_ODD / 4 + c]! + 80_000;
    }
    film[at + PIXEL_LUMINANCE_SQUARED / 4] = film[at + PIXEL_LUMINANCE_SQUARED / 4]! + 80_000 ** 2 + 2 * 80_000 * 254;
    const spark = await developed(pool, false);
    const clean = await developed(pool, true);
    expect(green(spark, 50, 24)).toBeGreaterThan(4 * green(before, 50, 24));
    expect(green(clean, 50, 24)).toBeLessThan(2 * green(before, 50, 24));
    let lost = 0;
    for (let y = 0; y < height; y++) for (let x = 32; x < width; x++) lost += green(spark, x, y) - green(clean, x, y);
    let all = 0;
    for (let y = 0; y < height; y++) for (let x = 32; x < width; x++) all += green(spark, x, y);
    expect(Math.abs(lost / all)).toBeLessThan(0.03);
  });

  it('leaves the picture as it is when it is not asked for', async () => {
    const { scene, pool } = await rendered(2);
    const plain = await developed(pool, false);
    const film = scene.filmData();
    const words = PIXEL_SIZE / 4;
    for (const p of [0, 777, width * height - 1]) expect(plain[p * 4 + 1]! * 2).toBeCloseTo(film[p * words + 1]!, 1);
  });
});
