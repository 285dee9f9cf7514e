import { spawn } from 'node:child_process';
import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openPage, removeFolder, startServer, temporaryFolder, type RunningServer } from '../server/testing/running-server';

/** The built command, against a running server. */

const folder = temporaryFolder();
const models = path.join(folder, 'models');
const CLI = path.resolve('dist/diaphane.mjs');
const triangle = (x: number, name = 'Tri') => `o ${name}\nv ${String(x)} 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n`;
let server: RunningServer;

beforeAll(async () => {
  mkdirSync(models);
  server = await startServer(path.join(folder, 'data'));
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});

function run(...args: string[]) {
  const child = spawn('node', [CLI, ...args], { stdio: ['ignore', 'pipe', 'pipe'] });
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (data: Buffer) => (said += data.toString()));
  const ended = new Promise<{ code: number | null; said: string }>((resolve) => {
    child.once('exit', (code) => {
      resolve({ code, said: said.trim() });
    });
  });
  return { ended, stop: () => child.kill('SIGTERM') };
}

const target = () => ['--to', server.url, '--token', server.token];

describe('diaphane link', () => {
  it('links one file and ends, if that is asked for', async () => {
    const file = path.join(folder, 'one.obj');
    writeFileSync(file, triangle(2));
    expect(await run('link', file, ...target(), '--once').ended).toEqual({ code: 0, said: 'one.obj: in step, revision 1' });
    const page = await openPage(server);
    const { sources } = await page.next('sources', (m) => m.sources.some((s) => s.name === 'one.obj'));
    expect(sources[0]).toMatchObject({ tool: 'diaphane link', kind: 'link' });
    page.close();
  });

  it('keeps a folder in step: what changes, what comes anew; a broken file leaves the last good model', async () => {
    writeFileSync(path.join(models, 'a.obj'), triangle(2));
    writeFileSync(path.join(models, 'notes.txt'), 'not a model');
    const cli = run('link', models, ...target());
    const page = await openPage(server);
    const a = (await page.next('sources', (m) => m.sources.some((s) => s.name === 'a.obj' && s.revision === 1))).sources.find((s) => s.name === 'a.obj')!;
    writeFileSync(path.join(models, 'b.obj'), triangle(3));
    await page.next('sources', (m) => m.sources.some((s) => s.name === 'b.obj' && s.revision === 1));
    writeFileSync(path.join(models, 'a.obj'), 'broken');
    writeFileSync(path.join(models, 'a.new'), triangle(4, 'Tri') + triangle(5, 'Other').replace('f 1 2 3', 'f 4 5 6'));
    renameSync(path.join(models, 'a.new'), path.join(models, 'a.obj'));
    const delta = await page.next('model', (m) => m.source === a.id && !m.change.reset);
    expect(delta.change.elements.map((e) => e.id)).toEqual(['/Tri', '/Other']);
    page.close();
    cli.stop();
    expect((await cli.ended).code).toBe(0);
  }); // prettier-ignore

  it('says in one sentence what is wrong', async () => {
    const file = path.join(folder, 'bad.obj');
    writeFileSync(file, 'hello');
    const said = async (...args: string[]) => run(...args).ended;
    expect(await said('link')).toMatchObject({ code: 1, said: expect.stringContaining('Usage: diaphane link') as string });
    expect(await said('link', file, '--nonsense')).toMatchObject({ code: 1 });
    expect(await said('link', path.join(folder, 'gone.obj'), ...target())).toMatchObject({ code: 1, said: `${path.join(folder, 'gone.obj')} is not there.` });
    expect(await said('link', file, '--to', 'quay', '--token', 't')).toMatchObject({ code: 1, said: 'quay is no address; it begins with http:// or https://.' });
    expect(await said('link', file, ...target(), '--once')).toEqual({ code: 1, said: 'bad.obj is not an OBJ: it has no line of a vertex.' });
    writeFileSync(file, triangle(1));
    const refused = await said('link', file, '--to', server.url, '--token', 'wrong', '--once');
    expect(refused.code).toBe(1);
    expect(refused.said).toContain('bad.obj was refused');
  }); // prettier-ignore
});
