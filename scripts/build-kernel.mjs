// Compiles the light kernel to dist/kernel.wasm, and puts the denoiser's weights beside it.
import { copyFileSync, mkdirSync } from 'node:fs';
import asc from 'assemblyscript/asc';

mkdirSync('dist', { recursive: true });
const { error, stderr } = await asc.main([
  'core/kernel/assembly/index.ts',
  '-o', 'dist/kernel.wasm',
  '-O3', '--noAssert', '--runtime', 'stub',
  '--enable', 'simd', '--enable', 'threads', '--enable', 'bulk-memory',
  '--importMemory', '--sharedMemory', '--initialMemory', '16', '--maximumMemory', '65536',
]); // prettier-ignore
if (error) {
  console.error(String(stderr));
  process.exit(1);
}
mkdirSync('dist/denoiser', { recursive: true });
const weights = 'core/denoise/weights';
for (const file of ['small.bin', 'full.bin', 'LICENSE']) copyFileSync(`${weights}/${file}`, `dist/denoiser/${file}`);
