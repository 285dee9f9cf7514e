import { createHash } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { encodeMesh } from '../core/geometry/mesh';
import { MeshBuilder } from '../core/geometry/shapes';
import type { ToAuthor } from '../core/model/protocol';
import type { ModelElement } from '../core/model/schema';
import { testElement } from '../core/model/testing';
import { openAuthor, openPage, Peer, removeFolder, startServer, temporaryFolder, type RunningServer } from './testing/running-server';

/** The link as its documentation tells it, spoken to the built server over a real socket. */

const CUBE = encodeMesh(new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build());
const HASH = createHash('sha256').update(CUBE).digest('hex');
const frame = (bytes: Uint8Array, hash = HASH, coding = 1) =>
  Buffer.concat([Buffer.from(hash, 'hex'), Buffer.from([coding]), coding === 1 ? deflateRawSync(bytes) : bytes]);
const element = (id: string, extra: Partial<ModelElement> = {}) => testElement(id, { parts: [{ mesh: HASH, material: 'm' }], ...extra });
const snapshot = (...ids: string[]) => ({
  reset: true,
  materials: [{ id: 'm', name: 'Concrete', colour: [0.5, 0.5, 0.5] }],
  elements: ids.map((id) => element(id)),
});

let server: RunningServer;
const folder = temporaryFolder();
beforeAll(async () => {
  server = await startServer(folder);
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});

async function greet(id: string, token = server.token, protocol = 1): Promise<Peer<ToAuthor>> {
  const author = await openAuthor(server);
  author.send({ type: 'hello', protocol, token, source: { id, name: id, tool: 'Test' } });
  return author;
}

async function linked(id: string): Promise<Peer<ToAuthor>> {
  const author = await greet(id);
  await author.next('welcome');
  author.send({ type: 'offer', blobs: [HASH] });
  const { blobs } = await author.next('need');
  if (blobs.length > 0) author.socket.send(frame(CUBE));
  author.send({ type: 'change', sequence: 1, change: snapshot('a', 'b') });
  await author.next('ack');
  return author;
}

