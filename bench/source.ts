import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { deflateRawSync } from 'node:zlib';
import { Document, WebIO } from '@gltf-transform/core';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { IfcAPI, LogLevel } from 'web-ifc';
import { gltfReader, readGltf } from '../core/formats/gltf';
import { readIfc } from '../core/formats/ifc';
import { encodeMesh, type Mesh } from '../core/geometry/mesh';
import { MeshBuilder } from '../core/geometry/shapes';
import { applyChange, EMPTY_MODEL, type Model } from '../core/model/model';
import type { ModelElement } from '../core/model/schema';
import { treeOf } from '../core/project/model-tree';
import { groupKeyOf } from '../core/project/visibility';
import { compileScene } from '../core/scene/scene';
import { openAuthor, openPage, removeFolder, startServer, temporaryFolder } from '../server/testing/running-server';
import { parserAlone } from './parser-alone';
import { median, report } from './report';

/** A model of 100,000 elements and ten million triangles: linking, memory, an edit, visibility; and files against their parsers. */

const ELEMENTS = 100_000;
const SMALL = 1000;
const SHAPES = 2000;
const EDITS = 60;
const HOUSE = '/usr/share/assimp/models/IFC/AC14-FZK-Haus.ifc';

/** Fifty to a hundred and fifty triangles each: bars with more or fewer sides. */
const shapes: Mesh[] = Array.from(
  { length: SHAPES },
  (_, i) =>
  new MeshBuilder().tube([[0, 0, 0], [0, 0, 1 + i / SHAPES]], 0.05 + (i % 7) / 100, 13 + (i % 25)).build(), // prettier-ignore
);

const blobs = shapes.map(encodeMesh);
const hashes = blobs.map((bytes) => createHash('sha256').update(bytes).digest('hex'));

const element = (i: number, z: number): ModelElement => ({
  id: `element-${String(i)}`, name: `Part ${String(i)}`, class: i % 3 ? 'Member' : 'Column', storey: `Storey ${String(i % 20)}`, layer: `Layer ${String(i % 40)}`,
  option: null, phase: null, transform: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, i % 400, Math.floor(i / 400), z, 1], parts: [{ mesh: hashes[i % SHAPES]!, material: `m${String(i % 30)}` }],
}); // prettier-ignore

const snapshotOf = (count: number) => ({
  reset: true,
  materials: Array.from({ length: 30 }, (_, i) => ({ id: `m${String(i)}`, name: `Material ${String(i)}`, colour: [0.5, 0.5, 0.5] })),
  elements: Array.from({ length: count }, (_, i) => element(i, 0)),
});

const megabytes = (pid: number, field: 'VmRSS' | 'VmHWM') =>
  Number(new RegExp(`${field}:\\s+(\\d+)`).exec(readFileSync(`/proc/${String(pid)}/status`, 'utf8'))![1]) / 1024;

/** Links a model of so many elements, then moves some of them; milliseconds until a page has applied each. */
async function linked(count: number): Promise<{ linkMs: number; editMs: number; restMb: number; peakMb: number; model: Model }> {
  const folder = temporaryFolder();
  const server = await startServer(folder);
  const author = await openAuthor(server);
  const page = await openPage(server);
  author.send({ type: 'hello', protocol: 1, token: server.token, source: { id: 'big', name: 'Big', tool: 'Bench' } });
  const { windowBytes } = await author.next('welcome');
  let credit = windowBytes;
  let heard = 0;
  const start = performance.now();
  author.send({ type: 'offer', blobs: hashes });
  await author.next('need');
  for (const [i, bytes] of blobs.entries()) {
    const frame = Buffer.concat([Buffer.from(hashes[i]!, 'hex'), Buffer.from([1]), deflateRawSync(bytes)]);
    while (credit < frame.byteLength) {
      const before = heard;
      await author.next('credit', () => true, before);
      for (; heard < author.received.length; heard++) {
        const message = author.received[heard]!;
        if (message.type === 'credit') credit += message.bytes;
      }
    }
    credit -= frame.byteLength;
    author.socket.send(frame);
  }
  author.send({ type: 'change', sequence: 1, change: snapshotOf(count) });
  const first = await page.next('model', (m) => m.revision === 1);
  const linkMs = performance.now() - start;
  let model = applyChange(EMPTY_MODEL, first.change);
  const times: number[] = [];
  for (let i = 0; i < EDITS; i++) {
    const edited = element((i * 7919) % count, 1 + i);
    const begun = performance.now();
    author.send({ type: 'change', sequence: i + 2, change: { elements: [edited] } });
    const { change } = await page.next('model', (m) => m.revision === i + 2, page.received.length);
    model = applyChange(model, change);
    times.push(performance.now() - begun);
  }
  const memory = { restMb: megabytes(server.pid, 'VmRSS'), peakMb: megabytes(server.pid, 'VmHWM') };
  author.close();
  page.close();
  await server.kill('SIGTERM');
  removeFolder(folder);
  return { linkMs, editMs: median(times), ...memory, model };
}

