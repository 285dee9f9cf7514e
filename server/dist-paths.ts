import path from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Weights } from '../core/denoise/denoiser';

/** Where the build put things; the bundled server stands in dist/ itself, its sources are run from the repository root. */
const here = path.dirname(fileURLToPath(import.meta.url));
export const DIST = path.basename(here) === 'dist' ? here : path.resolve(here, '..', 'dist');
export const KERNEL_FILE = path.join(DIST, 'kernel.wasm');
export const weightsFile = (weights: Weights): string => path.join(DIST, 'denoiser', `${weights}.bin`);
export const MAPS_DIRECTORY = path.join(DIST, 'maps');
export const mapsFile = (name: string, size: 'whole' | 'small' = 'whole'): string =>
  path.join(MAPS_DIRECTORY, `${name}${size === 'small' ? '.small' : ''}.maps`);
export const THINGS_DIRECTORY = path.join(DIST, 'things');
export const WEB_DIRECTORY = path.join(DIST, 'web', 'browser');
export const worker = (name: string): string => path.join(DIST, `${name}.mjs`);
