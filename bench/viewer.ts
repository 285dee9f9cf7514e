import { writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import type { Camera } from '../core/model/schema';
import { START_CAMERA } from '../web/app/state/picture-state';
import { openBrowser, setStage } from '../e2e/stage';
import { removeFolder, temporaryFolder } from '../server/testing/running-server';
import { linkBigModel } from './big-model';
import { report } from './report';

/** The client's viewer: what its file weighs, how long its light is baked, and how soon it shows something; for the demo and for 100,000 elements. */

const SAMPLES = 8;
const FRAMES = 20;
const POSTER = { width: 800, height: 450 };
/** On a slow computer all is drawn once nothing has moved for a moment. */
const SETTLED_MS = 15_000;
const folder = temporaryFolder();
const browser = await openBrowser();

interface Made {
  viewers: { id: string; state: string; fault: string | null; report: { bytes: number; modelBytes: number; corners: number; seconds: number; leftOut: string[] } | null }[];
} // prettier-ignore

async function measure(name: string, url: string, camera: Camera): Promise<void> {
  const body = JSON.stringify({ name, looks: [{ name: 'Now' }], views: [{ name: 'First', camera }], samples: SAMPLES });
  const order = () => fetch(`${url}/api/viewers`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body });
  // Until the model has arrived there is nothing to show.
  while ((await order()).status !== 201) await new Promise((resolve) => setTimeout(resolve, 500));
  let made: Made['viewers'][number] | undefined;
  while (!made || made.state === 'waiting' || made.state === 'baking') {
    await new Promise((resolve) => setTimeout(resolve, 500));
    made = ((await (await fetch(`${url}/api/viewers`)).json()) as Made).viewers[0];
  }
  if (!made.report) throw new Error(made.fault ?? 'The viewer was not made.');
  const { bytes, modelBytes, corners, seconds, leftOut } = made.report;
  const about = `${String(corners)} corners, ${String(SAMPLES)} samples each${leftOut.length > 0 ? `; left out: ${leftOut.join(', ')}` : ''}`;
  report({
    name: `viewer.${name}.size`,
    value: bytes / 1e6,
    unit: 'MB',
    comparedWith: `of which ${(modelBytes / 1e6).toFixed(1)} MB model`,
  });
  report({ name: `viewer.${name}.bake`, value: seconds, unit: 's', comparedWith: about });
  const file = path.join(folder, `${name}.html`);
  writeFileSync(file, Buffer.from(await (await fetch(`${url}/api/viewers/${made.id}/file`)).arrayBuffer()));
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.setDefaultTimeout(300_000);
  const began = performance.now();
  await page.goto(`file://${file}`, { waitUntil: 'commit' });
  const poster = await page.locator('.poster').evaluate(async (image: HTMLImageElement) => {
    await image.decode();
    return image.src;
  });
  report({ name: `viewer.${name}.poster`, value: (performance.now() - began) / 1000, unit: 's', comparedWith: 'a picture at once' });
  await page.waitForFunction(() => Number(document.querySelector<HTMLElement>('canvas')?.dataset['drawn']) > 0);
  report({
    name: `viewer.${name}.first-picture`,
    value: (performance.now() - began) / 1000,
    unit: 's',
    comparedWith: 'of the model, in seconds; no GPU here',
  });
  const frame = await page.evaluate(async (frames) => {
    const { view } = (globalThis as unknown as { viewing: { view: { eye: { heading: number }; ask(): void; canvas: HTMLElement } } })
      .viewing;
    const start = performance.now();
    for (let i = 0; i < frames; i++) {
      const before = view.canvas.dataset['drawn'];
      view.eye.heading += 0.02;
      view.ask();
      while (view.canvas.dataset['drawn'] === before) await new Promise((resolve) => requestAnimationFrame(resolve));
    }
    return (performance.now() - start) / frames;
  }, FRAMES);
  report({ name: `viewer.${name}.frame`, value: frame, unit: 'ms', comparedWith: '1280 x 800, with the plan; no GPU here' });
  await page.setViewportSize(POSTER);
  await page.evaluate(() => {
    const { view } = (globalThis as unknown as { viewing: { view: { ask(): void } } }).viewing;
    document.querySelector('select')?.dispatchEvent(new Event('change'));
    view.ask();
  });
  await page.addStyleTag({ content: '#stage > :not(canvas), .bar, .plan, .side, .told { visibility: hidden }' });
  await page.waitForTimeout(SETTLED_MS);
  const [seen, wanted] = await Promise.all(
    [await page.screenshot(), Buffer.from(poster.split(',')[1]!, 'base64')].map((image) => sharp(image).removeAlpha().resize(80, 45, { fit: 'fill' }).raw().toBuffer()),
  ); // prettier-ignore
  const difference = seen!.reduce((sum, v, i) => sum + Math.abs(v - wanted![i]!), 0) / seen!.length;
  report({ name: `viewer.${name}.difference`, value: difference, unit: 'of 255', comparedWith: 'mean, against the kernel’s picture of the first view, its poster' }); // prettier-ignore
  await page.close();
}

const stage = await setStage();
await measure('demo', stage.server.url, START_CAMERA);
await stage.close();
const big = await linkBigModel(100_000);
await measure('100000', big.server.url, { position: [-20, -40, 30], target: [25, 25, 20], focalMm: 26 });
await big.close();
await browser.close();
removeFolder(folder);
