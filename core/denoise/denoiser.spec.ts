import { describe, expect, it } from 'vitest';
import { PIXEL_ALBEDO, PIXEL_DEPTH, PIXEL_FEATURES, PIXEL_SIZE } from '../kernel/assembly/layout';
import { KernelPool } from '../kernel/pool';
import { SceneMemory } from '../kernel/scene-memory';
import { box, kernelModule, matt, quad, testScene, uniformSky } from '../kernel/testing';
import { Denoiser, learntScale, MOST_PIXELS } from './denoiser';
import { Network } from './network';
import { readTensors } from './tensor-archive';
import { shippedWeights } from './testing';
import { denoisedTiles } from './tiles';

const [width, height] = [96, 64];
const noThreads = () => {
  throw new Error('no threads here');
};
type Parts = Parameters<typeof testScene>[0];

/** A camera over two level squares that meet at x = 0: the left one dark, the right one light. */
function twoSurfaces(before: Parts = []): SceneMemory {
  const scene = testScene(
    [
      { mesh: quad([-4, -4, 0], [0, -4, 0], [0, 4, 0], [-4, 4, 0]), finish: matt(0.1) },
      { mesh: quad([0, -4, 0], [4, -4, 0], [4, 4, 0], [0, 4, 0]), finish: matt(0.8) },
      ...before,
    ],
    uniformSky(1000),
  );
  scene.camera({ origin: [0, 0, 2], forward: [0, 0, -1], right: [0.66, 0, 0], up: [0, 0.44, 0] });
  scene.settings({ seed: 4, maxDepth: 2 });
  return scene;
}

async function rendered(samples: number, scene = twoSurfaces(), size = { width, height }): Promise<KernelPool> {
  scene.setFilm(size.width, size.height);
  const pool = new KernelPool(scene, noThreads, 0);
  await pool.run({ kind: 'render', ...size, tile: 16, first: 0, count: samples });
  return pool;
}

const green = (radiance: Float32Array, x: number, y: number) => radiance[(y * width + x) * 4 + 1]!;
const denoised = async (pool: KernelPool, mostPixels?: number) =>
  Float32Array.from((await new Denoiser(pool, shippedWeights, mostPixels).denoised('full'))!);
const plain = async (pool: KernelPool) => Float32Array.from((await new Denoiser(pool, shippedWeights).plain())!);

describe('the denoiser', () => {
  it('keeps the edge between two surfaces where it is, and takes the noise out of them', async () => {
    const pool = await rendered(2);
    const [before, after] = [await plain(pool), await denoised(pool)];
    for (let y = 4; y < height - 4; y++) {
      expect(green(after, width / 2 - 3, y)).toBeLessThan(200);
      expect(green(after, width / 2 + 2, y)).toBeGreaterThan(600);
    }
    const spread = (radiance: Float32Array) => {
      const values: number[] = [];
      for (let y = 8; y < height - 8; y++) for (let x = 60; x < 90; x++) values.push(green(radiance, x, y));
      const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
      return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length) / mean;
    };
    expect(spread(after)).toBeLessThan(spread(before) / 4);
  });

  it('keeps the mean within two per cent, over the whole and over each quarter', async () => {
    const pool = await rendered(4);
    const [before, after] = [await plain(pool), await denoised(pool)];
    const sum = (p: Float32Array, x0: number, y0: number, x1: number, y1: number) => {
      let light = 0;
      for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) light += green(p, x, y);
      return light;
    };
    const [x, y] = [width / 2, height / 2];
    for (const [x0, y0, x1, y1] of [[0, 0, width, height], [0, 0, x, y], [x, 0, width, y], [0, y, x, height], [x, y, width, height]] as const)
      expect(Math.abs(sum(after, x0, y0, x1, y1) / sum(before, x0, y0, x1, y1) - 1)).toBeLessThan(0.02);
  }); // prettier-ignore

  it.each([{ width: 320, height: 64 }, { width: 64, height: 320 }])('gives the same bits in tiles as at once: $width x $height', async (size) => {
    const pool = await rendered(1, twoSurfaces(), size);
    const mostPixels = 30_000;
    expect(denoisedTiles(size.width, size.height, mostPixels)).toHaveLength(2);
    // As bytes: number by number takes most of a minute.
    const small = async (most?: number) => Float32Array.from((await new Denoiser(pool, shippedWeights, most).denoised('small'))!);
    const [inTiles, atOnce] = [await small(mostPixels), await small()];
    expect(Buffer.from(inTiles.buffer).equals(Buffer.from(atOnce.buffer))).toBe(true);
  }); // prettier-ignore

  it('works on pictures of any size, and keeps its room for the next', async () => {
    const scene = twoSurfaces();
    const pool = new KernelPool(scene, noThreads, 0);
    const denoiser = new Denoiser(pool, shippedWeights);
    for (const size of [{ width: 50, height: 17 }, { width: 33, height: 64 }, { width: 16, height: 16 }]) {
      scene.setFilm(size.width, size.height);
      await pool.run({ kind: 'render', ...size, tile: 16, first: 0, count: 1 });
      const radiance = (await denoiser.denoised('small'))!;
      expect(radiance.length).toBe(size.width * size.height * 4);
      expect(radiance.every((v) => Number.isFinite(v) && v >= 0)).toBe(true);
    }
    const used = scene.memory.usedBytes;
    scene.setFilm(16, 16);
    await denoiser.denoised('small');
    expect(scene.memory.usedBytes).toBe(used);
  }); // prettier-ignore

  it('leaves the picture as it is when it is not asked for', async () => {
    const pool = await rendered(2);
    const film = pool.scene.filmData();
    const radiance = await plain(pool);
    for (const p of [0, 777, width * height - 1]) expect(radiance[p * 4 + 1]! * 2).toBeCloseTo(film[(p * PIXEL_SIZE) / 4 + 1]!, 1);
  });

  it('scales by squares, so that one bright sample in the dark does not set the exposure', () => {
    const film = new Float32Array((32 * 32 * PIXEL_SIZE) / 4);
    for (let i = 0; i < film.length; i += PIXEL_SIZE / 4) [film[i], film[i + 1], film[i + 2], film[i + 3]] = [9, 9, 9, 1];
    expect(learntScale(film, 32)).toBeCloseTo(0.02, 6);
    film.fill(0);
    expect(learntScale(film, 32)).toBe(1);
  });
});

