import { existsSync, readFileSync } from 'node:fs';
import { Document, WebIO } from '@gltf-transform/core';
import type { Browser, Page } from 'playwright-core';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { startIfc } from '../core/formats/ifc-parser';
import { gltfReader, readGltf } from '../core/formats/gltf';
import { readIfc } from '../core/formats/ifc';
import { applyChange, EMPTY_MODEL, type Model } from '../core/model/model';
import { treeOf } from '../core/project/model-tree';
import { groupKeyOf } from '../core/project/visibility';
import { compileScene } from '../core/scene/compile';
import { openBrowser } from '../e2e/stage';
import { openPage } from '../server/testing/running-server';
import { LAYERS, linkBigModel, megabytes, shapes, trianglesOf, type BigModel } from './big-model';
import { parserAlone } from './parser-alone';
import { median, report } from './report';

/** A model of 100,000 elements and ten million triangles: linking, memory, an edit, visibility, in a browser too; and files against their parsers. */

const ELEMENTS = 100_000;
const SMALL = 1000;
const EDITS = 60;
const PAGE_EDITS = 9;
const HOUSE = '/usr/share/assimp/models/IFC/AC14-FZK-Haus.ifc';

/** Links a model of so many elements, then moves some of them; milliseconds until a page has applied each. */
async function linked(
  count: number,
): Promise<{ linkMs: number; editMs: number; restMb: number; peakMb: number; model: Model; big: BigModel }> {
  const start = performance.now();
  const big = await linkBigModel(count);
  const page = await openPage(big.server);
  const first = await page.next('model', (m) => m.revision === 1);
  const linkMs = performance.now() - start;
  let model = applyChange(EMPTY_MODEL, first.change);
  const times: number[] = [];
  for (let i = 0; i < EDITS; i++) {
    const begun = performance.now();
    big.edit(i * 7919);
    const { change } = await page.next('model', (m) => m.revision === big.revision(), page.received.length);
    model = applyChange(model, change);
    times.push(performance.now() - begun);
  }
  const memory = { restMb: megabytes(big.server.pid, 'VmRSS'), peakMb: megabytes(big.server.pid, 'VmHWM') };
  page.close();
  return { linkMs, editMs: median(times), ...memory, model, big };
}

function timed<T>(work: () => T): { ms: number; result: T } {
  const start = performance.now();
  const result = work();
  return { ms: performance.now() - start, result };
}

/** What the working picture shows now. */
const drawn = (page: Page) =>
  page.evaluate(() => {
    const { parts, frames } = document.querySelector<HTMLElement>('[data-testid=working-picture]')!.dataset;
    return { parts: Number(parts), frames: Number(frames) };
  });

/** Until so many parts are drawn and the frame with them is on the screen. */
async function showsParts(page: Page, least: number, most = least): Promise<void> {
  await page.waitForFunction(
    ([from, to]) => {
      const parts = Number(document.querySelector<HTMLElement>('[data-testid=working-picture]')?.dataset['parts']);
      return parts >= from! && parts <= to!;
    },
    [least, most],
    { timeout: 300_000, polling: 20 },
  );
  await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
}

/** Milliseconds since the pointer was last pressed, by the page's own clock. */
const timeFromPointer = (page: Page) =>
  page.evaluate(() => {
    const pressed = window as Window & { pressedAt?: number };
    if (pressed.pressedAt === undefined) addEventListener('pointerdown', ({ timeStamp }) => (pressed.pressedAt = timeStamp), true);
    return performance.now() - (pressed.pressedAt ??= 0);
  });

const isRefined = (page: Page) =>
  page.waitForFunction(() => document.querySelector('[data-testid=refined-picture]')?.classList.contains('shown'), undefined, {
    timeout: 300_000,
  });

async function memoryOf(browser: Browser): Promise<{ page: number; gpu: number }> {
  const session = await browser.newBrowserCDPSession();
  const { processInfo } = await session.send('SystemInfo.getProcessInfo');
  const most = (type: string) => Math.max(...processInfo.filter((p) => p.type === type).map((p) => megabytes(p.id, 'VmHWM')));
  return { page: most('renderer'), gpu: most('GPU') };
}

/** Milliseconds until the page has drawn an edit of one element. */
async function pageEdits(page: Page, big: BigModel): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < PAGE_EDITS; i++) {
    const { frames } = await drawn(page);
    const begun = performance.now();
    big.edit(i * 7919);
    await page.waitForFunction(
      (before) => Number(document.querySelector<HTMLElement>('[data-testid=working-picture]')?.dataset['frames']) > before,
      frames,
      { polling: 5 },
    );
    times.push(performance.now() - begun);
    await isRefined(page);
  }
  return median(times);
}

