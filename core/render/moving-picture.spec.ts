import { describe, expect, it } from 'vitest';
import { cameraFrame } from '../camera/camera';
import { Denoiser } from '../denoise/denoiser';
import { shippedWeights } from '../denoise/testing';
import { KernelPool } from '../kernel/pool';
import { box, darkSky, matt, quad, testScene, uniformSky } from '../kernel/testing';
import type { Sky } from '../sky/sky-map';
import { MovingPicture } from './moving-picture';

const ASPECT = 2;
const noThreads = () => {
  throw new Error('no threads here');
};
const camera = (x: number) => cameraFrame({ position: [x, -8, 1.6], target: [0, 0, 2.6], focalMm: 26 }, ASPECT);

function plain(sky: Sky) {
  const scene = testScene(
    [
      { mesh: quad([-90, -90, 0], [90, -90, 0], [90, 90, 0], [-90, 90, 0]), finish: matt(0.5) },
      { mesh: box([-1, -1, 0], [1, 1, 1.5]), finish: matt(0.2) },
      { mesh: quad([-1, 4, 5], [1, 4, 5], [1, 4, 6], [-1, 4, 6]), finish: matt(1, { emissionCdM2: 5000 }) },
    ],
    sky,
  );
  const pool = new KernelPool(scene, noThreads, 0);
  const denoiser = new Denoiser(pool, shippedWeights);
  return { scene, pool, denoiser, moving: new MovingPicture(pool, denoiser) };
}

const mean = (p: Float32Array) => p.reduce((sum, v, i) => sum + (i % 4 === 1 ? v : 0), 0) / (p.length / 4);

describe('the moving picture', () => {
  it('has the sky as it is, without a halo about what stands before it', async () => {
    const { moving } = plain(uniformSky(1000));
    const { radiance, width } = (await moving.frame(camera(0), ASPECT, { width: 128 }))!;
    for (let y = 0; y < 6; y++)
      for (let x = 0; x < width / 3; x++) expect(Math.abs(radiance[(y * width + x) * 4 + 1]! / 1000 - 1)).toBeLessThan(0.01);
  });

  it('has the light of the refined picture', async () => {
    const { scene, pool, denoiser, moving } = plain(uniformSky(1000));
    const frame = (await moving.frame(camera(0), ASPECT, { width: 160 }))!;
    const { width, height } = frame;
    const light = mean(frame.radiance);
    scene.setFilm(width, height);
    await pool.run({ kind: 'render', width, height, tile: 32, first: 0, count: 32 });
    expect(Math.abs(light / mean((await denoiser.plain())!) - 1)).toBeLessThan(0.05);
  });

  it('shows a lamp by itself at its full light, and what it lights', async () => {
    const { moving } = plain(darkSky());
    const { radiance } = (await moving.frame(camera(0), ASPECT, { width: 160 }))!;
    let brightest = 0;
    for (let i = 1; i < radiance.length; i += 4) brightest = Math.max(brightest, radiance[i]!);
    expect(Math.abs(brightest / 5000 - 1)).toBeLessThan(0.01);
    expect(mean(radiance)).toBeLessThan(500);
  });

  it('grows calmer while earlier pictures show the same places, and forgets them when light changes', async () => {
    const flicker = async (forget: boolean) => {
      const { moving } = plain(darkSky());
      let before = new Float32Array(0);
      let change = 0;
      for (let i = 0; i < 8; i++) {
        if (forget) moving.forget();
        const { radiance } = (await moving.frame(camera(0), ASPECT, { width: 128 }))!;
        if (i === 7) change = mean(radiance.map((v, k) => Math.abs(v - before[k]!))) / mean(radiance);
        before = Float32Array.from(radiance);
      }
      return change;
    };
    expect(await flicker(false)).toBeLessThan((await flicker(true)) * 0.4);
  });

  it('takes no part in what is asked for next: films are others', async () => {
    const { scene, pool, moving } = plain(uniformSky(1000));
    await moving.frame(camera(0), ASPECT, { width: 128 });
    scene.setFilm(16, 8);
    expect(scene.filmSize).toEqual({ width: 16, height: 8 });
    await pool.run({ kind: 'render', width: 16, height: 8, tile: 8, first: 0, count: 1 });
    expect(scene.filmData()[3]).toBe(1);
  });
});
