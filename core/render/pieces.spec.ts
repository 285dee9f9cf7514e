import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { platesOf } from '../camera/projection';
import { Denoiser, learntScale } from '../denoise/denoiser';
import { KernelPool } from '../kernel/pool';
import { box, matt, testScene, uniformSky } from '../kernel/testing';
import { denoisedPiece, insetOf, piecesOf } from './pieces';

const scene = testScene(
  [
    { mesh: box([-6, -6, -0.5], [6, 6, 0]), finish: matt(0.4) },
    { mesh: box([-1, -1, 0], [1, 1, 2]), finish: matt(0.7) },
  ],
  uniformSky(2000),
);
const pool = new KernelPool(scene, () => { throw new Error('no threads'); }, 0); // prettier-ignore
const denoiser = new Denoiser(pool, (weights) => Promise.resolve(readFileSync(`core/denoise/weights/${weights}.bin`)));
const camera = { position: [3, -5, 2] as [number, number, number], target: [0, 0, 0.8] as [number, number, number], focalMm: 30 };

it('a film of 3840 x 2160 is one piece; what is larger is cut into even ones', () => {
  const heights = (width: number, height: number) =>
    piecesOf(platesOf(camera, { kind: 'perspective' }, width, height)).map((piece) => piece.height);
  expect(heights(3840, 2160)).toEqual([2160]);
  const large = heights(8192, 4320);
  expect(large.reduce((sum, height) => sum + height, 0)).toBe(4320);
  expect(large.at(-1)! / large[0]!).toBeGreaterThan(0.5);
});

it('a picture in pieces is the picture at once, and an all-round one goes on at its join', async () => {
  for (const [projection, width, height] of [[{ kind: 'perspective' }, 160, 352], [{ kind: 'equirectangular' }, 256, 128]] as const) {
    const plates = platesOf(camera, projection, width, height);
    const render = async (mostPixels: number, scale?: number) => {
      const out = new Float32Array(width * height * 3);
      const pieces = piecesOf(plates, undefined, mostPixels);
      let learnt = scale;
      for (const piece of pieces) {
        const { film, plate } = piece;
        scene.camera(plate.frame);
        scene.setFilm(film.width, film.height);
        scene.setWindow(film.left, film.top, plate.width, plate.height);
        await pool.run({ kind: 'render', width: film.width, height: film.height, tile: 32, first: 0, count: 1 });
        learnt ??= learntScale(scene.filmData(), film.width);
        const { light: clean, width: line, left } = await denoisedPiece(scene, denoiser, piece, 'small', learnt);
        const inset = insetOf(piece);
        for (let y = 0; y < piece.height; y++)
          for (let x = 0; x < piece.width; x++)
            for (let c = 0; c < 3; c++) out[((piece.top + y) * width + piece.left + x) * 3 + c] = clean[((y + inset.top) * line + x + inset.left + left) * 4 + c]!;
      }
      return { out, count: pieces.length, scale: learnt! };
    };
    const whole = await render(1e9);
    const pieces = await render(projection.kind === 'perspective' ? 50_000 : 30_000, whole.scale);
    expect([whole.count, pieces.count > 1]).toEqual([1, true]);
    const worst = pieces.out.reduce((most, value, i) => Math.max(most, Math.abs(value - whole.out[i]!) / (whole.out[i]! + 10)), 0);
    expect(worst).toBeLessThan(0.01);
    if (projection.kind === 'perspective') continue;
    const jump = (a: number, b: number) => {
      let sum = 0;
      for (let y = 0; y < height; y++) sum += Math.abs(Math.log(whole.out[(y * width + a) * 3]! / whole.out[(y * width + b) * 3]!));
      return sum / height;
    };
    const others = Array.from({ length: width - 1 }, (_, x) => jump(x, x + 1)).sort((a, b) => a - b);
    expect(jump(width - 1, 0)).toBeLessThanOrEqual(others[Math.floor(others.length * 0.95)]!);
  }
}); // prettier-ignore
