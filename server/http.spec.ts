import { createHash } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { encodeMesh } from '../core/geometry/mesh';
import { MeshBuilder } from '../core/geometry/shapes';
import { finishMark } from '../core/finish/finish';
import { FINISHES } from '../core/finish/library';
import { decodeMaps, MAP_SIZE, SMALL_MAP_SIZE } from '../core/finish/maps/generate';
import { openAuthor, removeFolder, startServer, temporaryFolder, type RunningServer } from './testing/running-server';

/** The HTTP side of the built server: what it gives, in which form, and what it says when it cannot. */

const folder = temporaryFolder();
let server: RunningServer;
const MESHES = [1, 2, 3].map((h) => encodeMesh(new MeshBuilder().box([0, 0, 0], [1, 1, h]).build()));
const HASHES = MESHES.map((bytes) => createHash('sha256').update(bytes).digest('hex'));

beforeAll(async () => {
  server = await startServer(folder);
  const author = await openAuthor(server);
  author.send({ type: 'hello', protocol: 1, token: server.token, source: { id: 's', name: 'S', tool: 'Test' } });
  await author.next('welcome');
  for (const [i, bytes] of MESHES.entries())
    author.socket.send(Buffer.concat([Buffer.from(HASHES[i]!, 'hex'), Buffer.from([1]), deflateRawSync(bytes)]));
  await author.next('credit', () => author.received.filter((m) => m.type === 'credit').length === MESHES.length);
  author.close();
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});

const get = (path: string) => fetch(`${server.url}${path}`);
const post = (path: string, body: string, type = 'application/json') =>
  fetch(`${server.url}${path}`, { method: 'POST', headers: { 'Content-Type': type }, body });
const messageOf = async (response: Response) => ((await response.json()) as { message: string }).message;

describe('previews of finishes', () => {
  it('are PNG, kept for ever under the mark of what is shown and not at all under another', async () => {
    const zinc = FINISHES.find((f) => f.id === 'zinc')!;
    const marked = await get(`/api/finishes/zinc/preview.png?mark=${finishMark(zinc)}`);
    expect([marked.status, marked.headers.get('content-type')]).toEqual([200, 'image/png']);
    expect(marked.headers.get('cache-control')).toContain('immutable');
    expect((await get('/api/finishes/zinc/preview.png?mark=old')).headers.get('cache-control')).toBe('no-store');
    const none = await get('/api/finishes/nothing/preview.png');
    expect([none.status, await messageOf(none)]).toEqual([404, 'There is no such finish.']);
  });
});

describe('blobs', () => {
  it('are given by their hash, to be kept for ever', async () => {
    const response = await get(`/api/blobs/${HASHES[0]!}`);
    expect(response.status).toBe(200);
    expect(response.headers.get('cache-control')).toContain('immutable');
    expect(new Uint8Array(await response.arrayBuffer())).toEqual(MESHES[0]);
  });

  it('come many at once, each with its hash and length, without those that are not there', async () => {
    const response = await post('/api/blobs/pack', JSON.stringify({ blobs: [HASHES[2], '0'.repeat(64), HASHES[0]] }));
    const bytes = Buffer.from(await response.arrayBuffer());
    const found: [string, Buffer][] = [];
    for (let at = 0; at < bytes.length;) {
      const length = bytes.readUInt32LE(at + 32);
      found.push([bytes.subarray(at, at + 32).toString('hex'), bytes.subarray(at + 36, at + 36 + length)]);
      at += 36 + length;
    }
    expect(found.map(([hash]) => hash)).toEqual([HASHES[2], HASHES[0]]);
    for (const [hash, content] of found) expect(createHash('sha256').update(content).digest('hex')).toBe(hash);
  });

  it('that are not known are told as such', async () => {
    const response = await get(`/api/blobs/${'0'.repeat(64)}`);
    expect(response.status).toBe(404);
    expect(await messageOf(response)).toBe('There is no such blob.');
  });
});

