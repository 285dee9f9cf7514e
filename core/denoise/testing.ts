import { readFileSync } from 'node:fs';
import type { WeightFiles } from './denoiser';

/** The weights that ship, straight from the repository. */
export const shippedWeights: WeightFiles = (weights) =>
  Promise.resolve(new Uint8Array(readFileSync(`core/denoise/weights/${weights}.bin`)));
