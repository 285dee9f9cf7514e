// Bundles the server's and the author's programs into dist/.
import { copyFileSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { build } from 'esbuild';

/** Taken into the bundle: it comes as hundreds of small files, which take a fifth of a second to read. */
const BUNDLED = ['kysely'];
const { dependencies } = JSON.parse(readFileSync('package.json', 'utf8'));
const external = Object.keys(dependencies)
  .filter((name) => !BUNDLED.includes(name))
  .flatMap((name) => [name, `${name}/*`]);

mkdirSync('dist', { recursive: true });
for (const name of readdirSync('dist')) if (name.startsWith('shared-')) rmSync(`dist/${name}`);
await build({
  entryPoints: {
    server: 'server/main.ts',
    'kernel-thread': 'server/kernel-thread.ts',
    'print-worker': 'server/prints/worker.ts',
    'preview-worker': 'server/previews/worker.ts',
    'viewer-worker': 'server/viewers/worker.ts',
    'hygiene-worker': 'server/hygiene/worker.ts',
    'zip-worker': 'server/zip/worker.ts',
    'file-worker': 'files/reading-worker.ts',
    'build-maps': 'server/build-maps.ts',
    'build-things': 'server/things/build.ts',
    author: 'author/main.ts',
    'demo-ground': 'author/demo-ground.ts',
    diaphane: 'link/main.ts',
  },
  outdir: 'dist',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  // What is imported late is loaded late; all of it lies in one folder, for paths that are told from a file's own.
  splitting: true,
  chunkNames: 'shared-[hash]',
  platform: 'node',
  format: 'esm',
  target: 'node20',
  external,
  sourcemap: true,
  logLevel: 'warning',
});
// The pages of a tour and of a viewer are one classic script each: modules do not run from a file.
await build({
  entryPoints: { tour: 'viewer/tour-main.ts', viewer: 'viewer/model-main.ts' },
  outdir: 'dist',
  bundle: true,
  minify: true,
  format: 'iife',
  target: 'es2020',
  logLevel: 'warning',
});
for (const page of ['tour', 'viewer'])
  writeFileSync(`dist/${page}.css`, ['page', page].map((name) => readFileSync(`viewer/${name}.css`, 'utf8')).join(''));
copyFileSync('author/page/index.html', 'dist/author-page.html');
copyFileSync('author/page/page.js', 'dist/author-page.js');
