import type { Denoiser } from '../denoise/denoiser';
import type { KernelPool } from '../kernel/pool';

export const TILE = 32;
/** Features that every pixel has beside those of its samples: what features the denoiser should be less rough than what it cleans. */
export const MORE_GUIDES = 1;
/** From so many samples on the picture is worth the full weights. */
const FULL_FROM = 4;

export interface Progress {
  /** Whole samples a pixel so far; below 1: a moving picture, which is smaller than what was asked for. */
  samples: number;
  /** Of this picture, in pixels. */
  width: number;
  height: number;
  /** f32x4 a pixel, cd/m2; valid only during the call. */
  radiance: Float32Array;
}

export interface ProgressiveOptions {
  width: number;
  height: number;
  targetSamples: number;
  /** Called with each improved picture: after one sample, and whenever their number has doubled. */
  show: (progress: Progress) => void;
  /** Called after each sample. */
  sampled?: (samples: number) => void;
  /** Asked before each step: a pool can be cancelled only while it runs something. */
  goesOn?: () => boolean;
}

/** Renders until the target or until the pool is cancelled; true when finished. The film is set up anew. */
export async function renderProgressively(pool: KernelPool, denoiser: Denoiser, options: ProgressiveOptions): Promise<boolean> {
  const { width, height, targetSamples, show, sampled, goesOn = () => true } = options;
  pool.scene.setFilm(width, height);
  const pixels = { width, height, tile: TILE };
  if (!(await pool.run({ kind: 'features', ...pixels, first: 0, count: MORE_GUIDES }))) return false;
  let next = 1;
  for (let samples = 1; samples <= targetSamples; samples++) {
    if (!goesOn() || !(await pool.run({ kind: 'render', ...pixels, first: samples - 1, count: 1 }))) return false;
    sampled?.(samples);
    if (samples < next && samples < targetSamples) continue;
    const radiance = await denoiser.denoised(samples < FULL_FROM ? 'small' : 'full');
    if (!radiance || !goesOn()) return false;
    show({ samples, width, height, radiance });
    next = samples * 2;
  }
  return true;
}
