import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { randomUUID } from 'node:crypto';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { PrintsNow, ToPage } from '../../core/project/live';
import { openPage, removeFolder, startServer, temporaryFolder, type Peer, type RunningServer } from '../testing/running-server';
import { are, ended, openYard, post, printOf, printsWhen, YARD_ORDER } from './yard';

/** The matrix and its queue, over the public interface of the built server. */

const folder = temporaryFolder();
let server: RunningServer;
let page: Peer<ToPage>;
beforeAll(async () => {
  ({ server, page } = await openYard(folder));
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});

const plain = { ...YARD_ORDER, ev100: undefined, white: undefined };
async function command(body: object): Promise<void> {
  const from = page.received.length;
  page.send({ type: 'command', id: randomUUID(), command: body as never });
  await page.next('changes', () => true, from);
}
async function deliver(names: readonly string[], extra: object = {}, more: object = {}): Promise<{ id: string; prints: string[] }> {
  const orders = names.map((name) => ({ fileName: name, order: { ...plain, name, ...extra } }));
  const response = await post(server, '/api/deliveries', { name: 'Council: first/look', orders, ...more });
  expect([response.status, await response.clone().text()]).toEqual([201, expect.any(String)]);
  return (await response.json()) as { id: string; prints: string[] };
}
const latest = () => page.received.findLast((message) => message.type === 'prints') as PrintsNow & ToPage;
const states = (now: PrintsNow, ids: readonly string[]) => ids.map((id) => printOf(now, id).state);

describe('a delivery', () => {
  it('is put together in a folder and a zip, with an index and a transmittal, each picture in its state', async () => {
    await command({ type: 'set-sun', date: '2026-06-21', minutes: 780 });
    await command({ type: 'keep-condition', id: 'noon', name: 'Noon', parts: ['sun', 'exposure'] });
    await command({ type: 'set-sun', date: '2026-06-21', minutes: 240 });
    const { id, prints } = await deliver(['01 North', '02 South'], { condition: 'noon' });
    const now = await printsWhen(page, (all) => ended(prints)(all) && all.deliveries.some((d) => d.id === id && d.folder !== null));
    expect(states(now, prints)).toEqual(['finished', 'finished']);
    expect(printOf(now, prints[0]!).condition).toBe('Noon');
    const kept = now.deliveries.find((d) => d.id === id)!.folder!;
    expect(path.dirname(kept)).toBe(path.join(folder, 'deliveries'));
    expect(readdirSync(kept).sort()).toEqual(['01 North.png', '02 South.png', 'delivery.zip', 'index.html', 'small', 'transmittal.pdf']);
    const files = unzipSync(new Uint8Array(await (await fetch(`${server.url}/api/deliveries/${id}/delivery.zip`)).arrayBuffer()));
    expect(Object.keys(files).sort()).toEqual(['01 North.png', '02 South.png', 'index.html', 'small/01 North.png', 'small/02 South.png', 'transmittal.pdf']);
    expect(Buffer.from(files['transmittal.pdf']!.subarray(0, 5)).toString()).toBe('%PDF-');
    const index = readFileSync(path.join(kept, 'index.html'), 'utf8');
    expect(index).toContain('src="small/01%20North.png"');
    expect(index).toContain('Noon');
    // It was printed at noon, whatever hour it is now.
    const xmp = (await sharp(files['01 North.png']).metadata()).xmpAsString;
    expect(xmp).toContain('<dp:LocalTime>2026-06-21 13:00 ');
  }); // prettier-ignore

  it('brings its state back when it is shown again', async () => {
    const print = latest().prints.find(({ name }) => name === '01 North')!;
    await command({ type: 'set-sun', date: '2026-01-05', minutes: 600 });
    const from = page.received.length;
    page.send({ type: 'show-print', id: 'again', print: print.id });
    const { changes, history } = await page.next('changes', ({ reply }) => reply === 'again', from);
    expect(changes.find(({ key }) => key === 'sun')?.after).toEqual({ date: '2026-06-21', minutes: 780 });
    expect(history[0]?.label).toBe('01 North shown as printed');
    page.send({ type: 'show-print', id: 'none', print: 'nobody' });
    expect((await page.next('refused', ({ reply }) => reply === 'none')).message).toContain('not known any more');
  });

  it('stays in its folder, whatever its files are to be called, and loses none to another of the same name', async () => {
    const { id, prints } = await deliver(['../../outside', 'same', 'Same']);
    const now = await printsWhen(page, (all) => ended(prints)(all) && all.deliveries.some((d) => d.id === id && d.folder !== null));
    const kept = now.deliveries.find((d) => d.id === id)!.folder!;
    expect(readdirSync(kept).filter((name) => name.endsWith('.png'))).toEqual(['Same (2).png', 'outside.png', 'same.png']);
    expect(existsSync(path.join(folder, 'outside.png'))).toBe(false);
  });

  it('keeps a picture that is finished when somebody cancels it too late, and hands it over when nobody looks on', async () => {
    const { prints } = await deliver(['late']);
    const [late] = prints as [string];
    await printsWhen(page, are([late], 'finished'));
    await post(server, `/api/prints/${late}/cancel`, {});
    const address = () => `${server.url}/api/prints/${late}/picture.png`;
    expect((await fetch(address())).status).toBe(200);
    await server.kill('SIGTERM');
    server = await startServer(folder);
    // No page has asked for the list of prints yet.
    expect((await fetch(address())).status).toBe(200);
    page = await openPage(server);
  });

  it('whose condition is gone is refused as a whole', async () => {
    const response = await post(server, '/api/deliveries', { name: 'x', orders: [{ fileName: 'a', order: plain }, { fileName: 'b', order: { ...plain, condition: 'gone' } }] });
    expect([response.status, ((await response.json()) as { message: string }).message]).toEqual([409, 'The condition of this picture has been dropped meanwhile.']);
    expect((await (await post(server, '/api/deliveries', { name: 'x', orders: [] })).json()) as object).toEqual({ message: expect.stringContaining('orders') as string });
  }); // prettier-ignore
});

