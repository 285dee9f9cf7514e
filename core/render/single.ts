import type { Denoiser } from '../denoise/denoiser';
import type { KernelPool } from '../kernel/pool';
import { MORE_GUIDES, TILE } from './progressive';

/** One small picture at once, denoised at its end: f32x4 a pixel, cd/m2, valid until the next. Undefined: cancelled. */
export async function renderSingle(
  pool: KernelPool,
  denoiser: Denoiser,
  { width, height, samples }: { width: number; height: number; samples: number },
): Promise<Float32Array | undefined> {
  pool.scene.setFilm(width, height);
  const pixels = { width, height, tile: TILE, first: 0 };
  const isDone = await pool.run({ kind: 'features', ...pixels, count: MORE_GUIDES }, { kind: 'render', ...pixels, count: samples });
  return isDone ? denoiser.denoised('full') : undefined;
}
