// npm run demo: installs, builds, starts the server with the demo project and the simulated author, prints one URL.
import { spawn, spawnSync } from 'node:child_process';
import { accessSync, constants, mkdirSync } from 'node:fs';
import net from 'node:net';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { fileURLToPath } from 'node:url';
import { checkNode, installPackages } from './install.mjs';

checkNode();
process.chdir(path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..'));

function fail(message) {
  console.error(message);
  process.exit(1);
}

let options;
try {
  options = parseArgs({
    options: {
      port: { type: 'string', default: '4600' },
      host: { type: 'string', default: '127.0.0.1' },
      data: { type: 'string', default: 'data/marram-landing' },
      proxies: { type: 'string', default: '0' },
      'no-demo': { type: 'boolean', default: false },
    },
  }).values;
} catch (error) {
  fail(`${error.message} Options: --port NUMBER, --data DIR, --host ADDRESS, --proxies NUMBER, --no-demo.`);
}
const port = Number(options.port);
if (!Number.isInteger(port) || port < 1 || port > 65535) fail(`--port ${options.port} is not a port number.`);
try {
  mkdirSync(options.data, { recursive: true });
  accessSync(options.data, constants.W_OK);
} catch {
  fail(`The data directory ${options.data} cannot be written.`);
}
await checkPort(port);
installPackages();
const built = spawnSync('node', ['scripts/build.mjs'], { stdio: 'inherit' });
if (built.status !== 0) fail('The build failed; see above.');

const children = [];
process.on('SIGINT', () => end(0));
process.on('SIGTERM', () => end(0));
const server = start('dist/server.mjs', [
  '--port',
  String(port),
  '--host',
  options.host,
  '--proxies',
  options.proxies,
  '--data',
  options.data,
  '--name',
  options['no-demo'] ? 'Untitled' : 'Marram Landing',
]);
const { listening, token } = await firstLine(server);
if (!options['no-demo']) {
  // Its own page needs no sign-in, so that it stays on this computer.
  const reach = options.host === '0.0.0.0' ? '127.0.0.1' : options.host;
  const author = start('dist/author.mjs', [
    '--server',
    `http://${reach}:${port}`,
    '--token',
    token,
    '--port',
    String(await freePort(port + 1)),
  ]);
  const line = await firstLine(author);
  console.log(`The simulated author's own page: ${line.author}`);
  // Off this computer only who has signed in decides anything.
  if (['127.0.0.1', 'localhost'].includes(options.host)) {
    // Its package is there now, at the latest.
    const { keepConditions } = await import('./demo-conditions.mjs');
    await keepConditions(`http://${options.host}:${port}`);
    const { keepSetting } = await import('./demo-setting.mjs');
    await keepSetting(`http://${options.host}:${port}`);
  }
}
console.log(`Diaphane is ready: ${listening}`);

function start(file, args) {
  const child = spawn('node', [file, ...args], { stdio: ['ignore', 'pipe', 'inherit'] });
  children.push(child);
  child.on('exit', (code) => {
    if (code) end(code);
  });
  return child;
}

function firstLine(child) {
  return new Promise((resolve) => {
    child.stdout.once('data', (data) => resolve(JSON.parse(String(data).split('\n')[0])));
  });
}

function end(code) {
  for (const child of children) child.kill('SIGTERM');
  process.exit(code);
}

function tryPort(number) {
  return new Promise((resolve) => {
    const probe = net.createServer();
    probe.once('error', (error) => resolve(error.code));
    probe.listen(number, options.host, () => probe.close(() => resolve(undefined)));
  });
}

async function checkPort(number) {
  const code = await tryPort(number);
  if (code === 'EADDRINUSE') fail(`Port ${number} is already in use; choose another with --port.`);
  if (code) fail(`The server cannot listen on ${options.host}:${number} (${code}).`);
}

async function freePort(from) {
  for (let number = from; number < from + 50; number++) if ((await tryPort(number)) === undefined) return number;
  return fail('No free port was found for the simulated author.');
}
