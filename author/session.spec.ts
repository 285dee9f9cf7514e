import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openPage, removeFolder, startServer, temporaryFolder, type RunningServer } from '../server/testing/running-server';

/** The simulated author as a process of its own, without a browser. */

const AUTHOR = 'dist/author.mjs';
const folder = temporaryFolder();
let server: RunningServer;
beforeAll(async () => {
  server = await startServer(path.join(folder, 'data'));
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});
const run = (...args: string[]) => spawnSync('node', [AUTHOR, ...args], { encoding: 'utf8' });

describe('the author as a program', () => {
  it('plays its session of twenty edits over the link and ends', async () => {
    const { status, stdout } = run('--server', server.url, '--token', server.token, '--session');
    expect(status).toBe(0);
    const { edits, revision } = JSON.parse(stdout) as { edits: number; revision: number };
    expect(edits).toBe(20);
    // One revision for the snapshot; edits that undo each other may leave nothing to send.
    expect(revision).toBeGreaterThanOrEqual(15);
    const page = await openPage(server);
    const model = await page.next('model');
    expect(model.revision).toBe(revision);
    expect(model.change.materials.find((m) => m.id === 'cladding')!.name).toBe('Cladding type B');
    expect(model.change.time).toBe('2026-10-16T18:20');
    expect((await page.next('sources')).sources[0]).toMatchObject({ state: 'out-of-reach', tool: 'Simulated author' });
    page.close();
  });

  it('begins with the edits that it is given, and says so where they are none', () => {
    const file = path.join(folder, 'begun.ifc');
    const renamed = JSON.stringify([{ edit: 'rename', material: 'bank', name: 'Bank of soil' }]);
    expect(run('--ifc', file, '--edits', renamed).status).toBe(0);
    expect(readFileSync(file, 'utf8')).toContain('Bank of soil');
    for (const none of ['nonsense', '[{"edit":"dig"}]']) {
      const { status, stderr } = run('--ifc', file, '--edits', none);
      expect([status, stderr]).toEqual([1, '--edits is a list of edits as JSON, each as the page of buttons sends it.\n']);
    }
  });

  it('says why it was turned away, and ends with 1', () => {
    const { status, stderr } = run('--server', server.url, '--token', 'wrong', '--session');
    expect(status).toBe(1);
    expect(stderr).toMatch(/^The link was refused: .+/);
  });

  it('writes its model as IFC4', () => {
    const file = path.join(folder, 'marram.ifc');
    expect(run('--ifc', file).status).toBe(0);
    const text = readFileSync(file, 'latin1');
    expect(text).toMatch(/^ISO-10303-21;/);
    expect(text.trimEnd()).toMatch(/END-ISO-10303-21;$/);
    expect(text).toContain("FILE_SCHEMA(('IFC4'))");
  });
});