function timed<T>(work: () => T): { ms: number; result: T } {
  const start = performance.now();
  const result = work();
  return { ms: performance.now() - start, result };
}

async function scale(): Promise<void> {
  const small = await linked(SMALL);
  const large = await linked(ELEMENTS);
  const triangles = Array.from({ length: ELEMENTS }, (_, i) => shapes[i % SHAPES]!.indices.length / 3).reduce((a, b) => a + b, 0);
  report({ name: 'source.triangles', value: triangles, unit: '', comparedWith: `${ELEMENTS} elements of ${SHAPES} shapes` });
  report({ name: 'source.link', value: large.linkMs / 1000, unit: 's', comparedWith: 'first word to the whole model in a page' });
  report({ name: 'source.server.memory', value: large.restMb, unit: 'MB', comparedWith: `at most ${large.peakMb.toFixed(0)} MB` });
  report({ name: 'source.edit', value: large.editMs, unit: 'ms', comparedWith: 'one element, until a page has applied it' });
  report({ name: 'source.edit.vs-hundredth', value: large.editMs / small.editMs, unit: 'x', comparedWith: 'at most 2' });
  const decisions = Object.fromEntries(Array.from({ length: 20 }, (_, i) => [groupKeyOf('layer', 'big', `Layer ${String(i)}`), false]));
  const hidden = new Map<string, unknown>([['visibility', { decisions, isolated: [] }]]);
  const sources = [{ id: 'big', model: large.model }];
  const shown = timed(() => compileScene(sources, new Map()));
  const half = timed(() => compileScene(sources, hidden));
  report({ name: 'source.scene', value: shown.ms, unit: 'ms', comparedWith: `${shown.result.instances.length} instances` });
  report({
    name: 'source.half-hidden',
    value: half.ms,
    unit: 'ms',
    comparedWith: `${half.result.instances.length} instances; asked: under 1000 with the picture`,
  });
  report({ name: 'source.tree', value: timed(() => treeOf('big', large.model, 'storey', hidden)).ms, unit: 'ms' });
}

/** Fifteen hundred nodes of a hundred shapes, as a GLB. */
async function glb(): Promise<void> {
  const document = new Document();
  const buffer = document.createBuffer();
  const scene = document.createScene();
  const material = document.createMaterial('Steel');
  const meshes = shapes.slice(0, 1000).map((shape, i) => {
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(shape.positions).setBuffer(buffer))
      .setIndices(document.createAccessor().setType('SCALAR').setArray(shape.indices).setBuffer(buffer))
      .setMaterial(material);
    return document.createMesh(`Shape ${String(i)}`).addPrimitive(primitive);
  }); // prettier-ignore
  for (let i = 0; i < 15_000; i++) scene.addChild(document.createNode(`Node ${String(i)}`).setMesh(meshes[i % 1000]!).setTranslation([i % 100, 0, i / 100])); // prettier-ignore
  const bytes = await new WebIO().writeBinary(document);
  const reader = await gltfReader();
  const [own, theirs]: [number[], number[]] = [[], []];
  for (let i = 0; i < 5; i++) {
    let start = performance.now();
    await readGltf(reader, bytes, 'bench.glb');
    own.push(performance.now() - start);
    start = performance.now();
    await new GLTFLoader().parseAsync(bytes.slice().buffer, '');
    theirs.push(performance.now() - start);
  }
  report({ name: 'source.glb.vs-three', value: median(own) / median(theirs), unit: 'x', comparedWith: `at most 1.5 (${median(own).toFixed(0)} against ${median(theirs).toFixed(0)} ms, 15,000 nodes)` }); // prettier-ignore
}

async function ifc(): Promise<void> {
  if (!existsSync(HOUSE)) {
    console.error('The house is not installed: apt-get install assimp-testmodels.');
    return;
  }
  const api = new IfcAPI();
  await api.Init();
  api.SetLogLevel(LogLevel.LOG_LEVEL_OFF);
  const bytes = new Uint8Array(readFileSync(HOUSE));
  const [own, parser]: [number[], number[]] = [[], []];
  for (let i = 0; i < 7; i++) {
    parser.push(parserAlone(api, bytes));
    own.push(timed(() => readIfc(api, bytes, 'house.ifc')).ms);
  }
  report({ name: 'source.ifc.vs-parser', value: median(own) / median(parser), unit: 'x', comparedWith: `at most 1.3 (${median(own).toFixed(0)} against ${median(parser).toFixed(0)} ms)` }); // prettier-ignore
}

await scale();
await glb();
await ifc();
