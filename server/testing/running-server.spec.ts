import { spawn } from 'node:child_process';
import path from 'node:path';
import { expect, it } from 'vitest';
import { firstJson, removeFolder, temporaryFolder } from './running-server';

const alive = (pid: number): boolean => {
  try {
    return process.kill(pid, 0);
  } catch {
    return false;
  }
};

it('a server that a test has started ends when the test is killed', async () => {
  const folder = temporaryFolder();
  // A test in small: starts a server as running-server.ts does, says which, and waits to be killed.
  const source = `
    import { spawn } from 'node:child_process';
    const server = spawn('node', ${JSON.stringify([path.resolve('dist/server.mjs'), '--port', '0', '--data', folder, '--library', `${folder}-library`, '--no-previews'])}, { stdio: ['pipe', 'pipe', 'inherit'], env: { ...process.env, DIAPHANE_END_WITH_INPUT: '1' } });
    server.stdout.once('data', () => console.log(JSON.stringify({ pid: server.pid })));
    setInterval(() => {}, 1000);`;
  const test = spawn('node', ['--input-type=module', '-e', source], { stdio: ['ignore', 'pipe', 'inherit'] });
  const { pid } = await firstJson<{ pid: number }>(test);
  expect(alive(pid)).toBe(true);
  test.kill('SIGKILL');
  await expect.poll(() => alive(pid)).toBe(false);
  removeFolder(folder);
});
