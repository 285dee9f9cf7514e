import { describe, expect, it } from 'vitest';
import { cameraFrame } from '../camera/camera';
import { KernelPool } from '../kernel/pool';
import { box, darkSky, matt, quad, testScene, uniformSky } from '../kernel/testing';
import { PictureBuffers } from './denoise';
import { GLANCE_SAMPLES, renderGlance, renderProgressively } from './progressive';

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

async function render(samples: number, seed: number, denoise: boolean): Promise<Float32Array> {
  const scene = room();
  scene.settings({ seed, maxDepth: 8, clampCdM2: 0 });
  scene.setFilm(width, height);
  const pool = new KernelPool(scene, noThreads, 0);
  await pool.run({ kind: 'render', width, height, tile: 32, first: 0, count: samples, step: 1, offsetX: 0, offsetY: 0 });
  return Float32Array.from((await new PictureBuffers(pool, width, height).radiance(denoise))!);
}

function error(a: Float32Array, b: Float32Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i += 4) sum += ((a[i + 1]! - b[i + 1]!) / (b[i + 1]! + 20)) ** 2;
  return Math.sqrt(sum / (a.length / 4));
}

describe('progressive rendering', () => {
  it('shows every pixel from the first glance on, improves, and ends as the plain render of the same samples', async () => {
    const scene = room();
    scene.settings({ seed: 5, maxDepth: 8, clampCdM2: 0 });
    const pool = new KernelPool(scene, noThreads, 0);
    const shown: { samples: number; size: number[]; covered: number; radiance: Float32Array }[] = [];
    const finished = await renderProgressively(pool, {
      width, height, targetSamples: 8, denoise: false,
      show: ({ samples, width, height, radiance }) => {
        shown.push({ samples, size: [width, height], covered: radiance.filter((v, i) => i % 4 === 3 && v > 0).length, radiance: Float32Array.from(radiance) });
      },
    }); // prettier-ignore
    expect(finished).toBe(true);
    expect(shown[0]!.samples).toBe(GLANCE_SAMPLES);
    expect(shown[0]!.size).toEqual([Math.ceil(width / 3), Math.ceil(height / 3)]);
    for (const { size, covered } of shown) expect(covered).toBeGreaterThan(size[0]! * size[1]! * 0.99);
    expect(shown.slice(1).every(({ size }) => size[0] === width && size[1] === height)).toBe(true);
    expect(shown.at(-1)!.samples).toBe(8);
    const plain = await render(8, 5, false);
    expect(error(shown.at(-1)!.radiance, plain)).toBeLessThan(1e-6);
  });
});

describe('the first glance', () => {
  it('has a whole sky: what has no sample yet is filled from the sky about it', async () => {
    const scene = testScene([{ mesh: quad([-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0]), finish: matt(0.5) }], uniformSky(1000));
    scene.camera(cameraFrame({ position: [0, -8, 1.6], target: [0, 0, 2.6], focalMm: 26 }, 2));
    const glance = (await renderGlance(new KernelPool(scene, noThreads, 0), 128, 64))!;
    const sky = Array.from({ length: glance.width * 8 }, (_, i) => glance.radiance[i * 4 + 1]!);
    expect(Math.min(...sky)).toBeCloseTo(1000, 0);
    expect(Math.max(...sky)).toBeCloseTo(1000, 0);
  });
});

describe('denoising', () => {
  it('brings few samples nearer to a long reference, and keeps the mean', async () => {
    const reference = await render(256, 77, false);
    const noisy = await render(16, 1, false);
    const clean = await render(16, 1, true);
    expect(error(clean, reference)).toBeLessThan(error(noisy, reference) * 0.55);
    const mean = (p: Float32Array) => p.reduce((sum, v, i) => sum + (i % 4 === 1 ? v : 0), 0);
    expect(Math.abs(mean(clean) / mean(noisy) - 1)).toBeLessThan(0.03);
  });
});
