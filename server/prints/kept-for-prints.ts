import { readFileSync } from 'node:fs';
import { Denoiser } from '../../core/denoise/denoiser';
import { SceneMemory } from '../../core/kernel/scene-memory';
import { denoiserWeights } from '../denoiser-weights';
import { KERNEL_FILE } from '../dist-paths';
import { nodePool } from '../node-pool';
import type { KeptAssets } from '../scene-assets';

/** What a thread keeps from one print to the next: the kernel with the scene that it has, its threads, the denoiser, and what was read. */
export class KeptForPrints {
  readonly scene = new SceneMemory(new WebAssembly.Module(readFileSync(KERNEL_FILE)));
  readonly pool = nodePool(this.scene);
  readonly denoiser = new Denoiser(this.pool, denoiserWeights);
  readonly assets: KeptAssets = { meshes: new Map(), maps: new Map() };
}
