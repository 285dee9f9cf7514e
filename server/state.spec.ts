import { spawnSync } from 'node:child_process';
import { cpSync, mkdirSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, describe, expect, it } from 'vitest';
import type { EntryChange } from '../core/project/project';
import { openPage, removeFolder, say, startServer, temporaryFolder } from './testing/running-server';

const SERVER = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..', 'dist', 'server.mjs');
const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});

describe('state', () => {
  it('survives kill -9 once confirmed, and undo and redo go on across restarts and pages', async () => {
    const data = path.join(folder, 'a');
    let server = await startServer(data);
    let page = await openPage(server);
    for (const [i, minutes] of [600, 700, 800].entries())
      say(page, { type: 'command', id: `c${String(i)}`, command: { type: 'set-sun', date: '2026-06-01', minutes } });
    await page.next('changes', (m) => m.reply === 'c2');
    await server.kill('SIGKILL');

    server = await startServer(data);
    page = await openPage(server);
    const other = await openPage(server);
    const sunOf = (entries: [string, unknown][]) => new Map(entries).get('sun');
    expect(sunOf((await page.next('project')).entries)).toEqual({ date: '2026-06-01', minutes: 800 });
    const sunAfter = (changes: EntryChange[]) => changes.find((c) => c.key === 'sun')?.after;
    say(page, { type: 'undo', id: 'u1' });
    expect(sunAfter((await other.next('changes', (m) => m.reply === 'u1')).changes)).toEqual({ date: '2026-06-01', minutes: 700 });
    say(other, { type: 'undo', id: 'u2' });
    await page.next('changes', (m) => m.reply === 'u2');
    say(other, { type: 'redo', id: 'r1' });
    const redone = await page.next('changes', (m) => m.reply === 'r1');
    expect(sunAfter(redone.changes)).toEqual({ date: '2026-06-01', minutes: 700 });
    expect(redone.history.map((row) => row.undone)).toEqual([true, false, false]);
    // A new command ends what was undone.
    say(page, { type: 'command', id: 'c9', command: { type: 'set-sun', date: '2026-06-02', minutes: 1 } });
    expect((await page.next('changes', (m) => m.reply === 'c9')).history.some((row) => row.undone)).toBe(false);
    say(page, { type: 'redo', id: 'r2' });
    expect((await page.next('refused', (m) => m.reply === 'r2')).message).toContain('nothing to redo');
    await server.kill('SIGTERM');
  });

  it('is one folder that can be copied', async () => {
    const copy = path.join(folder, 'copy');
    cpSync(path.join(folder, 'a'), copy, { recursive: true });
    const server = await startServer(copy);
    const page = await openPage(server);
    expect(new Map((await page.next('project')).entries).get('sun')).toEqual({ date: '2026-06-02', minutes: 1 });
    await server.kill('SIGTERM');
  });

  it('refuses what is not a command, by field, and changes nothing', async () => {
    const server = await startServer(path.join(folder, 'b'));
    const page = await openPage(server);
    await page.next('project');
    page.send({ type: 'command', id: 'x', command: { type: 'set-sun', date: '2026-06-01', minutes: 9999 } });
    expect((await page.next('refused', (m) => m.reply === 'x')).message).toContain('command.minutes');
    page.send('nonsense');
    await page.next('refused', (m) => m.message.includes('JSON'));
    expect(page.received.some((m) => m.type === 'changes')).toBe(false);
    await server.kill('SIGTERM');
  });

  it('sends security headers and keeps its paths to itself', async () => {
    const server = await startServer(path.join(folder, 'c'));
    const response = await fetch(`${server.url}/`);
    expect(response.headers.get('cross-origin-embedder-policy')).toBe('require-corp');
    expect(response.headers.get('content-security-policy')).toContain("default-src 'self'");
    expect(response.headers.get('x-content-type-options')).toBe('nosniff');
    for (const hostile of [
      '/api/blobs/..%2f..%2fproject.sqlite',
      '/api/prints/..%2f..%2fx/picture.png',
      '/api/maps/..%2fkernel',
      '/..%2f..%2fetc%2fpasswd',
    ]) {
      const answer = await fetch(`${server.url}${hostile}`);
      expect((await answer.text()).includes('SQLite') || answer.headers.get('content-type')?.includes('image')).toBe(false);
    }
    const foreign = await fetch(`${server.url}/api/blobs/pack`, {
      method: 'POST',
      headers: { Origin: 'http://elsewhere.example', 'Content-Type': 'application/json' },
      body: '{"blobs":[]}',
    });
    expect(foreign.status).toBe(403);
    expect(
      (
        await fetch(`${server.url}/api/blobs/pack`, {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: '{"blobs":["zz"]}',
        })
      ).status,
    ).toBe(400);
    expect(
      (await fetch(`${server.url}/api/blobs/pack`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: '{' })).status,
    ).toBe(400);
    await server.kill('SIGTERM');
  });

  it('answers only to the names of this machine while it listens on loopback', async () => {
    const server = await startServer(path.join(folder, 'g'));
    const status = (host: string, upgrade: boolean) =>
      new Promise<number>((resolve) => {
        const headers = upgrade ? { Host: host, Connection: 'Upgrade', Upgrade: 'websocket', 'Sec-WebSocket-Key': 'AAAAAAAAAAAAAAAAAAAAAA==', 'Sec-WebSocket-Version': '13' } : { Host: host };
        const asked = request(`${server.url}${upgrade ? '/live' : '/'}`, { headers });
        asked.on('response', (response) => {
          response.resume();
          resolve(response.statusCode!);
        });
        asked.on('upgrade', (response, socket) => {
          socket.destroy();
          resolve(response.statusCode!);
        });
        asked.end();
      }); // prettier-ignore
    const port = new URL(server.url).port;
    expect(await status(`localhost:${port}`, false)).toBe(200);
    expect(await status(`127.0.0.1:${port}`, true)).toBe(101);
    expect(await status(`rebound.example:${port}`, false)).toBe(403);
    expect(await status(`rebound.example:${port}`, true)).toBe(403);
    await server.kill('SIGTERM');
  });

  it('says in one sentence why it cannot start', async () => {
    const server = await startServer(path.join(folder, 'd'));
    const start = (...args: string[]) => spawnSync('node', [SERVER, ...args], { encoding: 'utf8' });
    const busy = start('--port', new URL(server.url).port, '--data', path.join(folder, 'e'));
    expect(busy.status).toBe(1);
    expect(busy.stderr.trim()).toMatch(/^Port \d+ is already in use; choose another with --port\.$/);
    mkdirSync(path.join(folder, 'f'), { recursive: true });
    writeFileSync(path.join(folder, 'f', 'file'), '');
    const unwritable = start('--port', '0', '--data', path.join(folder, 'f', 'file', 'inside'));
    expect(unwritable.status).toBe(1);
    expect(unwritable.stderr.trim()).toMatch(/^The data directory .* cannot be written\.$/);
    await server.kill('SIGTERM');
  });
});
