import { once } from 'node:events';
import { inflateRawSync } from 'node:zlib';
import type { AddressInfo } from 'node:net';
import * as v from 'valibot';
import { afterEach, describe, expect, it } from 'vitest';
import { WebSocketServer, type WebSocket } from 'ws';
import { applyChange, EMPTY_MODEL, type Model } from '../core/model/model';
import { fromAuthorSchema, type FromAuthor, type ToAuthor } from '../core/model/protocol';
import { testChange, testElement } from '../core/model/testing';
import { LinkClient, sha256Hex } from './link-client';

/** The author's end against a server that is played here, so that it can misbehave. */

const BLOB = new TextEncoder().encode('mesh bytes '.repeat(40));
const HASH = sha256Hex(BLOB);
const element = (id: string) => testElement(id, { parts: [{ mesh: HASH, material: 'm' }] });
const model = (...ids: string[]): Model =>
  applyChange(EMPTY_MODEL, testChange({ materials: [{ id: 'm', name: 'M', colour: [1, 1, 1] }], elements: ids.map(element) }));

class PlayedServer {
  readonly messages: FromAuthor[] = [];
  readonly blobs: Buffer[] = [];
  private readonly server = new WebSocketServer({ port: 0, host: '127.0.0.1' });
  private socket: WebSocket | undefined;
  private waiters: (() => void)[] = [];
  connections = 0;

  constructor() {
    this.server.on('connection', (socket) => {
      this.connections++;
      this.socket = socket;
      socket.on('message', (data: Buffer, binary) => {
        if (binary) this.blobs.push(data);
        else this.messages.push(v.parse(fromAuthorSchema, JSON.parse(data.toString())));
        for (const wake of this.waiters.splice(0)) wake();
      });
      for (const wake of this.waiters.splice(0)) wake();
    });
  }

  listening(): Promise<void> {
    return new Promise((resolve) => this.server.once('listening', resolve));
  }

  get url(): string {
    return `http://127.0.0.1:${String((this.server.address() as AddressInfo).port)}`;
  }

  async until(test: () => boolean): Promise<void> {
    while (!test()) await new Promise<void>((resolve) => this.waiters.push(resolve));
  }

  async message<T extends FromAuthor['type']>(type: T, count = 1): Promise<Extract<FromAuthor, { type: T }>> {
    const found = () => this.messages.filter((m) => m.type === type);
    await this.until(() => found().length >= count);
    return found()[count - 1] as Extract<FromAuthor, { type: T }>;
  }

  say(message: ToAuthor): void {
    this.socket!.send(JSON.stringify(message));
  }

  drop(): void {
    this.socket!.terminate();
  }

  close(): void {
    for (const client of this.server.clients) client.terminate();
    this.server.close();
  }
}

let server: PlayedServer;
let client: LinkClient;
async function begin(): Promise<void> {
  server = new PlayedServer();
  await server.listening();
  client = new LinkClient({
    server: server.url, token: 'secret', sourceId: 's', sourceName: 'S', tool: 'Test', blob: (hash) => (hash === HASH ? BLOB : undefined), retryMs: 5,
  }); // prettier-ignore
  client.start();
}
afterEach(() => {
  client.stop();
  server.close();
});

const welcome = (sequence = 0, windowBytes = 1e6) => {
  server.say({ type: 'welcome', protocol: 1, revision: sequence, sequence, windowBytes });
};

/** Brings the conversation to where the first snapshot is on its way. */
async function firstChange(): Promise<void> {
  await begin();
  await server.message('hello');
  welcome();
  client.update(model('a'));
  await server.message('offer');
  server.say({ type: 'need', blobs: [] });
  await server.message('change');
}

async function acknowledged(): Promise<void> {
  server.say({ type: 'ack', sequence: 1, revision: 1, held: false });
  await once(client, 'acknowledged');
}

