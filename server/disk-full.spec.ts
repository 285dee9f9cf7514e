import { spawnSync } from 'node:child_process';
import { mkdirSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { openYard, post, YARD_ORDER } from './prints/yard';
import { removeFolder, say, temporaryFolder } from './testing/running-server';
import { DISK_FULL, isDiskFull, PRINT_WAITS } from './disk-full';

/** A small disk of memory, where one may be had; else the server's part is left out. */

const folder = temporaryFolder();
const disk = path.join(folder, 'disk');
mkdirSync(disk);
const isThere = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=256m', 'tmpfs', disk]).status === 0;
afterAll(() => {
  if (isThere) spawnSync('umount', ['-l', disk]);
  removeFolder(folder);
});

it('is told by what SQLite and the system say', () => {
  expect(isDiskFull(Object.assign(new Error('x'), { code: 'SQLITE_FULL' }))).toBe(true);
  expect(isDiskFull(new Error('x', { cause: Object.assign(new Error('write'), { code: 'ENOSPC' }) }))).toBe(true);
  expect(isDiskFull(new Error('ENOENT: no such file'))).toBe(false);
});

it.runIf(isThere)('a full disk stops neither the server nor a print for good; what cannot be kept is refused in words', async () => {
  const { server, page } = await openYard(path.join(disk, 'data'));
  const fillTo = (name: string, left: number) => {
    const { bavail, bsize } = statfsSync(disk);
    writeFileSync(path.join(disk, name), Buffer.alloc(Math.max(0, bavail * bsize - left), 1));
  };
  const order = await post(server, '/api/prints', { ...YARD_ORDER, width: 640, height: 360, quality: 'proof' });
  const { id } = (await order.json()) as { id: string };
  // Too little for what is kept of the print, enough to say so.
  fillTo('first', 2 * 1024 * 1024);
  await page.next('prints', ({ prints }) => prints.some((print) => print.id === id && print.fault === PRINT_WAITS));
  fillTo('second', 0);
  const remark = { text: 'x'.repeat(4000), author: '', at: '2026-12-01T10:00:00.000Z', status: 'open', camera: YARD_ORDER.camera } as const;
  for (let i = 0; i < 8; i++) say(page, { type: 'command', id: `c${String(i)}`, command: { type: 'keep-remark', remark: { ...remark, id: `remark-${String(1000 + i)}` } } }); // prettier-ignore
  expect((await page.next('refused')).message).toBe(DISK_FULL);
  const sent = await fetch(`${server.url}/api/sources/file?name=a.obj`, { method: 'POST', headers: { 'Content-Type': 'application/octet-stream' }, body: `${Array.from({ length: 60_000 }, (_, i) => `v ${String(i)} 0 ${String(i * i)}\n`).join('')}f 1 2 3\n` }); // prettier-ignore
  expect([sent.status, await sent.json()]).toEqual([507, { message: DISK_FULL }]);
  expect((await fetch(server.url)).status).toBe(200);
  for (const name of ['first', 'second']) rmSync(path.join(disk, name));
  await page.next('prints', ({ prints }) => prints.some((print) => print.id === id && print.state === 'finished'));
  expect((await fetch(`${server.url}/api/prints/${id}/picture`)).status).toBe(200);
  await server.kill('SIGTERM');
});
