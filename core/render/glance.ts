import type { Denoiser } from '../denoise/denoiser';
import type { KernelPool } from '../kernel/pool';
import type { Progress } from './progressive';

/** The first picture is so many times smaller each way. */
const SHRINK = 4;
const TILE = 16;
export const GLANCE_SAMPLES = 1 / SHRINK ** 2;

/** The quickest picture there is: small, a sample a pixel, denoised. Undefined when cancelled. The film is set up anew. */
export async function renderGlance(
  pool: KernelPool,
  denoiser: Denoiser,
  fullWidth: number,
  fullHeight: number,
): Promise<Progress | undefined> {
  const width = Math.ceil(fullWidth / SHRINK);
  const height = Math.ceil(fullHeight / SHRINK);
  pool.scene.setFilm(width, height);
  if (!(await pool.run({ kind: 'render', width, height, tile: TILE, first: 0, count: 1 }))) return undefined;
  const radiance = await denoiser.denoised('small');
  return radiance && { samples: GLANCE_SAMPLES, width, height, radiance };
}