describe('the author’s end of the link', () => {
  it('greets with version, token and source; offers, sends what is asked for, then the snapshot', async () => {
    await begin();
    expect(await server.message('hello')).toMatchObject({ protocol: 1, token: 'secret', source: { id: 's', name: 'S' }, resume: null });
    welcome();
    client.update(model('a'));
    expect((await server.message('offer')).blobs).toEqual([HASH]);
    server.say({ type: 'need', blobs: [HASH] });
    const sent = await server.message('change');
    expect(sent).toMatchObject({ sequence: 1, change: { reset: true } });
    const frame = server.blobs[0]!;
    expect(frame.subarray(0, 32).toString('hex')).toBe(HASH);
    expect(inflateRawSync(frame.subarray(33))).toEqual(Buffer.from(BLOB));
  });

  it('sends only what changed afterwards, one change in flight, newer states in place of older ones', async () => {
    await firstChange();
    // Three states while the first is on its way: only the last is sent.
    client.update(model('a', 'b'));
    client.update(model('a', 'b', 'c'));
    client.update(model('b', 'c'));
    server.say({ type: 'ack', sequence: 1, revision: 1, held: false });
    const second = await server.message('change', 2);
    expect(second).toMatchObject({ sequence: 2, change: { reset: false, remove: { elements: ['a'] } } });
    expect(second.change.elements.map((e) => e.id)).toEqual(['b', 'c']);
    // The mesh is known by now and is not offered again.
    expect(server.messages.filter((m) => m.type === 'offer')).toHaveLength(1);
  });

  it('takes up after a lost connection with what is missing, when both sides know the same', async () => {
    await firstChange();
    await acknowledged();
    server.drop();
    client.update(model('a', 'b'));
    expect(await server.message('hello', 2)).toMatchObject({ resume: 1 });
    welcome(1);
    const next = await server.message('change', 2);
    expect(next).toMatchObject({ sequence: 2, change: { reset: false } });
    expect(next.change.elements.map((e) => e.id)).toEqual(['b']);
  });

  it('starts over with a snapshot when the server knows something else', async () => {
    await firstChange();
    await acknowledged();
    server.drop();
    await server.message('hello', 2);
    client.update(model('a', 'b'));
    welcome(9);
    await server.message('offer', 2);
    server.say({ type: 'need', blobs: [] });
    expect(await server.message('change', 2)).toMatchObject({ sequence: 10, change: { reset: true } });
  });

  it('sends no more bytes than it has credit for', async () => {
    await begin();
    await server.message('hello');
    welcome(0, 10);
    client.update(model('a'));
    await server.message('offer');
    server.say({ type: 'need', blobs: [HASH] });
    // A round trip later still nothing has come: the window is smaller than the blob.
    server.say({ type: 'follow', camera: true, time: false });
    await once(client, 'follow');
    expect(server.blobs).toHaveLength(0);
    server.say({ type: 'credit', bytes: 1000 });
    await server.message('change');
    expect(server.blobs).toHaveLength(1);
  });

  it('sends a big change in parts, all that is told of its elements, and in one message what a model has once', async () => {
    await begin();
    await server.message('hello');
    welcome();
    // Some 130 kB of JSON each.
    const many = Array.from({ length: 300 }, (_, i) => ({ ...element(String(i)), parts: Array.from({ length: 900 }, () => ({ mesh: HASH, material: 'm' })), until: 'p2' })); // prettier-ignore
    const site = { name: 'Here', latitudeDeg: 1, longitudeDeg: 2, elevationM: 3, trueNorthDeg: 0 };
    client.update(applyChange(EMPTY_MODEL, testChange({ elements: many, site }))); // prettier-ignore
    await server.message('offer');
    server.say({ type: 'need', blobs: [] });
    await server.until(() => server.messages.some((m) => m.type === 'change' && m.last));
    const parts = server.messages.filter((m) => m.type === 'change');
    expect(parts.length).toBeGreaterThan(1);
    expect(parts.map((m) => [m.sequence, m.change.reset, m.last, m.change.site?.name])).toEqual(
      parts.map((_, i) => [1, i === 0, i === parts.length - 1, i === parts.length - 1 ? 'Here' : undefined]),
    );
    expect(parts.flatMap((m) => m.change.elements).map((e) => [e.id, e.until])).toEqual(many.map((e) => [e.id, 'p2']));
  });

  it('sends a blob that is larger than the window when nothing else is under way', async () => {
    await begin();
    await server.message('hello');
    welcome(0, 20);
    client.update(model('a'));
    await server.message('offer');
    server.say({ type: 'need', blobs: [HASH] });
    await server.message('change');
    expect(server.blobs[0]!.byteLength).toBeGreaterThan(20);
  });

  it('ends when its source was removed', async () => {
    await firstChange();
    server.say({ type: 'refused', sequence: null, code: 'removed', field: null, message: 'Removed.' });
    await once(client, 'status');
    server.drop();
    await expect.poll(() => client.status).toBe('removed');
    expect(server.connections).toBe(1);
  });

  it('says why it was refused, rests while stopped, and goes on when started again', async () => {
    await begin();
    const told: [string, string][] = [];
    client.on('status', (status, message) => told.push([status, message]));
    await server.message('hello');
    welcome();
    client.update(model('a'));
    await server.message('offer');
    server.say({ type: 'need', blobs: [] });
    await server.message('change');
    server.say({ type: 'refused', sequence: 1, code: 'stopped', field: null, message: 'The link is stopped in Diaphane.' });
    await once(client, 'status');
    expect(client.status).toBe('stopped');
    server.say({ type: 'state', state: 'in-step' });
    await server.message('offer', 2);
    expect(told).toContainEqual(['stopped', 'The link is stopped in Diaphane.']);
  });
});
