import { existsSync, readFileSync } from 'node:fs';
import { rename, unlink, writeFile } from 'node:fs/promises';
import { parentPort, workerData } from 'node:worker_threads';
import sharp from 'sharp';
import { cameraFrame, type CameraFrame } from '../../core/camera/camera';
import { develop, exposureScale } from '../../core/image/tone';
import type { KernelPool } from '../../core/kernel/pool';
import { SceneMemory, type SceneAssets } from '../../core/kernel/scene-memory';
import { setLivingScene } from '../../core/living/with-blades';
import { PictureBuffers } from '../../core/render/denoise';
import { FIREFLY_LIMIT, PRINT_QUALITIES, type PrintSpec } from '../../core/render/print';
import { closelySeenMaps } from '../../core/scene/fine-maps';
import { clearSky } from '../../core/sky/sky-map';
import { BlobStore } from '../blobs';
import { KERNEL_FILE } from '../dist-paths';
import { fineMaps } from '../fine-maps';
import { nodePool } from '../node-pool';
import { loadAssets } from '../scene-assets';

/** One print from its frozen order to the file. The film is kept beside it every few seconds, so a killed print goes on. */

export interface PrintWorkerInput {
  spec: PrintSpec;
  blobDirectory: string;
  /** Where map sets for close views are kept. */
  mapDirectory: string;
  /** Without ending. */
  output: string;
}
export type FromPrintWorker = { type: 'progress'; samples: number; total: number; secondsLeft: number | null } | { type: 'finished' };

/** The film is kept so often, but no oftener than that keeping it takes a twentieth of the time. */
const KEEP_EVERY_MS = 1500;
const KEEPING_SHARE = 1 / 20;
const TILE = 32;

const { spec, blobDirectory, mapDirectory, output } = workerData as PrintWorkerInput;
const { order } = spec;
const { samples: total, maxDepth } = PRINT_QUALITIES[order.quality];
const filmFile = `${output}.film`;

async function main(): Promise<void> {
  const scene = new SceneMemory(new WebAssembly.Module(readFileSync(KERNEL_FILE)));
  scene.setSky(clearSky(spec.sky));
  const frame = cameraFrame(order.camera, order.width / order.height);
  setLivingScene(scene, spec.scene, await assetsFor(frame), frame);
  scene.setTime(order.timeS);
  scene.camera(frame);
  scene.settings({ seed: order.seed, maxDepth, clampCdM2: FIREFLY_LIMIT / exposureScale(order.ev100) });
  scene.setFilm(order.width, order.height);
  const pool = nodePool(scene);
  await renderSamples(pool, readFilm(scene));
  await writePicture(pool);
  if (existsSync(filmFile)) await unlink(filmFile);
  parentPort!.postMessage({ type: 'finished' } satisfies FromPrintWorker);
  pool.close();
}

/** What is seen closely wears finer maps, but not in a proof, which is to be there soon. */
async function assetsFor(frame: CameraFrame): Promise<SceneAssets> {
  const assets = await loadAssets(spec.scene, new BlobStore(blobDirectory));
  if (order.quality === 'proof') return assets;
  const close = closelySeenMaps(spec.scene.instances, (hash) => assets.mesh(hash), frame, order.width);
  const fine = new Map(close.map((name) => [name, fineMaps(name, mapDirectory)]));
  return { mesh: (hash) => assets.mesh(hash), maps: (name) => fine.get(name) ?? assets.maps(name) };
}

async function renderSamples(pool: KernelPool, done: number): Promise<void> {
  const { width, height } = order;
  const started = Date.now();
  let keepAt = started + KEEP_EVERY_MS;
  for (let sample = done; sample < total; sample++) {
    await pool.run({ kind: 'render', width, height, tile: TILE, first: sample, count: 1, step: 1, offsetX: 0, offsetY: 0 });
    const now = Date.now();
    const perSample = (now - started) / (sample + 1 - done);
    parentPort!.postMessage({
      type: 'progress',
      samples: sample + 1,
      total,
      secondsLeft: ((total - sample - 1) * perSample) / 1000,
    } satisfies FromPrintWorker);
    if (now > keepAt && sample + 1 < total) {
      await keepFilm(pool.scene, sample + 1);
      const kept = Date.now();
      keepAt = kept + Math.max(KEEP_EVERY_MS, (kept - now) / KEEPING_SHARE);
    }
  }
}

/** Film file: samples done as f64, then the film's floats. */
async function keepFilm(scene: SceneMemory, samples: number): Promise<void> {
  const film = scene.filmData();
  const out = new Uint8Array(8 + film.byteLength);
  new DataView(out.buffer).setFloat64(0, samples, true);
  out.set(new Uint8Array(film.buffer, film.byteOffset, film.byteLength), 8);
  await writeFile(`${filmFile}.part`, out, { flush: true });
  await rename(`${filmFile}.part`, filmFile);
}

function readFilm(scene: SceneMemory): number {
  if (!existsSync(filmFile)) return 0;
  const bytes = readFileSync(filmFile);
  const film = scene.filmData();
  if (bytes.byteLength !== 8 + film.byteLength) return 0;
  new Uint8Array(film.buffer, film.byteOffset, film.byteLength).set(bytes.subarray(8));
  return bytes.readDoubleLE(0);
}

async function writePicture(pool: KernelPool): Promise<void> {
  const { width, height, ev100, denoise } = order;
  const buffers = new PictureBuffers(pool, width, height);
  const radiance = (await buffers.radiance(denoise))!;
  const rgba = new Uint8Array(width * height * 4);
  develop(radiance, width, ev100, rgba);
  const raw = () => sharp(rgba, { raw: { width, height, channels: 4 } }).removeAlpha();
  await raw().png({ compressionLevel: 6 }).withXmp(xmp(spec.metadata)).toFile(`${output}.part`);
  await raw().resize(320).png().toFile(`${output}.thumb.png`);
  await rename(`${output}.part`, `${output}.png`);
}

function xmp(metadata: Record<string, string>): string {
  const text = (value: string) =>
    value
      .replace(/&/g, '&amp;')
      .replace(/</g, '&lt;')
      .replace(/>/g, '&gt;')
      .replace(/"/g, '&quot;')
      .replace(/[\u0000-\u001f]/g, ' '); // eslint-disable-line no-control-regex
  const fields = Object.entries(metadata)
    .map(([key, value]) => `   <dp:${key}>${text(value)}</dp:${key}>`)
    .join('\n');
  return `<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>
<x:xmpmeta xmlns:x="adobe:ns:meta/">
 <rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
  <rdf:Description rdf:about="" xmlns:dp="urn:diaphane:picture:1" xmlns:dc="http://purl.org/dc/elements/1.1/">
   <dc:description><rdf:Alt><rdf:li xml:lang="x-default">${text(
     Object.entries(metadata)
       .map(([k, value]) => `${k}: ${value}`)
       .join('; '),
   )}</rdf:li></rdf:Alt></dc:description>
${fields}
  </rdf:Description>
 </rdf:RDF>
</x:xmpmeta>
<?xpacket end="w"?>`;
}

await main();