describe('a tour', () => {
  it('links the points that see each other, with a plan cut at eye height, and what is edited holds', async () => {
    const point = (x: number, y: number) => ({ position: [x, y, 1.6] as [number, number, number], target: [x, y + 1, 1.6] as [number, number, number], focalMm: 28 });
    // The block in the middle stands between the first and the last.
    const places = [point(-4, 0), point(0, -6), point(4, 0)];
    const sights = places.map(({ position }) => position);
    const round = { projection: { kind: 'equirectangular' }, width: 64, height: 32, format: 'jpeg' };
    const orders = [
      ...places.map((camera, i) => ({ fileName: `p${String(i)}`, order: { ...plain, ...round, name: `P${String(i)}`, camera, sights } })),
      {
        fileName: 'plan',
        order: { ...plain, name: 'Plan', width: 64, height: 64, noise: 0.1, projection: { kind: 'orthographic', widthM: 24 }, camera: { position: [0, -3, 1.6], target: [0, -3, 0.6], focalMm: 50 } },
      },
    ];
    const { id, prints } = (await (await post(server, '/api/deliveries', { name: 'Round', orders, tour: true })).json()) as { id: string; prints: string[] };
    const now = await printsWhen(page, (all) => ended(prints)(all) && all.deliveries.some((d) => d.id === id && d.folder !== null));
    const { folder: kept, tour } = now.deliveries.find((d) => d.id === id)!;
    expect(tour).toEqual({ points: ['P0', 'P1', 'P2'], links: [[0, 1], [1, 2]] });
    expect(readdirSync(path.join(kept!, 'tour')).sort()).toEqual(['1-1.jpg', '2-1.jpg', '3-1.jpg', 'index.html', 'plan.jpg']);
    const whole = readFileSync(path.join(kept!, 'tour.html'), 'utf8');
    expect(whole.match(/data:image\/jpeg;base64,/g)).toHaveLength(4);
    expect((await post(server, `/api/deliveries/${id}/links`, { links: [[0, 2]] })).status).toBe(204);
    await printsWhen(page, ({ deliveries }) => JSON.stringify(deliveries.find((d) => d.id === id)?.tour?.links) === '[[0,2]]');
    expect(readFileSync(path.join(kept!, 'tour', 'index.html'), 'utf8')).toContain('"links":[[0,2]]');
  }); // prettier-ignore
});

