import { describe, expect, it } from 'vitest';
import { KernelPool } from '../kernel/pool';
import { box, darkSky, matt, quad, testScene } from '../kernel/testing';
import { Denoiser } from '../denoise/denoiser';
import { shippedWeights } from '../denoise/testing';
import { renderProgressively } from './progressive';

const noThreads = () => {
  throw new Error('no threads here');
};

function room() {
  const scene = testScene(
    [
      { mesh: box([-2, -2, 0], [2, 2, 3], true), finish: matt(0.6) },
      { mesh: box([-0.5, -0.2, 0], [0.5, 0.6, 1.2]), finish: matt(0.3) },
      { mesh: quad([-0.4, -0.4, 2.9], [-0.4, 0.4, 2.9], [0.4, 0.4, 2.9], [0.4, -0.4, 2.9]), finish: matt(0.5, { emissionCdM2: 4000 }) },
    ],
    darkSky(),
  );
  scene.camera({ origin: [-1.8, -1.8, 1.6], forward: [0.69, 0.69, -0.2], right: [0.5, -0.5, 0], up: [0.07, 0.07, 0.38] });
  return scene;
}

const [width, height] = [96, 56];

const poolOver = (scene: ReturnType<typeof testScene>) => new KernelPool(scene, noThreads, 0);

async function render(samples: number, seed: number): Promise<Float32Array> {
  const scene = room();
  scene.settings({ seed, maxDepth: 8 });
  scene.setFilm(width, height);
  const pool = poolOver(scene);
  await pool.run({ kind: 'render', width, height, tile: 32, first: 0, count: samples });
  return Float32Array.from((await new Denoiser(pool, shippedWeights).plain())!);
}

function error(a: Float32Array, b: Float32Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i += 4) sum += ((a[i + 1]! - b[i + 1]!) / (b[i + 1]! + 20)) ** 2;
  return Math.sqrt(sum / (a.length / 4));
}

describe('progressive rendering', () => {
  it('shows denoised pictures after one sample and at each doubling, each nearer to a long reference', async () => {
    const scene = room();
    scene.settings({ seed: 5, maxDepth: 8 });
    const pool = poolOver(scene);
    const shown: { samples: number; size: number[]; radiance: Float32Array }[] = [];
    const sampled: number[] = [];
    const finished = await renderProgressively(pool, new Denoiser(pool, shippedWeights), {
      width, height, targetSamples: 11,
      show: ({ samples, width, height, radiance }) => shown.push({ samples, size: [width, height], radiance: Float32Array.from(radiance) }),
      sampled: (samples) => sampled.push(samples),
    }); // prettier-ignore
    expect(finished).toBe(true);
    expect(shown.map(({ samples }) => samples)).toEqual([1, 2, 4, 8, 11]);
    expect(sampled).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]);
    expect(shown.every(({ size }) => size[0] === width && size[1] === height)).toBe(true);
    const reference = await render(128, 77);
    const errors = shown.map(({ radiance }) => error(radiance, reference));
    expect(errors.at(-1)).toBeLessThan(errors[0]!);
    expect(errors[0]).toBeLessThan(error(await render(1, 5), reference) * 0.3);
  });

  it('ends when it is told to between two steps, when there is nothing to cancel', async () => {
    const scene = room();
    scene.settings({ seed: 5, maxDepth: 4 });
    const pool = poolOver(scene);
    const sampled: number[] = [];
    const finished = await renderProgressively(pool, new Denoiser(pool, shippedWeights), {
      width: 32, height: 32, targetSamples: 1000,
      show: () => undefined,
      sampled: (samples) => sampled.push(samples),
      goesOn: () => sampled.length < 3,
    }); // prettier-ignore
    expect([finished, sampled]).toEqual([false, [1, 2, 3]]);
  });
});
