import type { KernelPool } from '../kernel/pool';
import { PictureBuffers } from './denoise';

const TILE = 32;

/** Order in which the pixels of a 4 x 4 block get their first sample, so that every prefix is spread evenly (Bayer 1973). */
const FIRST_SAMPLE_ORDER: readonly (readonly [number, number])[] = [
  [0, 0], [2, 2], [2, 0], [0, 2], [1, 1], [3, 3], [3, 1], [1, 3],
  [1, 0], [3, 2], [3, 0], [1, 2], [0, 1], [2, 3], [2, 1], [0, 3],
]; // prettier-ignore
/** After how many of those sixteen steps the picture is shown, and the grid that the pixels with a sample then make. */
const SHOWN_STEPS: ReadonlyMap<number, number> = new Map([[4, 2], [16, 1]]); // prettier-ignore

export interface Progress {
  /** Whole samples a pixel so far; below 1 a share of the pixels. */
  samples: number;
  /** Of this picture, in pixels: the first one is smaller than what was asked for. */
  width: number;
  height: number;
  /** f32x4 a pixel, cd/m2; valid only during the call. */
  radiance: Float32Array;
}

/** The first picture is so many times smaller each way, and every so manieth of its pixels each way has a sample; small tiles share it out evenly, and the filter need not reach far. */
const GLANCE = { shrink: 3, grid: 2, tile: 16, widest: 8 };
export const GLANCE_SAMPLES = 1 / (GLANCE.shrink * GLANCE.grid) ** 2;

/**
 * The quickest picture there is: small, a sample in some of its pixels, the rest filled in by the guides of all of them.
 * Undefined when cancelled. The film is set up anew.
 */
export async function renderGlance(pool: KernelPool, fullWidth: number, fullHeight: number): Promise<Progress | undefined> {
  const { shrink, grid, tile, widest } = GLANCE;
  const width = Math.ceil(fullWidth / shrink);
  const height = Math.ceil(fullHeight / shrink);
  pool.scene.setFilm(width, height);
  const buffers = new PictureBuffers(pool, width, height);
  try {
    const sample = { first: 0, count: 1, step: grid, offsetX: 0, offsetY: 0 };
    const size = { width, height, tile };
    const radiance = await buffers.radiance(true, { grid, widest }, [
      { kind: 'guides', ...size },
      { kind: 'render', ...size, ...sample },
    ]);
    return radiance && { samples: GLANCE_SAMPLES, width, height, radiance };
  } finally {
    buffers.release();
  }
}

export interface ProgressiveOptions {
  width: number;
  height: number;
  targetSamples: number;
  denoise: boolean;
  /** Called with each improved picture, early ones often, later ones at powers of about 1.4. */
  show: (progress: Progress) => void;
}

/**
 * Renders until the target or until the pool is cancelled; true when finished. A glance comes first; the film is set up anew.
 */
export async function renderProgressively(pool: KernelPool, options: ProgressiveOptions): Promise<boolean> {
  const { width, height, targetSamples, denoise, show } = options;
  const glance = await renderGlance(pool, width, height);
  if (!glance) return false;
  show(glance);
  pool.scene.setFilm(width, height);
  const buffers = new PictureBuffers(pool, width, height);
  const present = async (samples: number, grid = 1): Promise<boolean> => {
    const radiance = await buffers.radiance(denoise || grid > 1, { grid });
    if (radiance) show({ samples, width, height, radiance });
    return radiance !== undefined;
  };
  try {
    if (!(await pool.run({ kind: 'guides', width, height, tile: TILE }))) return false;
    for (const [index, [offsetX, offsetY]] of FIRST_SAMPLE_ORDER.entries()) {
      if (!(await pool.run({ kind: 'render', width, height, tile: TILE, first: 0, count: 1, step: 4, offsetX, offsetY }))) return false;
      const grid = SHOWN_STEPS.get(index + 1);
      if (grid && !(await present((index + 1) / 16, grid))) return false;
    }
    let shown = 1;
    for (let sample = 1; sample < targetSamples; sample++) {
      if (!(await pool.run({ kind: 'render', width, height, tile: TILE, first: sample, count: 1, step: 1, offsetX: 0, offsetY: 0 })))
        return false;
      if (sample + 1 >= shown * 1.4 || sample + 1 === targetSamples) {
        if (!(await present(sample + 1))) return false;
        shown = sample + 1;
      }
    }
    return true;
  } finally {
    buffers.release();
  }
}
