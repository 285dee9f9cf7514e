// Bundles the server's and the author's programs into dist/.
import { copyFileSync, mkdirSync } from 'node:fs';
import { build } from 'esbuild';

mkdirSync('dist', { recursive: true });
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
    author: 'author/main.ts',
    diaphane: 'link/main.ts',
  },
  outdir: 'dist',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  sourcemap: true,
  logLevel: 'warning',
});
copyFileSync('author/page/index.html', 'dist/author-page.html');
copyFileSync('author/page/page.js', 'dist/author-page.js');
