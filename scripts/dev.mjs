// npm run dev: builds, then watches: the web application by its own builder, server and author are rebuilt and restarted on change.
import { spawn, spawnSync } from 'node:child_process';
import { watch } from 'node:fs';

const build = () => spawnSync('node', ['scripts/build.mjs'], { stdio: 'inherit' }).status === 0;
if (!build()) process.exit(1);
const web = spawn('node', ['node_modules/@angular/cli/bin/ng.js', 'build', '--watch', '--configuration', 'development'], {
  stdio: 'inherit',
});
let demo;
const start = () => (demo = spawn('node', ['scripts/demo.mjs'], { stdio: 'inherit' }));
start();
let timer;
for (const folder of ['core', 'server', 'author'])
  watch(folder, { recursive: true }, () => {
    clearTimeout(timer);
    timer = setTimeout(() => {
      const kernel = spawnSync('node', ['scripts/build-kernel.mjs'], { stdio: 'inherit' });
      const node = spawnSync('node', ['scripts/build-node.mjs'], { stdio: 'inherit' });
      if (kernel.status !== 0 || node.status !== 0) return;
      demo.once('exit', start);
      demo.kill('SIGTERM');
    }, 300);
  });
process.on('SIGINT', () => {
  web.kill();
  demo?.kill('SIGTERM');
  process.exit(0);
});
