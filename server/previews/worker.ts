import { readFileSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';
import sharp from 'sharp';
import type { Finish } from '../../core/finish/finish';
import { setLivingScene } from '../../core/living/with-blades';
import { BILLBOARD_PX, BILLBOARD_SKY_CDM2, billboardCameras, billboardPixels } from '../../core/render/thing-billboard';
import { thingCardCamera, thingCardScene } from '../../core/render/thing-card';
import { uniformSky, type Sky } from '../../core/sky/sky-map';
import type { ThingKind } from '../../core/setting/thing-kind';
import { mapSetsOf } from '../../core/scene/material-pictures';
import { TEST_CARD_EV, testCardCamera, testCardMesh, testCardScene, testCardSky } from '../../core/render/finish-card';
import { Denoiser } from '../../core/denoise/denoiser';
import { develop } from '../../core/image/tone';
import { SCREEN_WHITE } from '../../core/image/white-balance';
import { KernelPool } from '../../core/kernel/pool';
import { SceneMemory } from '../../core/kernel/scene-memory';
import { BlobStore } from '../blobs';
import { denoiserWeights } from '../denoiser-weights';
import { KERNEL_FILE } from '../dist-paths';
import { loadAssets, loadMaps } from '../scene-assets';

/** Renders test cards and things of the library, one after the other, on this thread alone: previews must not slow the work down. */

/** A thing of the library, in one of its forms and states. */
export interface PreviewedThing {
  kind: ThingKind;
  form: string;
  state?: string;
  /** As two pictures that stand crosswise for it, in place of one. */
  isBillboard?: true;
}
export type Previewed = { finish: Finish } | { thing: PreviewedThing };
export type PreviewOrder = Previewed & { blobs: string };
export type FromPreviewWorker = { png: Uint8Array } | { fault: string };

const [WIDTH, HEIGHT, SAMPLES] = [200, 160, 8];

const scene = new SceneMemory(new WebAssembly.Module(readFileSync(KERNEL_FILE)));
scene.settings({ seed: 1 });
const pool = new KernelPool(
  scene,
  () => {
    throw new Error('Previews need no further threads.');
  },
  0,
);

const denoiser = new Denoiser(pool, denoiserWeights);

/** Of the cards, and of billboards; which of them lights the scene just now. */
const SKIES = { card: testCardSky(), even: uniformSky(BILLBOARD_SKY_CDM2) };
let lit: Sky | undefined;

function light(sky: Sky): void {
  if (sky !== lit) scene.setSky(sky);
  lit = sky;
}

async function show(order: PreviewOrder): Promise<void> {
  light(SKIES.card);
  const store = new BlobStore(order.blobs);
  if ('thing' in order) {
    const { kind, form, state } = order.thing;
    const card = thingCardScene(kind, form, state);
    const frame = thingCardCamera(
      kind,
      kind.forms.find(({ id }) => id === form)!,
      WIDTH / HEIGHT,
    );
    scene.camera(frame);
    setLivingScene(scene, card, await loadAssets(card.instances, store), frame);
    return;
  }
  const { finish } = order;
  const maps = new Map(await Promise.all(mapSetsOf(finish.maps).map(async (name) => [name, await loadMaps(name, store)] as const)));
  scene.camera(testCardCamera(WIDTH / HEIGHT));
  scene.setScene(testCardScene(finish), { mesh: testCardMesh, maps: (name) => maps.get(name) });
}

/** Without ground, under an even sky; its front faces the first camera. */
async function billboard({ kind, form: id, state }: PreviewedThing, store: BlobStore): Promise<Uint8Array> {
  const form = kind.forms.find((one) => one.id === id)!;
  const bare = thingCardScene(kind, id, state, 0, new Map([['ground', 'never']]));
  const { width, height } = BILLBOARD_PX;
  light(SKIES.even);
  const assets = await loadAssets(bare.instances, store);
  scene.setScene(bare, assets);
  const sides: Buffer[] = [];
  for (const frame of billboardCameras(form)) {
    scene.camera(frame);
    scene.setFilm(width, height);
    await pool.run({ kind: 'render', width, height, tile: 32, first: 0, count: SAMPLES });
    sides.push(Buffer.from(billboardPixels(scene.filmData(), form)));
  }
  return sharp(Buffer.concat(rowsOf(sides, width)), { raw: { width: width * 2, height, channels: 4 } }).png().toBuffer(); // prettier-ignore
}

/** Rows of pictures side by side. */
function rowsOf(pictures: readonly Buffer[], width: number): Buffer[] {
  const bytes = width * 4;
  return Array.from({ length: pictures[0]!.length / bytes }, (_, y) => Buffer.concat(pictures.map((picture) => picture.subarray(y * bytes, (y + 1) * bytes)))); // prettier-ignore
}

async function render(order: PreviewOrder): Promise<Uint8Array> {
  if ('thing' in order && order.thing.isBillboard) return billboard(order.thing, new BlobStore(order.blobs));
  await show(order);
  scene.setFilm(WIDTH, HEIGHT);
  await pool.run({ kind: 'render', width: WIDTH, height: HEIGHT, tile: 32, first: 0, count: SAMPLES });
  const rgba = new Uint8Array(WIDTH * HEIGHT * 4);
  develop((await denoiser.denoised('full'))!, WIDTH, { ev100: TEST_CARD_EV, white: SCREEN_WHITE }, rgba);
  return sharp(rgba, { raw: { width: WIDTH, height: HEIGHT, channels: 4 } })
    .removeAlpha()
    .png()
    .toBuffer();
}

parentPort!.on('message', (order: PreviewOrder) => {
  render(order).then(
    (png) => {
      parentPort!.postMessage({ png } satisfies FromPreviewWorker);
    },
    (error: unknown) => {
      parentPort!.postMessage({ fault: error instanceof Error ? error.message : 'The preview failed.' } satisfies FromPreviewWorker);
    },
  );
});
