// Bundles the server's and the author's programs into dist/.
import { copyFileSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { build } from 'esbuild';

mkdirSync('dist', { recursive: true });
for (const name of readdirSync('dist')) if (name.startsWith('shared-')) rmSync(`dist/${name}`);
await build({
  entryPoints: {
    server: 'server/main.ts',
    'kernel-thread': 'server/kernel-thread.ts',
    'print-worker': 'server/prints/worker.ts',
    'preview-worker': 'server/previews/worker.ts',
    'hygiene-worker': 'server/hygiene/worker.ts',
    'zip-worker': 'server/zip/worker.ts',
    'file-worker': 'files/reading-worker.ts',
    'build-maps': 'server/build-maps.ts',
    'build-things': 'server/things/build.ts',
    author: 'author/main.ts',
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
  packages: 'external',
  sourcemap: true,
  logLevel: 'warning',
});
// The tour's page is one classic script: modules do not run from a file.
await build({
  entryPoints: { tour: 'viewer/main.ts' },
  outdir: 'dist',
  bundle: true,
  minify: true,
  format: 'iife',
  target: 'es2020',
  logLevel: 'warning',
});
copyFileSync('viewer/tour.css', 'dist/tour.css');
copyFileSync('author/page/index.html', 'dist/author-page.html');
copyFileSync('author/page/page.js', 'dist/author-page.js');