describe('the link', () => {
  it('takes a snapshot and a delta, and tells every page', async () => {
    const page = await openPage(server);
    const author = await linked('one');
    const first = await page.next('model', (m) => m.source === 'one' && m.change.reset);
    expect(first.change.elements.map((e) => e.id)).toEqual(['a', 'b']);
    author.send({ type: 'change', sequence: 2, change: { remove: { elements: ['a'] } } });
    expect((await author.next('ack', (m) => m.sequence === 2)).revision).toBe(2);
    expect((await page.next('model', (m) => m.revision === 2 && m.source === 'one')).change.remove.elements).toEqual(['a']);
    // Only what is unknown travels: the mesh is not asked for again.
    author.send({ type: 'offer', blobs: [HASH] });
    expect((await author.next('need', (m) => m.blobs.length === 0)).blobs).toEqual([]);
    author.close();
    page.close();
  });

  it('refuses an invalid message whole, names the field, and keeps the last good model', async () => {
    const author = await linked('two');
    author.send({ type: 'change', sequence: 2, change: { elements: [element('c'), element('d', { transform: [1] })] } });
    expect(await author.next('refused', (m) => m.sequence === 2)).toMatchObject({
      code: 'invalid-message',
      field: 'change.elements.1.transform',
    });
    author.send({ type: 'change', sequence: 2, change: { elements: [element('c', { parts: [{ mesh: HASH, material: 'nowhere' }] })] } });
    expect(await author.next('refused', (m) => m.field === 'elements.0.parts.0.material')).toBeTruthy();
    author.send({
      type: 'change',
      sequence: 2,
      change: { elements: [element('c', { parts: [{ mesh: 'b'.repeat(64), material: 'm' }] })] },
    });
    expect(await author.next('refused', (m) => m.code === 'missing-blob')).toBeTruthy();
    author.send('{"type":');
    await author.next('refused', (m) => m.message.includes('not JSON'));
    const page = await openPage(server);
    const model = await page.next('model', (m) => m.source === 'two');
    expect(model.change.elements.map((e) => e.id)).toEqual(['a', 'b']);
    page.close();
    author.close();
  });

  it('checks blobs: hash, coding, sound content', async () => {
    const author = await greet('three');
    await author.next('welcome');
    author.socket.send(frame(CUBE, 'c'.repeat(64)));
    await author.next('refused', (m) => m.message.includes('another hash'));
    author.socket.send(frame(CUBE, HASH, 9));
    await author.next('refused', (m) => m.message.includes('unknown coding'));
    const garbage = Buffer.from('not a mesh at all, but long enough');
    author.socket.send(frame(garbage, createHash('sha256').update(garbage).digest('hex')));
    await author.next('refused', (m) => m.message.includes('not-a-mesh'));
    // What was refused is credited all the same.
    await author.next('credit', () => author.received.filter((m) => m.type === 'credit').length === 3);
    author.close();
  });

  it('turns away a wrong token, a wrong version, a taken source, a foreign origin', async () => {
    expect((await (await greet('x', 'wrong')).next('refused')).code).toBe('bad-token');
    expect((await (await greet('x', server.token, 99)).next('refused')).code).toBe('unsupported-version');
    const holder = await greet('four');
    await holder.next('welcome');
    expect((await (await greet('four')).next('refused')).code).toBe('source-busy');
    holder.close();
    await expect(Peer.open(`${server.url}/live`, { Origin: 'http://elsewhere.example' })).rejects.toThrow(/403/);
    await expect(Peer.open(`${server.url}/link`, { Origin: 'http://elsewhere.example' })).rejects.toThrow(/403/);
    await expect(Peer.open(`${server.url}/nowhere`)).rejects.toThrow(/404/);
  });

  it('holds: acknowledges, counts, and applies everything at once on resume; stops and starts', async () => {
    const page = await openPage(server);
    const author = await linked('five');
    await page.next('model', (m) => m.source === 'five');
    page.send({ type: 'source', id: '1', source: 'five', action: 'hold' });
    await author.next('state', (m) => m.state === 'held');
    author.send({ type: 'change', sequence: 2, change: { elements: [element('c'), element('d')] } });
    author.send({ type: 'change', sequence: 3, change: { remove: { elements: ['d'] } } });
    expect((await author.next('ack', (m) => m.sequence === 3)).held).toBe(true);
    await page.next('sources', (m) => m.sources.some((s) => s.id === 'five' && s.waiting === 3));
    expect(page.received.filter((m) => m.type === 'model' && m.source === 'five')).toHaveLength(1);
    page.send({ type: 'source', id: '2', source: 'five', action: 'resume' });
    const applied = await page.next('model', (m) => m.source === 'five' && !m.change.reset);
    expect(applied.change.elements.map((e) => e.id)).toEqual(['c']);
    page.send({ type: 'source', id: '3', source: 'five', action: 'stop' });
    await author.next('state', (m) => m.state === 'stopped');
    author.send({ type: 'change', sequence: 4, change: { remove: { elements: ['c'] } } });
    expect((await author.next('refused', (m) => m.sequence === 4)).code).toBe('stopped');
    page.send({ type: 'source', id: '4', source: 'five', action: 'start' });
    await author.next('state', (m) => m.state === 'in-step', author.received.length - 1);
    author.send({ type: 'change', sequence: 4, change: { remove: { elements: ['c'] } } });
    await author.next('ack', (m) => m.sequence === 4);
    author.close();
    await page.next('sources', (m) => m.sources.some((s) => s.id === 'five' && s.state === 'out-of-reach'));
    page.close();
  });

  it('tells the author its state when it changes, and not with every change', async () => {
    const page = await openPage(server);
    const author = await linked('eight');
    for (const sequence of [2, 3, 4]) author.send({ type: 'change', sequence, change: { elements: [element(`e${String(sequence)}`)] } });
    await author.next('ack', (m) => m.sequence === 4);
    page.send({ type: 'source', id: '1', source: 'eight', action: 'hold' });
    await author.next('state', (m) => m.state === 'held');
    expect(author.received.filter((m) => m.type === 'state').map((m) => m.state)).toEqual(['in-step', 'held']);
    author.close();
    page.close();
  });

  it('takes a big change in parts, as one', async () => {
    const author = await linked('six');
    author.send({ type: 'change', sequence: 2, last: false, change: { elements: [element('p')] } });
    author.send({ type: 'change', sequence: 2, change: { elements: [element('q')] } });
    await author.next('ack', (m) => m.sequence === 2);
    const page = await openPage(server);
    expect((await page.next('model', (m) => m.source === 'six')).change.elements.map((e) => e.id)).toEqual(['a', 'b', 'p', 'q']);
    author.close();
    page.close();
  });

  it('keeps foreign names as they are, however long and odd', async () => {
    const author = await linked('seven');
    const names = ['<img src=x onerror=alert(1)>', 'x'.repeat(10_000), 'שלום \u202e abc', '🏠'.repeat(50), "'; DROP TABLE entry; --"];
    author.send({ type: 'change', sequence: 2, change: { elements: names.map((name, i) => element(`n${String(i)}`, { name })) } });
    await author.next('ack', (m) => m.sequence === 2);
    const page = await openPage(server);
    const model = await page.next('model', (m) => m.source === 'seven');
    expect(model.change.elements.filter((e) => e.id.startsWith('n')).map((e) => e.name)).toEqual(names);
    author.close();
    page.close();
  });

  it('is over for a source whose place a file has taken', async () => {
    const author = await linked('replaced');
    author.close();
    const url = `${server.url}/api/sources/replaced/offer`;
    const bytes = {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: 'o a\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n',
    };
    const offer = (await (await fetch(`${url}?name=a.obj`, bytes)).json()) as { number: number; matches: object };
    expect(offer.matches).toMatchObject({ elements: { gone: ['b'], added: 0 } });
    const page = await openPage(server);
    expect((await fetch(`${url}/${String(offer.number)}/take`, { method: 'POST' })).status).toBe(201);
    expect((await page.next('sources', (m) => m.sources.some((s) => s.id === 'replaced' && s.kind === 'file'))).sources.find((s) => s.id === 'replaced')!.name).toBe('a.obj'); // prettier-ignore
    page.close();
    const again = await greet('replaced');
    expect(await again.next('refused')).toMatchObject({ code: 'replaced', field: 'source.id' });
    again.close();
  });
});
