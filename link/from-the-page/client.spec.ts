import { spawn } from 'node:child_process';
import { once } from 'node:events';
import path from 'node:path';
import { expect, it } from 'vitest';
import { openPage, removeFolder, startServer, temporaryFolder } from '../../server/testing/running-server';

it('a client that knows nothing but the page of the protocol links, is refused what the page says, and comes back', async () => {
  const folder = temporaryFolder();
  const server = await startServer(folder);
  try {
    const child = spawn('node', [path.join(import.meta.dirname, 'client.mjs'), `${server.url.replace('http', 'ws')}/link`, server.token]);
    let said = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (data: Buffer) => (said += data.toString()));
    const [code] = (await once(child, 'close')) as [number];
    expect(code, said).toBe(0);
    // What a page that comes later is shown is what the client has said in all.
    const page = await openPage(server);
    const { change } = await page.next('model', (m) => m.source === 'hut' && m.change.reset);
    expect(change.elements.map(({ id, transform }) => [id, transform[12]])).toEqual([['b', 4], ['d', 6]]); // prettier-ignore
    expect([change.luminaires[0]?.direction, change.cameras[0]?.name, change.time]).toEqual([
      [0, 0, -2],
      'From the jetty',
      '2026-10-16T17:48',
    ]);
  } finally {
    await server.kill('SIGTERM');
    removeFolder(folder);
  }
});
