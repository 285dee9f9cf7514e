import { expect, it } from 'vitest';
import { cameraFrame } from '../camera/camera';
import { Denoiser } from '../denoise/denoiser';
import { shippedWeights } from '../denoise/testing';
import { IDENTITY } from '../geometry/mat4';
import { prepareMesh } from '../geometry/prepare-mesh';
import { KernelPool } from '../kernel/pool';
import { darkSky, matt, quad, testScene, uniformSky } from '../kernel/testing';
import { pictureAt, shrunk } from './level-layer';
import { MovingPicture } from './moving-picture';

const ground = { mesh: quad([-90, -90, 0], [90, -90, 0], [90, 90, 0], [-90, 90, 0]), finish: matt(0.5) };
/** Looks down. */
const lamp = { mesh: quad([-1, -1, 3], [-1, 1, 3], [1, 1, 3], [1, -1, 3]), finish: matt(1, { emissionCdM2: 4000 }) };

it('shows a level as if it were rendered, from the picture at another level and what the lamps give alone', async () => {
  const scene = testScene([ground, lamp], darkSky());
  const pool = new KernelPool(scene, () => expect.fail('no threads here'), 0);
  const moving = new MovingPicture(pool, new Denoiser(pool, shippedWeights));
  const meshes = [ground, lamp].map(({ mesh }) => prepareMesh(mesh));
  const instance = (part: typeof lamp, mesh: string, emissionScale: number) => ({ mesh, transform: IDENTITY, finish: part.finish, emissionScale, lens: false }); // prettier-ignore
  const picture = async (skyCdM2: number, level: number) => {
    scene.setSky(uniformSky(skyCdM2));
    scene.setScene({ instances: [instance(ground, '0', 1), instance(lamp, '1', level)], lamps: [] }, { mesh: (key) => meshes[Number(key)], maps: () => undefined }); // prettier-ignore
    moving.forget();
    return moving.frame(cameraFrame({ position: [0, -8, 1.6], target: [0, 0, 1], focalMm: 30 }, 2), 2, { width: 160, lightShrink: 1 });
  };
  const copy = async (skyCdM2: number, level: number) => Float32Array.from((await picture(skyCdM2, level))!.radiance);
  const [base, light, wanted, off] = [await copy(4, 0.3), await copy(0, 1), await copy(4, 0.8), await copy(4, 0)];
  const shown = pictureAt({ row: 'circuit/a', level: 0.3, width: 160, height: 80, base, light }, 0.8);
  const apart = (a: Float32Array, b: Float32Array) => {
    const shares = [...a].flatMap((value, i) => (i % 4 === 1 ? [Math.abs(value - b[i]!) / Math.max(1, b[i]!)] : []));
    return shares.sort((x, y) => x - y)[Math.floor(shares.length * 0.9)]!;
  };
  // Nine of ten pixels; the light of one sample a pixel, denoised, differs by itself.
  expect(apart(shown, wanted)).toBeLessThan(0.12);
  expect(apart(base, wanted)).toBeGreaterThan(0.2);
  // Dimmed to nothing, what the noise of the two differs by stays; their light is the same, measured by that of the picture.
  const mean = (picture: Float32Array) => picture.reduce((sum, value, i) => sum + (i % 4 === 1 ? value : 0), 0) / (picture.length / 4);
  const dark = pictureAt({ row: 'circuit/a', level: 0.3, width: 160, height: 80, base, light }, 0);
  expect(Math.abs(mean(dark) - mean(off)) / mean(base)).toBeLessThan(0.05);
});

it('shrinks a picture without losing light', () => {
  const picture = Float32Array.from({ length: 7 * 5 * 4 }, (_, i) => (i % 4 === 1 ? i : 1));
  expect(shrunk(picture, 7, 5, 7, 5)).toEqual(picture);
  const half = shrunk(picture.slice(0, 6 * 4 * 4), 6, 4, 3, 2);
  const mean = (values: Float32Array) => values.filter((_, i) => i % 4 === 1).reduce((sum, v, _, all) => sum + v / all.length, 0);
  expect(mean(half)).toBeCloseTo(mean(picture.slice(0, 6 * 4 * 4)), 4);
});
