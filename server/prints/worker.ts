import { existsSync, readFileSync } from 'node:fs';
import { mkdir, rename, unlink, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import sharp from 'sharp';
import { cameraFrame } from '../../core/camera/camera';
import type { Walk } from '../../core/camera/walk';
import { Denoiser } from '../../core/denoise/denoiser';
import { develop, type Development } from '../../core/image/tone';
import type { KernelPool } from '../../core/kernel/pool';
import { SceneMemory } from '../../core/kernel/scene-memory';
import type { SceneAssets } from '../../core/scene/rendered-scene';
import { setLivingScene } from '../../core/living/with-blades';
import { developmentAt, meterWalk, type Exposures } from '../../core/render/meter';
import { MovingPicture } from '../../core/render/moving-picture';
import { frameOf, framesIn, PRINT_QUALITIES, type PrintSpec } from '../../core/render/print';
import { gradingWithCube } from '../../core/scene/grading-of';
import { closelySeenMaps, MOST_FINE_SETS } from '../../core/scene/fine-maps';
import { skyOf } from '../../core/sky/sky';
import type { SkyInput } from '../../core/sky/sky-map';
import { decodeSkyPicture, type SkyPicture } from '../../core/sky/sky-picture';
import { BlobStore } from '../blobs';
import { KERNEL_FILE } from '../dist-paths';
import { denoiserWeights } from '../denoiser-weights';
import { fineMaps } from '../fine-maps';
import { nodePool } from '../node-pool';
import { loadAssets } from '../scene-assets';
import { xmp } from './picture-metadata';
import { framePath, writeWalk } from './walk-files';

/** One print from its frozen order to its files. The film is kept beside them every few seconds, so a killed print goes on. */

export interface PrintWorkerInput {
  spec: PrintSpec;
  blobDirectory: string;
  /** Where map sets for close views are kept. */
  mapDirectory: string;
  /** Without ending. */
  output: string;
}
/** Samples a pixel, of all pictures together. */
export type FromPrintWorker = { type: 'progress'; samples: number; secondsLeft: number | null } | { type: 'finished' };

/** The film is kept so often, but no oftener than that keeping it takes a twentieth of the time. */
const KEEP_EVERY_MS = 1500;
const KEEPING_SHARE = 1 / 20;
const TILE = 32;
/** Of a walk so many pictures are asked what they show closely. */
const MOST_LOOKED_AT = 40;

const { spec, blobDirectory, mapDirectory, output } = workerData as PrintWorkerInput;
const { order } = spec;
const { samples: perFrame, maxDepth } = PRINT_QUALITIES[order.quality];
const frames = framesIn(order);
const at = frameOf(order);
const filmFile = `${output}.film`;
const pictureOf = (frame: number) => (order.walk ? framePath(output, frame) : `${output}.png`);

async function main(): Promise<void> {
  // Killed between its last file and the word of it.
  if (existsSync(`${output}.zip`)) {
    parentPort!.postMessage({ type: 'finished' } satisfies FromPrintWorker);
    return;
  }
  const scene = new SceneMemory(new WebAssembly.Module(readFileSync(KERNEL_FILE)));
  const skyPicture = await skyPictureOf(spec.sky);
  scene.setSky(skyOf(spec.sky, skyPicture));
  const assets = await assetsFor();
  const pool = nodePool(scene);
  const denoiser = new Denoiser(pool, denoiserWeights);
  const left = Array.from({ length: frames }, (_, i) => i).filter((i) => !existsSync(pictureOf(i)));
  const told = progress((frames - left.length) * perFrame);
  const isMetered = order.walk && (order.walk.metered || order.walk.meteredWhite);
  const exposures = isMetered ? await metered(pool, denoiser, order.walk!, assets) : undefined;
  for (const frame of left) {
    const { camera, timeS } = at(frame);
    // What drifts is drawn anew for each picture.
    if (spec.sky.weather?.clouds) scene.setSky(skyOf({ ...spec.sky, timeS }, skyPicture));
    scene.settings({ seed: order.seed, maxDepth });
    const axes = cameraFrame(camera, order.width / order.height);
    setLivingScene(scene, spec.scene, assets, axes);
    scene.setTime(timeS);
    scene.camera(axes);
    scene.setFilm(order.width, order.height);
    await renderSamples(pool, frame, told);
    await writePicture(denoiser, developmentIn(exposures, timeS), pictureOf(frame));
  }
  await writeThumbnail(pictureOf(0));
  if (order.walk) await writeWalk(output, frames, order.walk.framesPerSecond, spec.metadata);
  if (existsSync(filmFile)) await unlink(filmFile);
  parentPort!.postMessage({ type: 'finished' } satisfies FromPrintWorker);
  pool.close();
}

async function skyPictureOf({ picture }: SkyInput): Promise<SkyPicture | undefined> {
  const bytes = picture && (await new BlobStore(blobDirectory).get(picture.hash));
  return bytes && decodeSkyPicture(bytes);
}

async function metered(pool: KernelPool, denoiser: Denoiser, walk: Walk, assets: SceneAssets): Promise<Exposures> {
  const aspect = order.width / order.height;
  setLivingScene(pool.scene, spec.scene, assets, cameraFrame(walk.stops[0]!, aspect));
  pool.scene.settings({ seed: order.seed, maxDepth });
  return (await meterWalk(new MovingPicture(pool, denoiser), walk, aspect))!;
}

/** What is seen closely has finer maps, the same all along a walk, but not in a proof, which is to be there soon. */
async function assetsFor(): Promise<SceneAssets> {
  const assets = await loadAssets(spec.scene, new BlobStore(blobDirectory));
  if (order.quality === 'proof') return assets;
  const close = new Set<string>();
  const step = Math.max(1, Math.ceil(frames / MOST_LOOKED_AT));
  for (let frame = 0; frame < frames; frame += step) {
    const axes = cameraFrame(at(frame).camera, order.width / order.height);
    for (const name of closelySeenMaps(spec.scene.instances, (hash) => assets.mesh(hash), axes, order.width)) close.add(name);
  }
  const fine = new Map([...close].slice(0, MOST_FINE_SETS).map((name) => [name, fineMaps(name, mapDirectory)]));
  return { mesh: (hash) => assets.mesh(hash), maps: (name) => fine.get(name) ?? assets.maps(name) };
}

/** Tells how far it is, each time a sample of all pixels is done; `before` were done by an earlier start. */
function progress(before: number): (samples: number) => void {
  const started = Date.now();
  let done = 0;
  return (samples) => {
    done += samples;
    const secondsLeft = (((frames * perFrame - before - done) / done) * (Date.now() - started)) / 1000;
    parentPort!.postMessage({ type: 'progress', samples: before + done, secondsLeft } satisfies FromPrintWorker);
  };
}

async function renderSamples(pool: KernelPool, frame: number, told: (samples: number) => void): Promise<void> {
  const { width, height } = order;
  const done = readFilm(pool.scene, frame);
  let keepAt = Date.now() + KEEP_EVERY_MS;
  for (let sample = done; sample < perFrame; sample++) {
    await pool.run({ kind: 'render', width, height, tile: TILE, first: sample, count: 1 });
    told(sample === done ? done + 1 : 1);
    const now = Date.now();
    if (now > keepAt && sample + 1 < perFrame) {
      await keepFilm(pool.scene, frame, sample + 1);
      const kept = Date.now();
      keepAt = kept + Math.max(KEEP_EVERY_MS, (kept - now) / KEEPING_SHARE);
    }
  }
}

/** Film file: number of the picture and samples done as f64, then the film's floats. */
const FILM_HEAD = 16;

async function keepFilm(scene: SceneMemory, frame: number, samples: number): Promise<void> {
  const film = scene.filmData();
  const out = new Uint8Array(FILM_HEAD + film.byteLength);
  new DataView(out.buffer).setFloat64(0, frame, true);
  new DataView(out.buffer).setFloat64(8, samples, true);
  out.set(new Uint8Array(film.buffer, film.byteOffset, film.byteLength), FILM_HEAD);
  await writeFile(`${filmFile}.part`, out, { flush: true });
  await rename(`${filmFile}.part`, filmFile);
}

/** Puts the kept film of a picture in place; how many samples it has. */
function readFilm(scene: SceneMemory, frame: number): number {
  if (!existsSync(filmFile)) return 0;
  const bytes = readFileSync(filmFile);
  const film = scene.filmData();
  if (bytes.byteLength !== FILM_HEAD + film.byteLength || bytes.readDoubleLE(0) !== frame) return 0;
  new Uint8Array(film.buffer, film.byteOffset, film.byteLength).set(bytes.subarray(FILM_HEAD));
  return bytes.readDoubleLE(8);
}

/** As ordered, but for what is measured along a walk. */
function developmentIn(exposures: Exposures | undefined, timeS: number): Development {
  const { ev100, white, walk } = order;
  const measured = exposures && developmentAt(exposures, timeS - order.timeS);
  return { ev100: measured && walk?.metered ? measured.ev100 : ev100, white: measured && walk?.meteredWhite ? measured.white : white };
}

async function writePicture(denoiser: Denoiser, development: Development, file: string): Promise<void> {
  const { width, height, denoise } = order;
  const radiance = (await (denoise ? denoiser.denoised('full') : denoiser.plain()))!;
  const rgba = new Uint8Array(width * height * 4);
  develop(radiance, width, { ...development, ...(spec.grading && gradingWithCube(spec.grading)) }, rgba);
  const picture = sharp(rgba, { raw: { width, height, channels: 4 } }).removeAlpha();
  await mkdir(path.dirname(file), { recursive: true });
  await picture.png({ compressionLevel: 6 }).withXmp(xmp(spec.metadata)).toFile(`${output}.part`);
  await rename(`${output}.part`, file);
}

async function writeThumbnail(picture: string): Promise<void> {
  await sharp(picture).resize(320).png().toFile(`${output}.thumb.png`);
}

await main();
