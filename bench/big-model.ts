import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { deflateRawSync } from 'node:zlib';
import { encodeMesh, type Mesh } from '../core/geometry/mesh';
import { MeshBuilder } from '../core/geometry/shapes';
import type { ModelElement } from '../core/model/schema';
import { openAuthor, removeFolder, startServer, temporaryFolder, type RunningServer } from '../server/testing/running-server';

/** A generated model of any number of elements, linked to a server of its own. */

const SHAPES = 2000;
const MATERIALS = 30;
const STOREY_M = 3.5;
export const STOREYS = 20;
export const LAYERS = 40;

/** Fifty to a hundred and fifty triangles each: bars with more or fewer sides. */
export const shapes: Mesh[] = Array.from(
  { length: SHAPES },
  (_, i) =>
  new MeshBuilder().tube([[0, 0, 0], [0, 0, 1 + i / SHAPES]], 0.05 + (i % 7) / 100, 13 + (i % 25)).build(), // prettier-ignore
);

const blobs = shapes.map(encodeMesh);
export const hashes = blobs.map((bytes) => createHash('sha256').update(bytes).digest('hex'));

const storeyOf = (i: number) => Math.floor(i / 50) % STOREYS;

/** A grid of bars, fifty in a row, one row above the other on each storey; `lift` says how far one is moved up. */
const element = (i: number, lift: number, materials = MATERIALS): ModelElement => ({
  id: `element-${String(i)}`, name: `Part ${String(i)}`, class: i % 2 ? 'Member' : 'Column', storey: `Storey ${String(storeyOf(i))}`, layer: `Layer ${String(i % LAYERS)}`,
  option: null, phase: null, transform: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, i % 50, Math.floor(i / 50 / STOREYS), storeyOf(i) * STOREY_M + lift, 1], parts: [{ mesh: hashes[i % SHAPES]!, material: `m${String(i % materials)}` }],
}); // prettier-ignore

export const trianglesOf = (count: number) =>
  Array.from({ length: count }, (_, i) => shapes[i % SHAPES]!.indices.length / 3).reduce((a, b) => a + b, 0);

export const bigSnapshot = (count: number, materials = MATERIALS) => ({
  reset: true,
  // Among the elements, so that near and far ones are seen.
  camera: { position: [-7.5, -13.5, 1.65], target: [10, 3, 2.6], focalMm: 26 },
  materials: Array.from({ length: materials }, (_, i) => ({ id: `m${String(i)}`, name: `Material ${String(i)}`, colour: [0.5, 0.5, 0.5] })),
  elements: Array.from({ length: count }, (_, i) => element(i, 0, materials)),
});

export interface BigModel {
  server: RunningServer;
  /** Moves the n-th element of so many, as another edit. */
  edit(n: number): void;
  /** Revision that the last edit makes. */
  revision(): number;
  close(): Promise<void>;
}

/** Starts a server and sends it the model; the server has it all when this returns. */
export async function linkBigModel(count: number, materials = MATERIALS): Promise<BigModel> {
  const folder = temporaryFolder();
  const server = await startServer(folder);
  const author = await openAuthor(server);
  author.send({ type: 'hello', protocol: 1, token: server.token, source: { id: 'big', name: 'Big', tool: 'Bench' } });
  let { windowBytes: credit } = await author.next('welcome');
  let heard = 0;
  author.send({ type: 'offer', blobs: hashes });
  await author.next('need');
  for (const [i, bytes] of blobs.entries()) {
    const frame = Buffer.concat([Buffer.from(hashes[i]!, 'hex'), Buffer.from([1]), deflateRawSync(bytes)]);
    while (credit < frame.byteLength) {
      await author.next('credit', () => true, heard);
      for (; heard < author.received.length; heard++) {
        const message = author.received[heard]!;
        if (message.type === 'credit') credit += message.bytes;
      }
    }
    credit -= frame.byteLength;
    author.socket.send(frame);
  }
  let sequence = 1;
  author.send({ type: 'change', sequence, change: bigSnapshot(count, materials) });
  await author.next('ack', (m) => m.sequence === 1);
  return {
    server,
    edit: (n) => {
      sequence++;
      author.send({ type: 'change', sequence, change: { elements: [element(n % count, sequence / 100)] } });
    },
    revision: () => sequence,
    close: async () => {
      author.close();
      await server.kill('SIGTERM');
      removeFolder(folder);
    },
  };
}

/** Of a process, in megabytes: what it holds now, or the most that it has held. */
export const megabytes = (pid: number, field: 'VmRSS' | 'VmHWM'): number =>
  Number(new RegExp(`${field}:\\s+(\\d+)`).exec(readFileSync(`/proc/${String(pid)}/status`, 'utf8'))![1]) / 1024;
