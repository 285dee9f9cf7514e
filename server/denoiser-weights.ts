import { readFile } from 'node:fs/promises';
import type { WeightFiles } from '../core/denoise/denoiser';
import { weightsFile } from './dist-paths';

/** The denoiser's weights, as they ship. */
export const denoiserWeights: WeightFiles = async (weights) => new Uint8Array(await readFile(weightsFile(weights)));