describe('the queue', () => {
  it('is paused and gone on with as a whole, moved, and survives a kill in its order', async () => {
    await post(server, '/api/queue', { paused: true });
    const { prints } = await deliver(['a', 'b', 'c']);
    const [a, b, c] = prints as [string, string, string];
    await printsWhen(page, (now) => now.paused && are(prints, 'waiting')(now));
    await post(server, `/api/prints/${c}/move`, { before: a });
    await post(server, `/api/prints/${b}/pause`, {});
    await server.kill('SIGKILL');
    server = await startServer(folder);
    page = await openPage(server);
    const now = await printsWhen(page, (all) => all.paused);
    expect(states(now, prints)).toEqual(['waiting', 'paused', 'waiting']);
    expect(printOf(now, c).position).toBeLessThan(printOf(now, a).position);
    await post(server, '/api/queue', { paused: false });
    const first = await printsWhen(page, are([c], 'finished'));
    expect(printOf(first, a).state).not.toBe('finished');
    await printsWhen(page, ended([a]));
    await post(server, `/api/prints/${b}/resume`, {});
    expect(printOf(await printsWhen(page, are([b], 'finished')), b).progress).toBe(1);
  });

  it('begins what is to be begun later when its time has come, and others before it', async () => {
    const startAt = new Date(Date.now() + 4000).toISOString();
    const { prints: [later] } = await deliver(['later'], {}, { startAt }); // prettier-ignore
    const { prints: [now] } = await deliver(['now']); // prettier-ignore
    const soon = await printsWhen(page, ended([now!]));
    expect(printOf(soon, later!).state).toBe('waiting');
    const done = await printsWhen(page, ended([later!]));
    expect(Date.parse(printOf(done, later!).finishedAt!)).toBeGreaterThan(Date.parse(startAt));
  });

  it('goes on behind a print that fails, which can be tried again', async () => {
    // A folder stands where its picture is to be written: as if the disk were full.
    await post(server, '/api/queue', { paused: true });
    const { prints } = await deliver(['broken', 'fine']);
    const broken = prints[0]!;
    const { mkdirSync, rmSync } = await import('node:fs');
    const inTheWay = path.join(folder, 'prints', `${broken}.png.part`, 'x');
    mkdirSync(inTheWay, { recursive: true });
    await post(server, '/api/queue', { paused: false });
    const now = await printsWhen(page, ended(prints));
    expect(states(now, prints)).toEqual(['failed', 'finished']);
    expect(printOf(now, broken).fault).toMatch(/^The print stopped: /);
    rmSync(path.dirname(inTheWay), { recursive: true, force: true });
    await post(server, `/api/prints/${broken}/resume`, {});
    await printsWhen(page, are(prints, 'finished'));
  });

  it('keeps stars and notes', async () => {
    const id = latest().prints.find(({ state }) => state === 'finished')!.id;
    await post(server, `/api/prints/${id}/note`, { starred: true, note: 'for the council' });
    const now = await printsWhen(page, ({ prints }) => prints.some((print) => print.id === id && print.starred));
    expect(printOf(now, id).note).toBe('for the council');
    await fetch(`${server.url}/api/prints/${id}`, { method: 'DELETE' });
    await printsWhen(page, ({ prints }) => prints.every((print) => print.id !== id));
    expect(readdirSync(path.join(folder, 'prints')).filter((name) => name.startsWith(id))).toEqual([]);
    expect(existsSync(path.join(folder, 'deliveries'))).toBe(true);
  });
});
