import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { afterAll, afterEach, describe, expect, it } from 'vitest';
import type { ToAuthor } from '../../core/model/protocol';
import type { ToPage } from '../../core/project/live';
import { Peer, removeFolder, startServer, temporaryFolder, type RunningServer } from '../testing/running-server';
import { Owner } from './owner';
import { hashPassword } from './password';

/** A server that other computers reach lets nobody in but its owner. Only this computer's own addresses are used here. */

const PASSWORD = 'marram grass 1908';
const folder = temporaryFolder();
let server: RunningServer | undefined;
afterEach(async () => {
  delete process.env['DIAPHANE_PASSWORD'];
  await server?.kill('SIGTERM');
  server = undefined;
});
afterAll(() => {
  removeFolder(folder);
});

async function open(data: string, password?: string): Promise<{ url: string; token: string }> {
  if (password !== undefined) process.env['DIAPHANE_PASSWORD'] = password;
  server = await startServer(path.join(folder, data), '--host', '0.0.0.0');
  return { url: server.url.replace('0.0.0.0', '127.0.0.1'), token: server.token };
}

const refusal = (password?: string) =>
  spawnSync('node', ['dist/server.mjs', '--port', '0', '--host', '0.0.0.0', '--data', path.join(folder, 'none'), '--library', path.join(folder, 'l')], {
    env: { ...process.env, ...(password !== undefined && { DIAPHANE_PASSWORD: password }) },
    encoding: 'utf8',
  }); // prettier-ignore

const signIn = (url: string, password: string, headers: Record<string, string> = {}) =>
  fetch(`${url}/sign-in`, { method: 'POST', body: new URLSearchParams({ password }), redirect: 'manual', headers });
const cookieOf = (response: Response) => response.headers.get('set-cookie')!.split(';')[0]!;

describe('a server for other computers', () => {
  it('does not start without a password, or with a short one, and says how to set it', () => {
    const without = refusal();
    expect([without.status, without.stderr]).toEqual([1, expect.stringContaining("DIAPHANE_PASSWORD='at least 10 characters'") as string]);
    const short = refusal('short');
    expect([short.status, short.stderr]).toEqual([1, expect.stringContaining('is too short') as string]);
  });

  it('shows nothing before the sign-in, all after it, and nothing after the sign-out', async () => {
    const { url, token } = await open('one', PASSWORD);
    const asked = async (address: string, cookie = '') =>
      (await fetch(url + address, { redirect: 'manual', headers: { Cookie: cookie } })).status;
    for (const address of ['/', '/index.html', '/kernel.wasm', '/denoiser/small']) expect(await asked(address)).toBe(303);
    for (const address of ['/api/library', '/api/blobs/x', '/api/export/model.glb']) expect(await asked(address)).toBe(401);
    await expect(Peer.open<ToPage>(`${url}/live`)).rejects.toThrow('401');
    expect((await fetch(`${url}/sign-in`)).status).toBe(200);
    expect((await signIn(url, 'wrong password')).status).toBe(401);
    expect((await signIn(url, PASSWORD, { Origin: 'http://elsewhere.example' })).status).toBe(403);
    const signedIn = await signIn(url, PASSWORD, { Origin: url });
    expect([signedIn.status, signedIn.headers.get('location')]).toEqual([303, '/']);
    expect(signedIn.headers.get('set-cookie')).toMatch(/; HttpOnly; SameSite=Strict; Path=\/;/);
    const cookie = cookieOf(signedIn);
    expect([await asked('/', cookie), await asked('/api/library', cookie)]).toEqual([200, 200]);
    const page = await Peer.open<ToPage>(`${url}/live`, { Cookie: cookie });
    expect((await page.next('project')).linkToken).toBe(token);
    await expect(Peer.open<ToPage>(`${url}/live`, { Cookie: cookie, Origin: 'http://elsewhere.example' })).rejects.toThrow('403');
    const ended = new Promise<number>((resolve) => page.socket.once('close', resolve));
    await fetch(`${url}/sign-out`, { method: 'POST', redirect: 'manual', headers: { Cookie: cookie } });
    expect(await ended).toBe(4401);
    expect(await asked('/', cookie)).toBe(303);
  });

  it('lets authors link by the token alone, and keeps the password for the next start', async () => {
    await open('two', PASSWORD);
    await server!.kill('SIGTERM');
    delete process.env['DIAPHANE_PASSWORD'];
    const { url, token } = await open('two');
    const author = await Peer.open<ToAuthor>(`${url}/link`);
    author.send({ type: 'hello', protocol: 1, token, source: { id: 's', name: 's', tool: 'Test' } });
    await author.next('welcome');
    author.close();
    expect((await signIn(url, PASSWORD)).status).toBe(303);
  });
});

describe('an owner', () => {
  it('of forty passwords sent at once has two looked at, each by its own address', async () => {
    const owner = new Owner(await hashPassword(PASSWORD));
    const answers = await Promise.all(Array.from({ length: 40 }, (_, i) => owner.signIn(`guess ${String(i)}`, `address ${String(i)}`)));
    expect(answers.filter((answer) => answer === 'wrong')).toHaveLength(2);
    expect(answers.filter((answer) => answer === 'busy')).toHaveLength(38);
    expect(await owner.signIn(PASSWORD, 'address 7')).toHaveProperty('cookie');
  });

  it('waits after five wrong passwords, each address for itself', async () => {
    let now = 0;
    const owner = new Owner(await hashPassword(PASSWORD), () => now);
    for (let i = 0; i < 5; i++) expect(await owner.signIn('guess', 'a')).toBe('wrong');
    expect(await owner.signIn(PASSWORD, 'a')).toBe('wait');
    expect(await owner.signIn(PASSWORD, 'b')).toHaveProperty('cookie');
    now += 61_000;
    expect(await owner.signIn(PASSWORD, 'a')).toHaveProperty('cookie');
  });

  it('is signed out after half a day unused', async () => {
    let now = 0;
    const owner = new Owner(await hashPassword(PASSWORD), () => now);
    const { cookie } = (await owner.signIn(PASSWORD, 'a')) as { cookie: string };
    const request = { headers: { cookie: cookie.split(';')[0] } };
    now += 11 * 3600_000;
    expect(owner.isSignedIn(request)).toBe(true);
    now += 11 * 3600_000;
    expect(owner.isSignedIn(request)).toBe(true);
    now += 13 * 3600_000;
    expect(owner.isSignedIn(request)).toBe(false);
  });
});