describe('maps', () => {
  it('come in full quality and small, with a swatch of each', async () => {
    const response = await get('/api/maps/brick');
    const maps = decodeMaps(new Uint8Array(await response.arrayBuffer()));
    expect(maps.size).toBe(MAP_SIZE);
    const small = decodeMaps(new Uint8Array(await (await get('/api/maps/brick?size=small')).arrayBuffer()));
    expect(small.size).toBe(SMALL_MAP_SIZE);
    // Each of its texels stands for a square of the whole one's: roughness, which is not coded, has the same mean.
    const mean = (texels: Uint8Array) => texels.reduce((sum, value, i) => sum + (i % 4 === 2 ? value : 0), 0) / (texels.length / 4);
    expect(mean(small.surface)).toBeCloseTo(mean(maps.surface), 0);
    const swatch = await get('/api/finishes/brick/swatch.png');
    expect(await sharp(Buffer.from(await swatch.arrayBuffer())).metadata()).toMatchObject({ format: 'png', width: 64, height: 64 });
    for (const path of ['/api/maps/nothing', '/api/finishes/nothing/swatch.png']) expect((await get(path)).status).toBe(404);
  });
});

describe('requests that cannot be met', () => {
  it('get one sentence as JSON', async () => {
    expect(await messageOf(await get('/api/nowhere'))).toBe('There is nothing at this address.');
    expect(await messageOf(await get('/api/prints/00000000-0000-0000-0000-000000000000/picture.png'))).toBe('There is no such picture.');
    expect(await messageOf(await post('/api/blobs/pack', '{"blobs":'))).toBe('The request could not be read.');
    expect(await messageOf(await post('/api/blobs/pack', '{"blobs":["short"]}'))).toContain('blobs.0');
    expect(await messageOf(await post('/api/blobs/pack', '{}'))).toContain('blobs');
    expect(await messageOf(await post('/api/sources/watch', '{"path":""}'))).toContain('path');
    expect(await messageOf(await post('/api/sources/watch', '{"path":"missing.ifc"}'))).toBe('missing.ifc cannot be read by the server.');
  });

  it('are stopped when they are too large', async () => {
    const response = await post('/api/prints', JSON.stringify({ name: 'x'.repeat(9 * 1024 * 1024) }));
    expect(response.status).toBe(413);
    expect(await messageOf(response)).toBe('What was sent is too large.');
    const many = JSON.stringify({ blobs: Array.from({ length: 20_001 }, () => '0'.repeat(64)) });
    expect((await post('/api/blobs/pack', many)).status).toBe(400);
  });

  it('leave other prints alone: what is not a print is neither cancelled nor deleted', async () => {
    for (const id of ['00000000-0000-0000-0000-000000000000', 'x', '..%2fproject']) {
      const cancelled = await post(`/api/prints/${id}/cancel`, '');
      const deleted = await fetch(`${server.url}/api/prints/${id}`, { method: 'DELETE' });
      for (const response of [cancelled, deleted]) expect(response.status).toBe(id.length === 36 ? 204 : 404);
    }
  });
});

describe('the page', () => {
  it('is given under every address that is none of the interface', async () => {
    for (const path of ['/', '/somewhere/else']) expect(await (await get(path)).text()).toContain('<dp-app');
  });

  it('may share memory between its threads, and load nothing from elsewhere', async () => {
    const { headers } = await get('/');
    expect(headers.get('cross-origin-opener-policy')).toBe('same-origin');
    const policy = headers.get('content-security-policy')!;
    expect(policy).toContain("connect-src 'self';");
    expect(policy).not.toMatch(/https?:/);
    expect(headers.get('x-powered-by')).toBeNull();
  });

  it('brings everything it needs with it: no address of another host in what is served', async () => {
    const html = await (await get('/')).text();
    expect(html).not.toMatch(/(src|href)="(https?:)?\/\//);
    const style = /href="(styles[^"]+\.css)"/.exec(html)![1]!;
    expect(await (await get(`/${style}`)).text()).not.toMatch(/url\(["']?https?:/);
  });

  it('has the denoiser’s weights', async () => {
    for (const [weights, bytes] of [['small', 641_480], ['full', 1_841_160]] as const)
      expect((await (await get(`/denoiser/${weights}`)).arrayBuffer()).byteLength).toBe(bytes);
    expect((await get('/denoiser/none')).headers.get('content-type')).toContain('html');
  }); // prettier-ignore

  it('has the kernel as WebAssembly', async () => {
    const response = await get('/kernel.wasm');
    expect(response.headers.get('content-type')).toBe('application/wasm');
    expect(WebAssembly.validate(await response.arrayBuffer())).toBe(true);
  });
});
