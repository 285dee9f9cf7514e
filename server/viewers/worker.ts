import { readFileSync } from 'node:fs';
import { renameSync, writeFileSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import sharp from 'sharp';
import { cameraFrame } from '../../core/camera/camera';
import { Denoiser } from '../../core/denoise/denoiser';
import { viewerModel, type BakedLook } from '../../core/formats/viewer-model';
import { hash01 } from '../../core/finish/maps/noise';
import { meteredEv, type Metering } from '../../core/image/exposure';
import { PLAIN_GRADING } from '../../core/image/grading';
import { develop, exposureScale, type Development } from '../../core/image/tone';
import { balanceMatrix } from '../../core/image/white-balance';
import type { KernelPool } from '../../core/kernel/pool';
import { SceneMemory } from '../../core/kernel/scene-memory';
import { setLivingScene } from '../../core/living/with-blades';
import type { Camera } from '../../core/model/schema';
import { sceneBounds } from '../../core/scene/scene-bounds';
import { groundMesh, plainGround } from '../../core/scene/plain-ground';
import { renderSingle } from '../../core/render/single';
import { automaticWhite } from '../../core/render/white';
import type { SceneAssets } from '../../core/scene/rendered-scene';
import type { SceneInstance } from '../../core/scene/scene';
import { skyOf } from '../../core/sky/sky';
import type { Sky } from '../../core/sky/sky-map';
import { bakedModel, type BakedModel } from '../../core/viewing/baked-surfaces';
import { codeLight, type ViewerData, type ViewerLook } from '../../core/viewing/viewing';
import { BlobStore } from '../blobs';
import { denoiserWeights } from '../denoiser-weights';
import { KERNEL_FILE } from '../dist-paths';
import { nodePool } from '../node-pool';
import { loadAssets } from '../scene-assets';
import { viewerPage } from './page';
import type { ViewerSpec } from './spec';

/** Bakes the light of each look, and writes the viewer's file. */

export interface ViewerWorkerInput {
  spec: ViewerSpec;
  blobDirectory: string;
  /** Without: it is only weighed. */
  output?: string | undefined;
}
export type FromViewerWorker =
  | { type: 'progress'; done: number }
  | { type: 'weighed'; bytes: number; corners: number; leftOut: string[] }
  | { type: 'finished'; bytes: number; modelBytes: number; corners: number; seconds: number; leftOut: string[] };

const MAP_PX = 512;
const WEBP_QUALITY = 78;
/** Small pictures that views are exposed by. */
const METERED: Size = { width: 96, height: 54, samples: 4 };
const SKY = { width: 512, height: 256 };
/** Points that are baked between two words of how far it is. */
const AT_ONCE = 20_000;

const { spec, blobDirectory, output } = workerData as ViewerWorkerInput;
/** As good as the light that is baked; of a try it is half as large. */
const POSTER: Size = { ...(spec.samples < 16 ? { width: 400, height: 225 } : { width: 800, height: 450 }), samples: Math.max(2, Math.round(spec.samples / 4)) }; // prettier-ignore
const tell = (message: FromViewerWorker): void => {
  parentPort!.postMessage(message);
};

async function main(): Promise<void> {
  const began = Date.now();
  const loaded = await loadAssets(
    [...new Set(spec.looks.flatMap(({ scene, others }) => [scene, ...others].flatMap(({ instances }) => instances)))],
    new BlobStore(blobDirectory),
  );
  const meshOf = (key: string) => groundMesh(key) ?? loaded.mesh(key);
  const assets: SceneAssets = { mesh: meshOf, maps: (name) => loaded.maps(name) };
  // The plain ground is a part of the model here, so that it is lit like the rest.
  const grounds = spec.looks.map(({ scene }) => plainGround(scene.instances, meshOf, scene.ground).map((part, i): SceneInstance => ({ ...part, source: '+ground', element: String(i), part: 0, material: '' }))); // prettier-ignore
  const grounded = [0, ...spec.looks[0]!.others.map((_, i) => i + 1)].map((state) =>
    spec.looks.map(({ scene, others }, look) => [...(state === 0 ? scene : others[state - 1]!).instances, ...grounds[look]!]),
  );
  const model = bakedModel(grounded, assets);
  if (output === undefined) {
    await weigh(model, assets);
    return;
  }
  const memory = new SceneMemory(new WebAssembly.Module(readFileSync(KERNEL_FILE)));
  const pool = nodePool(memory);
  const denoiser = new Denoiser(pool, denoiserWeights);
  const [looks, baked, exposures]: [ViewerLook[], BakedLook[], number[][]] = [[], [], []];
  let poster = '';
  const total = spec.looks.length;
  for (const [i, look] of spec.looks.entries()) {
    const sky = skyOf(look.sky);
    memory.setSky(sky);
    const frame = cameraFrame(spec.poster, POSTER.width / POSTER.height);
    const show = (state: number) => {
      setLivingScene(memory, state === 0 ? look.scene : look.others[state - 1]!, assets, frame);
    };
    show(spec.views[0]!.state);
    const metered = (camera: Camera, of: Size) => pictureOf(pool, denoiser, memory, camera, of, look.exposure.metering);
    const first = await metered(spec.poster, i === 0 ? POSTER : METERED);
    const developed = { ev100: spec.views[0]!.ev100 ?? look.exposure.ev100 ?? first.ev100, white: look.exposure.white ?? first.white };
    if (i === 0) poster = await posterOf(first, { ...developed, ...look.grading });
    const unit = exposureScale(developed.ev100);
    const own: number[] = [];
    for (const { camera, state, ev100: held } of spec.views) {
      if (held === undefined && look.exposure.ev100 === undefined) {
        show(state);
        own.push(exposureScale((await metered(camera, METERED)).ev100) / unit);
      } else own.push(held === undefined ? 1 : exposureScale(held) / unit);
    }
    exposures.push(own);
    show(0);
    baked.push({ light: await bake(pool, model.points, (share) => { tell({ type: 'progress', done: (i + share) / total }); }), unit }); // prettier-ignore
    const { grading = PLAIN_GRADING } = look.grading;
    looks.push({
      name: look.name,
      minutes: look.minutes,
      date: look.date,
      sun: { direction: sky.sun.direction, light: sky.sun.normalLux.map((lux) => lux * unit) },
      sky: await skyPicture(sky, unit),
      skyLight: openSkyLight(sky).map((lux) => (lux / Math.PI) * unit),
      unit,
      balance: balanceMatrix(developed.white),
      grading: { contrast: grading.contrast, highlights: grading.highlights, shadows: grading.shadows, saturation: grading.saturation, filmic: grading.curve === 'filmic' }, // prettier-ignore
    });
  }
  const near = sceneBounds(grounded[0]![0]!.filter(({ class: its, finish }) => its !== 'Planting' && its !== 'Entourage' && finish.family !== 'ground' && finish.family !== 'water' && !finish.blades), meshOf); // prettier-ignore
  const glb = await viewerModel(model, baked, assets, webp);
  const data: ViewerData = {
    project: spec.project,
    name: spec.name,
    made: spec.made,
    looks,
    views: spec.views.map((view, i) => ({ ...view, exposures: exposures.map((own) => own[i]!) })),
    near: { min: [...(near?.min ?? [0, 0, 0])], max: [...(near?.max ?? [1, 1, 1])] },
    model: Buffer.from(glb).toString('base64'),
    poster,
  };
  const page = viewerPage(data);
  writeFileSync(`${output}.part`, page);
  renameSync(`${output}.part`, output);
  const corners = cornersOf(model);
  tell({ type: 'finished', bytes: Buffer.byteLength(page), modelBytes: glb.byteLength, corners, seconds: (Date.now() - began) / 1000, leftOut: model.leftOut }); // prettier-ignore
  pool.close();
}

const cornersOf = ({ surfaces }: BakedModel): number => surfaces.reduce((sum, { mesh }) => sum + mesh.positions.length / 3, 0);

/** Pictures of the sky, one for each look, and of the poster: as large as those of the demo. */
const [SKY_BYTES, POSTER_BYTES] = [30_000, 80_000];

/** How large the file becomes: all that it holds, but with light that is only supposed, as rough as baked light is. */
async function weigh(model: BakedModel, assets: SceneAssets): Promise<void> {
  const light = supposedLight(model.points);
  const glb = await viewerModel(model, spec.looks.map(() => ({ light, unit: 1 })), assets, webp); // prettier-ignore
  const data: ViewerData = { project: spec.project, name: spec.name, made: spec.made, looks: [], views: spec.views.map((view) => ({ ...view, exposures: [] })), near: { min: [], max: [] }, model: '', poster: '' }; // prettier-ignore
  const bytes = Buffer.byteLength(viewerPage(data)) + Math.ceil(glb.byteLength / 3) * 4 + SKY_BYTES * spec.looks.length + POSTER_BYTES;
  tell({ type: 'weighed', bytes, corners: cornersOf(model), leftOut: model.leftOut });
}

/** Illuminance by where each point faces, with a few per cent of noise, f32x3 each. */
function supposedLight(points: Float32Array): Float32Array {
  const out = new Float32Array(points.length / 2);
  for (let i = 0; i < out.length / 3; i++) {
    const facing = points[i * 6 + 3]! * 0.3 + points[i * 6 + 4]! * 0.3 + points[i * 6 + 5]! * 0.9;
    const lux = Math.PI * (0.15 + 0.6 * Math.max(0, facing)) * (0.97 + 0.06 * hash01(i, 0, 5));
    out.fill(lux, i * 3, i * 3 + 3);
  }
  return out;
}

/** Illuminance at all points, f32x3 each. */
async function bake(pool: KernelPool, points: Float32Array, told: (share: number) => void): Promise<Float32Array> {
  const { memory } = pool.scene;
  const count = points.length / 6;
  const out = new Float32Array(count * 3);
  pool.scene.settings({ seed: 11 });
  for (let first = 0; first < count; first += AT_ONCE) {
    const height = Math.min(AT_ONCE, count - first);
    const [from, to] = [memory.allocate(height * 24), memory.allocate(height * 12)];
    memory.write(from, points.slice(first * 6, (first + height) * 6));
    await pool.run({ kind: 'bake', height, rows: 128, points: from, count: spec.samples, out: to });
    out.set(memory.floats(to, height * 3), first * 3);
    memory.release(from);
    memory.release(to);
    told((first + height) / count);
  }
  return out;
}

interface Size {
  width: number;
  height: number;
  samples: number;
}

/** A picture of a view, and how it is exposed by itself. */
async function pictureOf(
  pool: KernelPool,
  denoiser: Denoiser,
  memory: SceneMemory,
  camera: Camera,
  { width, height, samples }: Size,
  metering: Metering,
) {
  memory.camera(cameraFrame(camera, width / height));
  memory.settings({ seed: 1 });
  // Nothing cancels it here.
  const radiance = Float32Array.from((await renderSingle(pool, denoiser, { width, height, samples }))!);
  return { width, height, radiance, ev100: meteredEv(radiance, width, metering), white: automaticWhite(radiance, memory.filmData()) };
}

async function posterOf({ width, height, radiance }: Awaited<ReturnType<typeof pictureOf>>, development: Development): Promise<string> {
  const rgba = new Uint8Array(width * height * 4);
  develop(radiance, width, development, rgba);
  const file = await sharp(rgba, { raw: { width, height, channels: 4 } }).removeAlpha().webp({ quality: 80 }).toBuffer(); // prettier-ignore
  return `data:image/webp;base64,${file.toString('base64')}`;
}

async function skyPicture(sky: Sky, unit: number): Promise<string> {
  const { width, height, radiance } = sky.backdrop ?? sky;
  const rgb = new Uint8Array(SKY.width * SKY.height * 3);
  for (let y = 0; y < SKY.height; y++)
    for (let x = 0; x < SKY.width; x++) {
      const [u, v] = [((x + 0.5) * width) / SKY.width - 0.5, ((y + 0.5) * height) / SKY.height - 0.5];
      const [x0, y0] = [Math.floor(u), Math.floor(v)];
      const at = (i: number, j: number, c: number) =>
        radiance[(Math.min(height - 1, Math.max(0, j)) * width + ((i + width) % width)) * 3 + c]!;
      const between = (a: number, b: number, t: number) => a + (b - a) * t;
      for (let c = 0; c < 3; c++) {
        const light = between(
          between(at(x0, y0, c), at(x0 + 1, y0, c), u - x0),
          between(at(x0, y0 + 1, c), at(x0 + 1, y0 + 1, c), u - x0),
          v - y0,
        );
        rgb[(y * SKY.width + x) * 3 + c] = codeLight(light * unit);
      }
    }
  const file = await sharp(rgb, { raw: { ...SKY, channels: 3 } }).webp({ quality: 96 }).toBuffer(); // prettier-ignore
  return `data:image/webp;base64,${file.toString('base64')}`;
}

/** Illuminance of level ground that sees the whole sky, without the sun. */
function openSkyLight({ width, height, radiance }: Sky): number[] {
  const sum = [0, 0, 0];
  for (let y = 0; y < height / 2; y++) {
    const [top, bottom] = [(y * Math.PI) / height, ((y + 1) * Math.PI) / height];
    // Of a band of the sky, weighed by the cosine: half the difference of the squared sines.
    const weight = ((Math.sin(bottom) ** 2 - Math.sin(top) ** 2) / 2) * ((2 * Math.PI) / width);
    for (let x = 0; x < width; x++) for (let c = 0; c < 3; c++) sum[c]! += radiance[(y * width + x) * 3 + c]! * weight;
  }
  return sum;
}

const webp = (texels: Uint8Array, width: number, height: number): Promise<Uint8Array> =>
  sharp(texels, { raw: { width, height, channels: texels.length === width * height * 4 ? 4 : 3 } })
    .resize({ width: MAP_PX, height: MAP_PX, fit: 'inside', withoutEnlargement: true })
    .webp({ quality: WEBP_QUALITY })
    .toBuffer();

await main();
