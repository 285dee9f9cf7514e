import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import WebSocket from 'ws';
import { removeFolder, temporaryFolder } from '../server/testing/running-server';

/** `npm run demo` as somebody types it, on a machine where everything is installed and built. */

const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});
const SCRIPT = 'scripts/demo.mjs';
const refused = (...args: string[]) => {
  const { status, stderr } = spawnSync('node', [...args], { encoding: 'utf8' });
  return { status, sentence: stderr.trim() };
};

/** Starts the demo and waits for its last line; everything printed until then. */
async function demo(...args: string[]): Promise<{ printed: string; url: string; stop(): Promise<number | null> }> {
  const child = spawn('node', [SCRIPT, ...args], { stdio: ['ignore', 'pipe', 'inherit'] });
  let printed = '';
  const url = await new Promise<string>((resolve, reject) => {
    child.stdout.on('data', (data: Buffer) => {
      printed += data.toString();
      const ready = /Diaphane is ready: (\S+)/.exec(printed);
      if (ready) resolve(ready[1]!);
    });
    child.once('exit', (code) => {
      reject(new Error(`ended with ${String(code)}: ${printed}`));
    });
  });
  return {
    printed,
    url,
    stop: () =>
      new Promise((resolve) => {
        child.once('exit', resolve);
        child.kill('SIGTERM');
      }),
  };
}

/** Names of the kept states of light, as a page is told them. */
async function conditionsAt(url: string): Promise<string[]> {
  const socket = new WebSocket(`${url.replace('http', 'ws')}/live`);
  const [data] = (await once(socket, 'message')) as [Buffer];
  socket.close();
  const { entries } = JSON.parse(data.toString()) as { entries: [string, { name: string }][] };
  return entries.filter(([key]) => key.startsWith('condition/')).map(([, { name }]) => name);
}

async function freePort(): Promise<number> {
  const probe = net.createServer();
  await new Promise<void>((resolve) => probe.listen(0, '127.0.0.1', resolve));
  const { port } = probe.address() as net.AddressInfo;
  await new Promise((resolve) => probe.close(resolve));
  return port;
}

describe('the demo', () => {
  it('starts the server and the simulated author, links the building, and says where; a second start builds nothing', async () => {
    const data = path.join(folder, 'demo');
    const port = await freePort();
    const first = await demo('--port', String(port), '--data', data);
    expect(first.url).toBe(`http://127.0.0.1:${String(port)}`);
    const author = /own page: (\S+)/.exec(first.printed)![1]!;
    expect(await (await fetch(author)).text()).toContain('imulated');
    await expect.poll(async () => ((await (await fetch(`${author}/state`)).json()) as { link: string }).link).toBe('linked');
    expect((await fetch(first.url)).status).toBe(200);
    expect(existsSync(path.join(data, 'project.sqlite'))).toBe(true);
    expect(await conditionsAt(first.url)).toEqual(['Morning mist', 'Dusk with lamps', 'Winter night', 'October afternoon']);
    expect(await first.stop()).toBe(0);

    const second = await demo('--port', String(port), '--data', data);
    expect(second.printed).not.toContain('Building');
    expect(second.printed).not.toContain('Installing');
    await second.stop();
    await expect(fetch(second.url)).rejects.toThrow();
  });

  it('starts empty, without an author, when asked to', async () => {
    const started = await demo('--port', String(await freePort()), '--data', path.join(folder, 'empty'), '--no-demo');
    expect(started.printed).not.toContain('author');
    await started.stop();
  });

  it('says in one sentence what is wrong, and ends with 1', async () => {
    const holder = net.createServer();
    await new Promise<void>((resolve) => holder.listen(0, '127.0.0.1', resolve));
    const { port } = holder.address() as net.AddressInfo;
    expect(refused(SCRIPT, '--port', String(port), '--data', path.join(folder, 'x'))).toEqual({
      status: 1,
      sentence: `Port ${String(port)} is already in use; choose another with --port.`,
    });
    holder.close();
    expect(refused(SCRIPT, '--port', 'many')).toEqual({ status: 1, sentence: '--port many is not a port number.' });
    const file = path.join(folder, 'file');
    writeFileSync(file, '');
    expect(refused(SCRIPT, '--data', path.join(file, 'below'))).toEqual({
      status: 1,
      sentence: `The data directory ${path.join(file, 'below')} cannot be written.`,
    });
    const unknown = refused(SCRIPT, '--colour', 'red');
    expect(unknown.status).toBe(1);
    expect(unknown.sentence).toContain('Options: --port NUMBER, --data DIR, --host ADDRESS, --proxies NUMBER, --no-demo.');
  });

  it('asks for a newer Node when this one is too old', () => {
    const old = "data:text/javascript,Object.defineProperty(process,'versions',{value:{...process.versions,node:'18.20.4'}})";
    expect(refused('--import', old, SCRIPT)).toEqual({ status: 1, sentence: 'Diaphane needs Node.js 20.19 or newer; this is 18.20.4.' });
  });
});
