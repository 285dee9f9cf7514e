// npm run bench -- NAME [--json]: builds what is stale, bundles the bench, runs it.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { build } from 'esbuild';

const [name = '', ...rest] = process.argv.slice(2);
const names = ['kernel', 'link', 'ifc', 'source', 'finishes', 'furnace', 'still', 'start', 'light', 'delivery', 'setting', 'viewer'];
if (!names.includes(name) || !existsSync(`bench/${name}.ts`)) {
  console.error(`Usage: npm run bench -- ${names.join('|')} [--json]`);
  process.exit(1);
}
if (spawnSync('node', ['scripts/build.mjs'], { stdio: ['ignore', 2, 2] }).status !== 0) process.exit(1);
const outfile = `dist/bench-${name}.mjs`;
await build({
  entryPoints: [`bench/${name}.ts`],
  outfile,
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  logLevel: 'warning',
});
process.exit(spawnSync('node', [outfile, ...rest], { stdio: 'inherit' }).status ?? 1);
