import { createHash, randomBytes } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { encodeMesh } from '../core/geometry/mesh';
import { MeshBuilder } from '../core/geometry/shapes';
import type { ToAuthor } from '../core/model/protocol';
import type { ModelElement } from '../core/model/schema';
import { testElement } from '../core/model/testing';
import { openAuthor, openPage, Peer, removeFolder, say, startServer, temporaryFolder, type RunningServer } from './testing/running-server';

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

  it('stores nothing of a change one part of which was refused, until it begins anew', async () => {
    const author = await linked('broken');
    const part = (change: object, last: boolean) => {
      author.send({ type: 'change', sequence: 2, last, change });
    };
    part({ elements: [element('first')] }, false);
    part({ elements: [{ ...element('second'), transform: [1] }] }, false);
    part({ elements: [element('third')] }, false);
    part({ elements: [element('fourth')] }, true);
    expect(await author.next('refused', (m) => m.sequence === 2)).toMatchObject({ code: 'invalid-message' });
    author.send({ type: 'offer', blobs: [] });
    await author.next('need', () => true, author.received.length);
    expect(author.received.some((m) => m.type === 'ack' && m.sequence === 2)).toBe(false);
    part({ elements: [element('first')] }, false);
    part({ elements: [element('fourth')], basePoint: { eastM: 5, northM: 6, heightM: 7, turnDeg: 0 } }, false);
    part({ elements: [element('fifth')] }, true);
    expect((await author.next('ack', (m) => m.sequence === 2)).revision).toBe(2);
    const page = await openPage(server);
    const { change } = await page.next('model', (m) => m.source === 'broken');
    expect(change.elements.map((e) => e.id).sort()).toEqual(['a', 'b', 'fifth', 'first', 'fourth']);
    // What one part tells holds for all of them.
    expect(change.basePoint).toMatchObject({ eastM: 5, heightM: 7 });
    page.close();
    author.close();
  });

  it('refuses what is no number, no time, no place or no direction, by its field', async () => {
    const author = await linked('odd');
    const lamp = { id: 'l', name: '', circuit: '', position: [0, 0, 0], direction: [0, 0, -1], fluxLm: 1, colourTemperatureK: 3000, beamDeg: 60, dim: 1 }; // prettier-ignore
    const zero = Array.from({ length: 16 }, () => 0);
    const refused: [field: string, change: object, sequence?: number][] = [
      ['change.time', { time: '2026-99-99T99:99' }],
      ['change.time', { time: '2026-02-30T10:00' }],
      ['change.elements.0.transform', { elements: [element('z', { transform: zero })] }],
      ['change.elements.0.transform.12', { elements: [element('z', { transform: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 1e308, 0, 0, 1] })] }],
      ['change.luminaires.0.position.0', { luminaires: [{ ...lamp, position: [1e308, 0, 0] }] }],
      ['change.luminaires.0.direction', { luminaires: [{ ...lamp, direction: [0, 0, 0] }] }],
      ['sequence', {}, 1e308],
    ];
    for (const [field, change, sequence = 2] of refused) {
      const from = author.received.length;
      author.send({ type: 'change', sequence, change });
      expect((await author.next('refused', () => true, from)).field).toBe(field);
    }
    author.close();
  });

  it('tells its author that a source was removed, and ends', async () => {
    const author = await linked('unwanted');
    const page = await openPage(server);
    say(page, { type: 'source', id: 'r', source: 'unwanted', action: 'remove' });
    expect(await author.next('refused')).toMatchObject({ code: 'removed', sequence: null });
    await expect.poll(() => author.closed).toBe(true);
    page.close();
  });

  it('takes no more blobs than it has given credit for, but one of any size when nothing else is under way', async () => {
    const author = await linked('greedy');
    // What is no mesh is refused after it was counted; unpacking takes longer than the next one is on its way.
    const big = frame(randomBytes(20 * 1024 * 1024), '0'.repeat(64));
    author.socket.send(big);
    expect((await author.next('credit')).bytes).toBe(big.byteLength);
    for (let i = 0; i < 6; i++) author.socket.send(big);
    expect(await author.next('refused', (m) => m.code === 'too-large')).toMatchObject({ sequence: null });
    await expect.poll(() => author.closed).toBe(true);
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