describe('fine lines', () => {
  it('stay as sharp as they are: the energy of their edges is that of a long picture that was not denoised', async () => {
    const board = Array.from({ length: 60 }, (_, i) => {
      const [x0, x1] = [-2.4 + i * 0.08, -2.4 + (i + 1) * 0.08];
      return { mesh: quad([x0, -2, 0], [x1, -2, 0], [x1, 2, 0], [x0, 2, 0]), finish: matt([0.12, 0.5, 0.75][(i * 7) % 3]!) };
    });
    const scene = testScene(board, uniformSky(1000));
    scene.camera({ origin: [0, 0, 2], forward: [0, 0, -1], right: [0.66, 0, 0], up: [0, 0.44, 0] });
    scene.settings({ seed: 4, maxDepth: 2 });
    const energy = (p: Float32Array) => {
      let sum = 0;
      for (let y = 4; y < height - 4; y++) for (let x = 4; x < width - 5; x++) sum += (green(p, x + 1, y) - green(p, x, y)) ** 2;
      return sum;
    };
    const few = await denoised(await rendered(4, scene));
    const long = await plain(await rendered(256, scene));
    expect(energy(few) / energy(long)).toBeGreaterThan(0.9);
    expect(energy(few) / energy(long)).toBeLessThan(1.1);
  });
});

describe('memory', () => {
  it('stays under 1.5 GB for a picture of 3840 x 2160, its film among it', async () => {
    const [w, h] = [3840, 2160];
    const network = new Network(new SceneMemory(kernelModule()).memory, readTensors(await shippedWeights('full')));
    const working = Math.max(...denoisedTiles(w, h, MOST_PIXELS).map((t) => network.bytesFor(t.readWidth, t.readHeight)));
    expect(working + w * h * (PIXEL_SIZE + 16)).toBeLessThan(1.5e9);
  });
});

describe('cutting into tiles', () => {
  it('covers each pixel once, and reads no more than it may', () => {
    for (const [w, h, most] of [[1920, 1080, 1_100_000], [3840, 2160, 1_100_000], [500, 2000, 300_000], [848, 477, 1_100_000]] as const) {
      const tiles = denoisedTiles(w, h, most);
      expect(tiles.reduce((sum, t) => sum + t.width * t.height, 0)).toBe(w * h);
      for (const t of tiles) {
        expect(t.readWidth * t.readHeight).toBeLessThanOrEqual(most);
        expect([t.readWidth % 32, t.readHeight % 32, (t.readLeft + 4) % 32, (t.readTop + 4) % 32]).toEqual([0, 0, 0, 0]);
      }
    }
    expect(denoisedTiles(848, 477, 1_100_000)).toHaveLength(1);
  }); // prettier-ignore
});

describe('its features', () => {
  const words = PIXEL_SIZE / 4;
  const pane = { ...matt(1), body: 'pane' as const, transmission: 1, ior: 1.52, roughness: 0 };

  it('are those of what lies behind a pane, also in samples that the pane happens to throw back', async () => {
    const pool = await rendered(16, twoSurfaces([{ mesh: box([-3, -3, 1], [3, 3, 1.02]), finish: pane }]));
    const film = pool.scene.filmData();
    let strays = 0;
    for (let i = 0; i < film.length; i += words) {
      const albedo = film[i + PIXEL_ALBEDO / 4]! / film[i + PIXEL_FEATURES / 4]!;
      const x = (i / words) % width;
      if (Math.abs(x - width / 2) > 2 && Math.abs(albedo - (x < width / 2 ? 0.1 : 0.8)) > 0.07) strays++;
    }
    expect(strays).toBe(0);
  });

  it('are those of what a mirror shows', async () => {
    const mirror = { ...matt(0.9), metalness: 1, roughness: 0.02 };
    const floor = { mesh: quad([-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0]), finish: mirror };
    const ceiling = { mesh: quad([-9, -9, 6], [-9, 9, 6], [9, 9, 6], [9, -9, 6]), finish: matt(0.4) };
    const scene = testScene([floor, ceiling], uniformSky(10));
    scene.camera({ origin: [0, 0, 2], forward: [0, 0, -1], right: [0.66, 0, 0], up: [0, 0.44, 0] });
    const film = (await rendered(2, scene)).scene.filmData();
    const at = (height / 2) * width * words + (width / 2) * words;
    const features = film[at + PIXEL_FEATURES / 4]!;
    expect(film[at + PIXEL_ALBEDO / 4]! / features).toBeCloseTo(0.4 * 0.9, 1);
    // Two metres down, and six up to the ceiling.
    expect(film[at + PIXEL_DEPTH / 4]! / features).toBeGreaterThan(7.9);
  });

  it('can be had without light, as many as are wanted', async () => {
    const scene = twoSurfaces();
    scene.setFilm(width, height);
    await new KernelPool(scene, noThreads, 0).run({ kind: 'features', width, height, tile: 16, first: 0, count: 3 });
    const film = scene.filmData();
    for (const p of [0, 1234]) expect([film[p * words], film[p * words + PIXEL_FEATURES / 4]]).toEqual([0, 3]);
  });
});
