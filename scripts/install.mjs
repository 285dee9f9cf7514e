// Installs the packages if they are not there or not the ones of the lock file. Used by demo and test.
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';

export const MIN_NODE = [20, 19];

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major > MIN_NODE[0] || (major === MIN_NODE[0] && minor >= MIN_NODE[1])) return;
  console.error(`Diaphane needs Node.js ${MIN_NODE.join('.')} or newer; this is ${process.versions.node}.`);
  process.exit(1);
}

export function installPackages() {
  const stamp = 'node_modules/.diaphane-lock';
  const lock = readFileSync('package-lock.json', 'utf8');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  console.log('Installing packages (npm ci), two to three minutes …');
  const { status } = spawnSync('npm', ['ci', '--no-audit', '--no-fund'], { stdio: 'inherit' });
  if (status !== 0) {
    console.error('The packages could not be installed; see above.');
    process.exit(1);
  }
  writeFileSync(stamp, lock);
}
