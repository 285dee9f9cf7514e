import { afterEach, describe, expect, it } from 'vitest';
import type { KernelPool } from '../core/kernel/pool';
import { box, matt, quad, testScene, uniformSky } from '../core/kernel/testing';
import { Denoiser } from '../core/denoise/denoiser';
import { shippedWeights } from '../core/denoise/testing';
import { renderProgressively } from '../core/render/progressive';
import { nodePool } from './node-pool';

/** The pool on real threads: the same picture for any number of them, and an end as soon as it is asked for. */

const [width, height] = [80, 48];
const pools: KernelPool[] = [];
afterEach(() => {
  for (const pool of pools.splice(0)) pool.close();
});

function poolOf(threads: number): KernelPool {
  const scene = testScene(
    [
      { mesh: quad([-4, -4, 0], [4, -4, 0], [4, 4, 0], [-4, 4, 0]), finish: matt(0.5) },
      { mesh: box([-0.5, -0.5, 0], [0.5, 0.5, 1]), finish: matt(0.7) },
    ],
    uniformSky(1000),
  );
  scene.camera({ origin: [0, -4, 2], forward: [0, 0.9, -0.35], right: [0.6, 0, 0], up: [0, 0.12, 0.33] });
  scene.settings({ seed: 3, maxDepth: 5 });
  scene.setFilm(width, height);
  const pool = nodePool(scene, threads);
  pools.push(pool);
  return pool;
}

const task = (count: number, tile = 16) => ({ kind: 'render', width, height, tile, first: 0, count }) as const;

describe('threads', () => {
  it('make the same film to the last bit, however many there are and however the picture is cut', async () => {
    const films = [];
    for (const [threads, tile] of [[0, 48], [1, 16], [2, 16], [3, 7]] as const) {
      const pool = poolOf(threads);
      expect(await pool.run(task(4, tile))).toBe(true);
      films.push(Float32Array.from(pool.scene.filmData()));
    } // prettier-ignore
    for (const film of films.slice(1)) expect(film).toEqual(films[0]);
  });

  it('denoise to the last bit alike, however many there are', async () => {
    const pictures = [];
    for (const threads of [0, 1, 3]) {
      const pool = poolOf(threads);
      await pool.run(task(2));
      pictures.push(Float32Array.from((await new Denoiser(pool, shippedWeights).denoised('small'))!));
    }
    for (const picture of pictures.slice(1)) expect(picture).toEqual(pictures[0]);
  });

  it('take one task after the other, and refuse two at once', async () => {
    const pool = poolOf(2);
    const first = pool.run(task(8));
    // The threads must have started before the second is asked for.
    await Promise.resolve();
    const second = pool.run(task(8)).then(
      () => 'done',
      (error: unknown) => String(error),
    );
    expect(await first).toBe(true);
    expect(await second).toContain('already running');
    expect(await pool.run(task(1))).toBe(true);
  });

  it('wait while they are held, go on when they are let go, and can be stopped meanwhile', async () => {
    const pool = poolOf(2);
    pool.hold(true);
    let ended: boolean | undefined;
    const run = pool.run(task(4)).then((whole) => (ended = whole));
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(ended).toBeUndefined();
    pool.hold(false);
    expect(await run).toBe(true);
    const [free, held] = [poolOf(1), pool.scene.filmData()];
    await free.run(task(4));
    expect(held).toEqual(free.scene.filmData());

    pool.hold(true);
    const stopped = pool.run(task(4));
    setTimeout(() => {
      pool.cancel();
    }, 50);
    expect(await stopped).toBe(false);
    pool.hold(false);
    expect(await pool.run(task(1))).toBe(true);
  });

  it('stop within a tile when they are told to, and serve the next task', async () => {
    const pool = poolOf(2);
    await pool.run(task(1));
    const long = pool.run(task(4000, 8));
    setImmediate(() => {
      pool.cancel();
    });
    expect(await long).toBe(false);
    pool.scene.clearFilm();
    expect(await pool.run(task(2))).toBe(true);
    const again = poolOf(0);
    await again.run(task(2));
    expect(Float32Array.from(pool.scene.filmData())).toEqual(Float32Array.from(again.scene.filmData()));
  });

  it('give a progressive picture up when cancelled, having shown what they had', async () => {
    const pool = poolOf(2);
    const shown: number[] = [];
    const finished = await renderProgressively(pool, new Denoiser(pool, shippedWeights), {
      width,
      height,
      targetSamples: 100_000,
      show: ({ samples }) => {
        shown.push(samples);
        if (samples >= 2)
          setImmediate(() => {
            pool.cancel();
          });
      },
    });
    expect(finished).toBe(false);
    expect(shown.slice(0, 2)).toEqual([1, 2]);
    for (let i = 1; i < shown.length; i++) expect(shown[i]!).toBeGreaterThan(shown[i - 1]!);
  });
});
