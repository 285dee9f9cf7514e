// Builds everything into dist/: kernel, maps, server and author, web application. What is up to date is left alone.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { fingerprint } from './fingerprint.mjs';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
process.chdir(root);

const isSpec = (place) => place.endsWith('.spec.ts');

const run =
  (command, ...args) =>
  async () => {
    const child = spawn(command, args, { stdio: 'inherit', env: { ...process.env, NG_CLI_ANALYTICS: 'false' } });
    const [status] = await once(child, 'exit');
    if (status !== 0) process.exit(status ?? 1);
  };

const STEPS = [
  {
    name: 'web application',
    reads: ['core', 'web', 'angular.json', 'tsconfig.base.json', 'package-lock.json'],
    makes: 'dist/web/browser/index.html',
    run: run('node', 'node_modules/@angular/cli/bin/ng.js', 'build'),
  },
  {
    name: 'light kernel',
    reads: ['core/kernel/assembly', 'core/denoise/weights', 'scripts/build-kernel.mjs'],
    makes: 'dist/kernel.wasm',
    run: run('node', 'scripts/build-kernel.mjs'),
  },
  {
    name: 'server and author',
    reads: ['core', 'files', 'link', 'server', 'author', 'scripts/build-node.mjs', 'package-lock.json'],
    makes: 'dist/server.mjs',
    run: run('node', 'scripts/build-node.mjs'),
  },
  {
    name: 'library of things',
    reads: ['core/setting', 'core/geometry', 'server/things', 'package-lock.json'],
    makes: 'dist/things/catalogue.json',
    run: async () => {
      rmSync('dist/things', { recursive: true, force: true });
      await run('node', 'dist/build-things.mjs')();
    },
  },
  {
    name: 'finish maps',
    reads: ['core/finish/maps', 'core/finish/library.ts', 'server/build-maps.ts'],
    makes: 'dist/maps/complete',
    run: async () => {
      rmSync('dist/maps', { recursive: true, force: true });
      await run('node', 'dist/build-maps.mjs')();
      writeFileSync('dist/maps/complete', '');
    },
  },
];

async function build(step) {
  const stampFile = path.join('dist', `.built-${step.name.replaceAll(' ', '-')}`);
  const stamp = fingerprint(step.reads, isSpec);
  if (existsSync(step.makes) && existsSync(stampFile) && readFileSync(stampFile, 'utf8') === stamp) return;
  console.log(`Building: ${step.name}`);
  await step.run();
  writeFileSync(stampFile, stamp);
}

mkdirSync('dist', { recursive: true });
const [web, ...others] = STEPS;
const inOrder = async (steps) => {
  for (const step of steps) await build(step);
};
// The application needs nothing of the rest, and is half of the time.
await Promise.all([build(web), inOrder(others)]);