async function inBrowser(big: BigModel, count: number): Promise<number> {
  const browser = await openBrowser();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const large = count === ELEMENTS;
  const start = performance.now();
  const since = () => (performance.now() - start) / 1000;
  await page.goto(`${big.server.url}/#source`);
  await showsParts(page, 1, count);
  if (large)
    report({ name: 'source.page.first-picture', value: since(), unit: 's', comparedWith: 'page load to the first part of the model' });
  await showsParts(page, count);
  if (large)
    report({ name: 'source.page.whole', value: since(), unit: 's', comparedWith: 'page load to all of it in the working picture' });
  await isRefined(page);
  if (large) report({ name: 'source.page.refined', value: since(), unit: 's', comparedWith: 'page load to the kernel’s first picture' });
  const editMs = await pageEdits(page, big);
  if (large) {
    await page.getByText('Elements', { exact: true }).click();
    await page.getByRole('button', { name: 'Classes' }).click();
    const members = page.locator('[data-group=Member] input');
    for (const [shown, name] of [
      [count / 2, 'hidden'],
      [count, 'shown'],
      [count / 2, 'hidden-again'],
      [count, 'shown-again'],
    ] as const) {
      await members.waitFor();
      await isRefined(page);
      await timeFromPointer(page);
      await members.click();
      await showsParts(page, shown);
      report({
        name: `source.page.half-${name}`,
        value: await timeFromPointer(page),
        unit: 'ms',
        comparedWith: 'pointer to the picture; at most 1000',
      });
    }
    await isRefined(page);
    await page.getByTestId('picture').focus();
    await page.keyboard.down('d');
    const before = (await drawn(page)).frames;
    const moving = performance.now();
    await page.waitForTimeout(6000);
    const frames = (await drawn(page)).frames - before;
    report({ name: 'source.page.moving', value: (frames * 1000) / (performance.now() - moving), unit: 'frames/s', comparedWith: '1280 x 800, no GPU' }); // prettier-ignore
    await page.keyboard.up('d');
    const { page: pageMb, gpu } = await memoryOf(browser);
    report({ name: 'source.page.memory', value: pageMb, unit: 'MB', comparedWith: 'the page’s process at most' });
    report({
      name: 'source.gpu.memory',
      value: gpu,
      unit: 'MB',
      comparedWith: 'the browser’s drawing process at most, where memory of the GPU lies without one',
    });
  }
  await browser.close();
  return editMs;
}

async function scale(): Promise<void> {
  const small = await linked(SMALL);
  const large = await linked(ELEMENTS);
  report({
    name: 'source.triangles',
    value: trianglesOf(ELEMENTS),
    unit: '',
    comparedWith: `${String(ELEMENTS)} elements of ${String(shapes.length)} shapes`,
  });
  report({ name: 'source.link', value: large.linkMs / 1000, unit: 's', comparedWith: 'first word to the whole model in a test’s page' });
  report({ name: 'source.server.memory', value: large.restMb, unit: 'MB', comparedWith: `at most ${large.peakMb.toFixed(0)} MB` });
  report({ name: 'source.edit', value: large.editMs, unit: 'ms', comparedWith: 'one element, until a page has applied it' });
  report({ name: 'source.edit.vs-hundredth', value: large.editMs / small.editMs, unit: 'x', comparedWith: 'at most 2' });
  const decisions = Object.fromEntries(
    Array.from({ length: LAYERS / 2 }, (_, i) => [groupKeyOf('layer', 'big', `Layer ${String(i)}`), false]),
  );
  const hidden = new Map<string, unknown>([['visibility', { decisions, isolated: [] }]]);
  const sources = [{ id: 'big', model: large.model }];
  const shown = timed(() => compileScene(sources, new Map()));
  const half = timed(() => compileScene(sources, hidden));
  report({ name: 'source.scene', value: shown.ms, unit: 'ms', comparedWith: `${shown.result.instances.length} instances` });
  report({ name: 'source.scene.half-hidden', value: half.ms, unit: 'ms', comparedWith: `${half.result.instances.length} instances` });
  report({ name: 'source.tree', value: timed(() => treeOf('big', large.model, 'storey', hidden)).ms, unit: 'ms' });
  const smallMs = await inBrowser(small.big, SMALL);
  await small.big.close();
  const largeMs = await inBrowser(large.big, ELEMENTS);
  await large.big.close();
  report({ name: 'source.page.edit', value: largeMs, unit: 'ms', comparedWith: 'one element, until the browser has drawn it' });
  report({
    name: 'source.page.edit.vs-hundredth',
    value: largeMs / smallMs,
    unit: 'x',
    comparedWith: `at most 2 (${smallMs.toFixed(0)} ms there)`,
  });
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
  const api = await startIfc();
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
