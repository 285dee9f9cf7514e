import { existsSync, mkdirSync, truncateSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { random } from '../core/random';
import { openPage, removeFolder, startServer, temporaryFolder, type RunningServer } from './testing/running-server';

/** What anybody who can open a connection may send. */

let server: RunningServer;
const folder = temporaryFolder();
const models = path.join(folder, 'models');
beforeAll(async () => {
  mkdirSync(models);
  server = await startServer(path.join(folder, 'data'), '--watch', models);
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});

/** Sends bytes as they are; resolves with what came back when the other side or the silence ends it. */
function sent(bytes: string): Promise<string> {
  return new Promise((resolve) => {
    const socket = connect(Number(new URL(server.url).port), '127.0.0.1');
    let answer = '';
    const end = () => {
      socket.destroy();
      resolve(answer);
    };
    socket.setTimeout(1500, end);
    socket.on('data', (data) => {
      answer += data.toString('latin1');
      end();
    });
    socket.on('error', end);
    socket.on('close', end);
    socket.end(bytes, 'latin1');
  });
}

const isUp = async () => (await fetch(`${server.url}/`)).status === 200;

const upgrade = (target: string, headers: string[] = []) =>
  `${[`GET ${target} HTTP/1.1`, 'Host: 127.0.0.1', 'Connection: Upgrade', 'Upgrade: websocket', 'Sec-WebSocket-Version: 13', 'Sec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==', ...headers].join('\r\n')}\r\n\r\n`;

describe('a server under attack', () => {
  it('answers an upgrade to a path that is no address', async () => {
    for (const target of ['//', '///', '/\\', 'http://', '//[', '*']) {
      expect(await sent(upgrade(target, ['Origin: http://elsewhere.example']))).toMatch(/^HTTP\/1.1 4\d\d /);
      expect(await isUp(), target).toBe(true);
    }
  });

  it('takes no path to a file for an id', async () => {
    for (const folderName of ['viewers', 'library', 'own-things', 'prints', 'deliveries']) {
      const kept = path.join(folder, 'kept.html');
      const zipped = path.join(folder, 'kept.zip');
      for (const file of [kept, zipped]) writeFileSync(file, 'kept');
      for (const id of ['..%2f..%2fkept', '..%2fkept', '%2e%2e%2f%2e%2e%2fkept', '..%5c..%5ckept']) {
        const response = await fetch(`${server.url}/api/${folderName}/${id}`, { method: 'DELETE' });
        expect(response.status, id).toBe(404);
      }
      for (const file of [kept, zipped]) expect(existsSync(file), folderName).toBe(true);
    }
  });

  it('refuses a change that is too large in a sentence, and the page stays connected', async () => {
    const page = await openPage(server);
    await page.next('project');
    page.send({ type: 'command', id: 'large', command: { type: 'keep-remark', text: 'x'.repeat(6 * 1024 * 1024) } });
    expect(await page.next('refused')).toMatchObject({
      reply: 'large',
      message: 'This change is too large to be kept: 6 MB, where 4 MB are taken.',
    });
    page.send({ type: 'undo', id: 'after' });
    expect((await page.next('refused', ({ reply }) => reply === 'after')).message).toBe('There is nothing to undo.');
    page.close();
  });

  it('stays up under ten thousand broken requests', async () => {
    const next = random(17);
    const pick = <T>(all: readonly T[]): T => all[Math.floor(next() * all.length)]!;
    const junk = () => Array.from({ length: Math.floor(next() * 24) }, () => String.fromCharCode(Math.floor(next() * 256))).join('');
    const piece = () => pick(['/', '//', '/link', '/live', '/api', '/api/blobs/', '/api/prints/', '/api/sources/file?name=', '/api/maps/', '%', '%00', '%2e%2e/', '..', '\\', '[', ']', '@', ':', '?', '#', '\u00ff', 'http://', junk(), 'x'.repeat(Math.floor(next() * 3000))]); // prettier-ignore
    const target = () => Array.from({ length: 1 + Math.floor(next() * 4) }, piece).join('');
    const header = () => pick([`Origin: ${target()}`, `Host: ${target()}`, `Cookie: ${junk()}`, `Content-Length: ${pick(['-1', '1e9', '5', '99999999999', junk()])}`, 'Transfer-Encoding: chunked', `Range: bytes=${junk()}`, `If-None-Match: ${junk()}`, 'Content-Type: application/json', `Sec-WebSocket-Extensions: ${junk()}`, `Sec-WebSocket-Key: ${junk()}`, `${junk()}: ${junk()}`]); // prettier-ignore
    const headers = () => Array.from({ length: Math.floor(next() * 4) }, header);
    const request = () =>
      next() < 0.5
        ? upgrade(target(), headers())
        : `${pick(['GET', 'POST', 'DELETE', 'OPTIONS', 'CONNECT', 'PUT', junk()])} ${target()} ${pick(['HTTP/1.1', 'HTTP/1.0', 'HTTP/9.9', junk()])}\r\n${['Host: 127.0.0.1', ...headers()].join('\r\n')}\r\n\r\n${pick(['', '{', '[]', '{"blobs":[1]}', junk()])}`;
    const COUNT = 10_000;
    const AT_ONCE = 50;
    for (let i = 0; i < COUNT; i += AT_ONCE) await Promise.all(Array.from({ length: AT_ONCE }, () => sent(request())));
    expect(await isUp()).toBe(true);
  });

  it('says how large a text may be, and stays up with a file that is larger, sent or watched, and after a restart', async () => {
    const LARGE = 505_000_000;
    const sentence = 'big.obj holds 505 MB of text; up to 500 MB are read. Split the model, or use a format that is not text, as GLB.';
    const sent = await fetch(`${server.url}/api/sources/file?name=big.obj`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream', 'Content-Encoding': 'gzip' },
      body: gzipSync(Buffer.alloc(LARGE), { level: 1 }),
    });
    expect([sent.status, await sent.json()]).toEqual([422, { message: sentence }]);
    const file = path.join(models, 'big.obj');
    writeFileSync(file, 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n');
    const watch = () => fetch(`${server.url}/api/sources/watch`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ path: 'big.obj' }) }); // prettier-ignore
    expect((await watch()).status).toBe(201);
    truncateSync(file, LARGE);
    const faultTold = async () => {
      const page = await openPage(server);
      const told = page.next('sources', ({ sources }) => sources.some(({ fault }) => fault === sentence));
      await told;
      page.close();
    };
    await faultTold();
    await server.kill('SIGTERM');
    server = await startServer(path.join(folder, 'data'), '--watch', models);
    await faultTold();
    expect(await isUp()).toBe(true);
  });
});
