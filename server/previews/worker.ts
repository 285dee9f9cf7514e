import { readFileSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';
import sharp from 'sharp';
import type { Finish } from '../../core/finish/finish';
import { setLivingScene } from '../../core/living/with-blades';
import { thingCardCamera, thingCardScene } from '../../core/render/thing-card';
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
}
export type Previewed = { finish: Finish } | { thing: PreviewedThing };
export type PreviewOrder = Previewed & { blobs: string };
export type FromPreviewWorker = { png: Uint8Array } | { fault: string };

const [WIDTH, HEIGHT, SAMPLES, MAX_DEPTH] = [200, 160, 16, 8];

const scene = new SceneMemory(new WebAssembly.Module(readFileSync(KERNEL_FILE)));
scene.setSky(testCardSky());
scene.settings({ seed: 1, maxDepth: MAX_DEPTH });
const pool = new KernelPool(
  scene,
  () => {
    throw new Error('Previews need no further threads.');
  },
  0,
);

const denoiser = new Denoiser(pool, denoiserWeights);

async function show(order: PreviewOrder): Promise<void> {
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

async function render(order: PreviewOrder): Promise<Uint8Array> {
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
