// npm run shots [-- NAME ...]: docs/screenshots from the demo data at 1280 x 800.
import { spawnSync } from 'node:child_process';
import { build } from 'esbuild';

if (spawnSync('node', ['scripts/build.mjs'], { stdio: 'inherit' }).status !== 0) process.exit(1);
const outfile = 'dist/shots.mjs';
await build({
  entryPoints: ['e2e/shots.ts'],
  outfile,
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  logLevel: 'warning',
});
process.exit(spawnSync('node', [outfile, ...process.argv.slice(2)], { stdio: 'inherit' }).status ?? 1);
