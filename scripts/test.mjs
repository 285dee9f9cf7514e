// npm test: installs what it needs, then type check, lint, unit tests, browser journeys. Last line: N passed, N failed.
import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { constants, setPriority, tmpdir } from 'node:os';
import path from 'node:path';
import { Buffer } from 'node:buffer';
import { fileURLToPath } from 'node:url';
import { fingerprint } from './fingerprint.mjs';
import { checkNode, installPackages } from './install.mjs';

checkNode();
process.chdir(path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..'));
const CHROMIUM = '/usr/bin/chromium';
/** What lint, types and format know of files that have not changed. */
const CACHE = 'node_modules/.cache';

let passed = 0;
let failed = 0;
/** What failed, told once more at the end, where it is seen. */
const faults = [];

function step(name, command, ...args) {
  console.log(`\n== ${name}`);
  return count(name, spawnSync(command, args, { stdio: 'inherit' }).status);
}

function count(name, status) {
  if (status === 0) passed++;
  else {
    failed++;
    faults.push(name);
  }
  return status === 0;
}

/** What is not written here. */
const MADE = new Set(['node_modules', 'dist', '.git', '.angular', 'data', 'coverage']);

/**
 * Checks of what is written, at the same time and with what the tests leave of the processor; what each says comes when it ends.
 * Those that passed on the very same files are not made again.
 */
async function checks(...steps) {
  mkdirSync(CACHE, { recursive: true });
  const written = fingerprint(readdirSync('.').sort(), (place) => MADE.has(path.basename(place)));
  await Promise.all(
    steps.map(async ([name, command, ...args]) => {
      const stampFile = path.join(CACHE, `passed-${name.toLowerCase()}`);
      if (existsSync(stampFile) && readFileSync(stampFile, 'utf8') === written) {
        console.log(`\n== ${name}\npassed before on the same files`);
        count(name, 0);
        return;
      }
      const child = spawn(command, args);
      setPriority(child.pid, constants.priority.PRIORITY_LOW);
      const said = [];
      child.stdout.on('data', (data) => said.push(data));
      child.stderr.on('data', (data) => said.push(data));
      const [status] = await once(child, 'close');
      console.log(`\n== ${name}\n${Buffer.concat(said)}`);
      if (count(name, status)) writeFileSync(stampFile, written);
    }),
  );
}

/** Runs a Vitest project and counts its tests. */
async function tests(name, ...args) {
  console.log(`\n== ${name}`);
  const folder = mkdtempSync(path.join(tmpdir(), 'diaphane-test-'));
  const report = path.join(folder, 'report.json');
  const child = spawn('npx', ['vitest', 'run', ...args, '--reporter=default', '--reporter=json', `--outputFile=${report}`], {
    stdio: 'inherit',
  });
  const [status] = await once(child, 'close');
  if (existsSync(report)) {
    const { numPassedTests, numTotalTests, testResults } = JSON.parse(readFileSync(report, 'utf8'));
    const said = testResults.flatMap(faultsOf);
    if (said.length === 0 && (status !== 0 || numTotalTests === 0)) said.push(`${name}: ${numTotalTests} tests, ended with ${status}`);
    passed += numPassedTests;
    failed += said.length;
    faults.push(...said);
    nameSkipped(testResults.filter(({ status: its }) => its !== 'failed'));
  } else {
    failed++;
    faults.push(`${name}: no report`);
  }
  rmSync(folder, { recursive: true, force: true });
}

/** The tests of a file that failed, or what stopped the file before they ran; with the first lines of why. */
function faultsOf({ name, status, message, assertionResults }) {
  const file = path.relative('.', name);
  const why = (text) => text.split('\n').slice(0, 3).join('\n    ');
  const tests = assertionResults.filter((test) => test.status === 'failed');
  if (tests.length > 0) return tests.map((test) => `${file}: ${test.fullName.trim()}\n    ${why(test.failureMessages.join('\n'))}`);
  return status === 'failed' ? [`${file}\n    ${why(message)}`] : [];
}

/** What was left out because files from outside the repository are not there. */
function nameSkipped(files) {
  const skipped = files.flatMap(({ assertionResults }) => assertionResults.filter(({ status }) => ['skipped', 'pending'].includes(status)));
  if (skipped.length === 0) return;
  console.log(
    `\n${skipped.length} left out for want of files from outside (apt-get install assimp-testmodels openscad-testing-data ffmpeg openexr):`,
  );
  for (const { fullName } of skipped) console.log(`  ${fullName.trim()}`);
}

function finish() {
  if (faults.length > 0) console.log(`\nFailed:\n${faults.map((fault) => `  ${fault}`).join('\n')}`);
  console.log(`${passed} passed, ${failed} failed`);
  process.exit(failed === 0 ? 0 : 1);
}

/** What tests need of Debian, and a file by which it is known to be there. */
const PACKAGES = {
  chromium: CHROMIUM,
  ffmpeg: '/usr/bin/ffmpeg',
  openexr: '/usr/bin/exrheader',
  'libimage-exiftool-perl': '/usr/bin/exiftool',
  'assimp-testmodels': '/usr/share/assimp/models',
  'openscad-testing-data': '/usr/share/openscad/testdata/dxf',
};

/** Debian's packages, by apt where they are missing and possible; one that cannot be had leaves out its tests alone. */
function ensurePackages() {
  const missing = () => Object.keys(PACKAGES).filter((name) => !existsSync(PACKAGES[name]));
  if (missing().length > 0 && process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    console.log(`Installing ${missing().join(', ')} (apt) …`);
    const apt = (...args) =>
      spawnSync('apt-get', ['-o', 'DPkg::Lock::Timeout=300', ...args], {
        stdio: 'inherit',
        env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      });
    apt('update', '-qq');
    apt('install', '-y', '-qq', '--no-install-recommends', ...missing());
    for (const name of missing()) apt('install', '-y', '-qq', name);
  }
  if (existsSync(CHROMIUM)) return true;
  console.error('The browser journeys need Chromium: install it with "apt-get install chromium" as root, then run npm test again.');
  return false;
}

installPackages();
if (!step('Build', 'node', 'scripts/build.mjs')) finish();
const checked = checks(
  ['Lint', 'npx', 'eslint', '--cache', '--cache-strategy', 'content', '--cache-location', `${CACHE}/eslint-files`, '.'],
  ['Types', 'npx', 'tsc', '-p', 'tsconfig.json', '--incremental', '--tsBuildInfoFile', `${CACHE}/tsc`],
  ['Format', 'npx', 'prettier', '--check', '--cache', '--cache-location', `${CACHE}/prettier-files`, '--log-level', 'warn', '.'],
);
const hasBrowser = ensurePackages();
await tests('Unit tests');
if (hasBrowser) await tests('Browser journeys', '--config', 'e2e/vitest.config.ts');
else failed++;
await checked;
finish();
