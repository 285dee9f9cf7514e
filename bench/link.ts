import { createHash } from 'node:crypto';
import type { Page } from 'playwright-core';
import { deflateRawSync } from 'node:zlib';
import { encodeMesh } from '../core/geometry/mesh';
import { MeshBuilder } from '../core/geometry/shapes';
import { applyChange, EMPTY_MODEL, type Model } from '../core/model/model';
import type { ModelElement } from '../core/model/schema';
import { difference, modelArrived, openSheet, setStage } from '../e2e/stage';
import { openAuthor, openPage, removeFolder, startServer, temporaryFolder } from '../server/testing/running-server';
import { median, percentile, report } from './report';

/** One element moved in a model of 10,000, against its snapshot; and an edit in the demo to changed pixels. */

const ELEMENTS = 10_000;
const MOVES = 200;

async function deltas(): Promise<void> {
  const folder = temporaryFolder();
  const server = await startServer(folder);
  const author = await openAuthor(server);
  const page = await openPage(server);
  let model: Model = EMPTY_MODEL;
  /** Resolves when the page has applied a revision. */
  const applied = async (revision: number): Promise<void> => {
    const { change } = await page.next('model', (m) => m.revision === revision, page.received.length > 0 ? page.received.length - 1 : 0);
    model = applyChange(model, change);
  };
  author.send({ type: 'hello', protocol: 1, token: server.token, source: { id: 'big', name: 'Big', tool: 'Bench' } });
  await author.next('welcome');
  const meshes = Array.from({ length: 50 }, (_, i) => encodeMesh(new MeshBuilder().box([0, 0, 0], [1, 0.2, 2 + i / 20]).build()));
  const hashes = meshes.map((bytes) => createHash('sha256').update(bytes).digest('hex'));
  author.send({ type: 'offer', blobs: hashes });
  await author.next('need');
  for (const [i, bytes] of meshes.entries())
    author.socket.send(Buffer.concat([Buffer.from(hashes[i]!, 'hex'), Buffer.from([1]), deflateRawSync(bytes)]));
  const element = (i: number, z: number): ModelElement => ({
    id: `element-${String(i)}`, name: `Wall ${String(i)}`, class: 'Wall', storey: 'Ground floor', layer: 'Walls', option: null, phase: null,
    transform: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, i % 100, Math.floor(i / 100), z, 1], parts: [{ mesh: hashes[i % 50]!, material: 'm' }],
  }); // prettier-ignore
  const snapshot = {
    reset: true,
    materials: [{ id: 'm', name: 'Concrete', colour: [0.5, 0.5, 0.5] }],
    elements: Array.from({ length: ELEMENTS }, (_, i) => element(i, 0)),
  };
  const snapshots: number[] = [];
  let sequence = 0;
  for (let i = 0; i < 5; i++) {
    const start = performance.now();
    author.send({ type: 'change', sequence: ++sequence, change: snapshot });
    await Promise.all([author.next('ack', (m) => m.sequence === sequence, author.received.length), applied(sequence)]);
    snapshots.push(performance.now() - start);
  }
  const moves: number[] = [];
  for (let i = 0; i < MOVES; i++) {
    const start = performance.now();
    author.send({ type: 'change', sequence: ++sequence, change: { elements: [element((i * 7919) % ELEMENTS, 1 + i)] } });
    await Promise.all([author.next('ack', (m) => m.sequence === sequence, author.received.length), applied(sequence)]);
    moves.push(performance.now() - start);
  }
  report({
    name: 'link.snapshot',
    value: median(snapshots),
    unit: 'ms',
    comparedWith: `${ELEMENTS} elements: sent, committed, applied by a page`,
  });
  report({ name: 'link.delta-p50', value: median(moves), unit: 'ms' });
  report({ name: 'link.delta-p95', value: percentile(moves, 0.95), unit: 'ms' });
  report({ name: 'link.delta-p95.vs-snapshot', value: percentile(moves, 0.95) / median(snapshots), unit: 'x', comparedWith: 'under 0.01' });
  author.close();
  page.close();
  await server.kill('SIGTERM');
  removeFolder(folder);
}

interface DrawnFrame {
  /** Milliseconds since the epoch. */
  at: number;
  colours: number[];
}
declare global {
  var drawnFrames: DrawnFrame[];
}

/** Notes every frame that the working picture draws: when, and its colours in 16 x 9 fields, read before it is composed. */
function watchFrames(page: Page): Promise<void> {
  return page.evaluate(() => {
    globalThis.drawnFrames = [];
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=working-picture]')!;
    const small = new OffscreenCanvas(16, 9).getContext('2d', { willReadFrequently: true })!;
    // An observer is called at the end of the task that drew, while the drawing buffer still holds the frame.
    new MutationObserver(() => {
      small.drawImage(canvas, 0, 0, 16, 9);
      globalThis.drawnFrames.push({ at: Date.now(), colours: [...small.getImageData(0, 0, 16, 9).data] });
    }).observe(canvas, { attributeFilter: ['data-frames'] });
  });
}

async function editToPixels(): Promise<void> {
  const stage = await setStage();
  const page = await openSheet(stage, 'Views', { width: 1280, height: 800, pixels: 1 });
  await page.getByRole('button', { name: 'Finishes' }).click();
  await modelArrived(page);
  await page.waitForFunction(() => document.querySelector('[data-testid=refined-picture]')?.classList.contains('shown'), undefined, {
    timeout: 120_000,
  });
  await watchFrames(page);
  const pitch = (steep: boolean) => stage.author.edit({ edit: 'roof-pitch', degrees: steep ? 34 : 22 });
  const settled = () => page.waitForFunction(() => document.querySelector('[data-testid=refined-picture]')?.classList.contains('shown'));
  await pitch(true);
  await page.waitForFunction(() => globalThis.drawnFrames.length > 0);
  const times: number[] = [];
  for (let i = 0; i < 10; i++) {
    await settled();
    const before: DrawnFrame = (await page.evaluate(() => globalThis.drawnFrames)).at(-1)!;
    const start = Date.now();
    await pitch(i % 2 === 1);
    const isOther = (frame: DrawnFrame) => frame.at > before.at && difference(frame.colours, before.colours) > 300;
    let found: DrawnFrame | undefined;
    while (!found && Date.now() - start < 20_000) {
      await page.waitForFunction((at) => (globalThis.drawnFrames.at(-1)?.at ?? 0) > at, before.at);
      found = (await page.evaluate(() => globalThis.drawnFrames)).find(isOther);
    }
    times.push((found?.at ?? Infinity) - start);
  }
  report({ name: 'link.edit-to-pixels-ms', value: median(times), unit: 'ms', comparedWith: 'under 250 plus one frame' });
  await stage.close();
}

await deltas();
await editToPixels();
