import { readFileSync } from 'node:fs';
import path from 'node:path';
import { buildMarramLanding } from '../author/model/build';
import { storedMesh } from '../author/model/kit';
import { DEFAULT_PARAMETERS } from '../author/model/parameters';
import { cameraFrame } from '../core/camera/camera';
import { decodeMaps, mapSetOf } from '../core/finish/maps/generate';
import { dressMesh, type DressedMesh } from '../core/geometry/dress';
import type { MapSet } from '../core/finish/maps/texture-image';
import { SceneMemory, type SceneAssets } from '../core/kernel/scene-memory';
import { kernelModule } from '../core/kernel/testing';
import { exposureScale } from '../core/image/tone';
import { setLivingScene } from '../core/living/with-blades';
import { PictureBuffers } from '../core/render/denoise';
import { FIREFLY_LIMIT } from '../core/render/print';
import { momentOf, skyInputOf } from '../core/scene/moment';
import { compileScene } from '../core/scene/compile';
import { clearSky } from '../core/sky/sky-map';
import { MAPS_DIRECTORY } from '../server/dist-paths';
import { nodePool } from '../server/node-pool';
import { option, report, textOption } from './report';

/** Seconds and relative error of the demo's stills against a long reference with another seed. */

const DAY_EV = 13;
const width = option('width', 1280);
const height = Math.round((width * 9) / 16);
const referenceSamples = option('reference', 1024);
/** Which of the two, separated by a comma. */
const views = textOption('views', 'exterior,interior').split(',');
const COUNTS = [16, 64, 128, 256].filter((count) => count <= option('most', 256));

const model = buildMarramLanding(DEFAULT_PARAMETERS);
const entries = new Map();
const scene = compileScene([{ id: 'demo', model }], entries);
const memory = new SceneMemory(kernelModule());
memory.setSky(clearSky(skyInputOf(momentOf([model], entries))));
const worn = assets();
memory.setScene(scene, worn);
const pool = nodePool(memory);
const buffers = new PictureBuffers(pool, width, height);

function assets(): SceneAssets {
  const meshes = new Map<string, DressedMesh>();
  const maps = new Map<string, MapSet>();
  return {
    mesh: (hash) => {
      if (!meshes.has(hash)) meshes.set(hash, dressMesh(storedMesh(hash)!.mesh));
      return meshes.get(hash);
    },
    maps: (name) => {
      if (!maps.has(name)) {
        maps.set(name, mapSetOf(decodeMaps(readFileSync(path.join(MAPS_DIRECTORY, `${name}.maps`)))));
      }
      return maps.get(name);
    },
  };
}

async function render(from: number, to: number): Promise<number> {
  const start = performance.now();
  for (let s = from; s < to; s++)
    await pool.run({ kind: 'render', width, height, tile: 32, first: s, count: 1, step: 1, offsetX: 0, offsetY: 0 });
  return (performance.now() - start) / 1000;
}

/** Root of the mean squared relative difference of luminance; the floor keeps black pixels from ruling it. */
function relativeError(picture: Float32Array, reference: Float32Array): number {
  const luminance = (p: Float32Array, i: number) => 0.2126 * p[i]! + 0.7152 * p[i + 1]! + 0.0722 * p[i + 2]!;
  let mean = 0;
  for (let i = 0; i < reference.length; i += 4) mean += luminance(reference, i);
  mean /= reference.length / 4;
  let sum = 0;
  for (let i = 0; i < reference.length; i += 4) {
    const r = luminance(reference, i);
    sum += ((luminance(picture, i) - r) / (r + 0.05 * mean)) ** 2;
  }
  return Math.sqrt(sum / (reference.length / 4));
}

for (const [name, view] of [
  ['exterior', 'from-the-bank'],
  ['interior', 'waiting-hall'],
] as const) {
  if (!views.includes(name)) continue;
  const frame = cameraFrame(model.cameras.get(view)!, width / height);
  setLivingScene(memory, scene, worn, frame);
  memory.camera(frame);
  const settings = (seed: number) => {
    // Samples are held down as in prints, or one spark in millions of paths would be all that is measured.
    memory.settings({ seed, maxDepth: 8, clampCdM2: FIREFLY_LIMIT / exposureScale(DAY_EV) });
    memory.setFilm(width, height);
  };
  settings(99);
  const seconds = await render(0, referenceSamples);
  const reference = Float32Array.from((await buffers.radiance(false))!);
  report({ name: `still.${name}.reference`, value: seconds, unit: 's', comparedWith: `${referenceSamples} samples, ${width} x ${height}` });
  settings(1);
  const errors = new Map<string, number>();
  let time = 0;
  for (const [i, count] of COUNTS.entries()) {
    time += await render(COUNTS[i - 1] ?? 0, count);
    for (const denoise of [false, true]) {
      const start = performance.now();
      const picture = (await buffers.radiance(denoise))!;
      const took = time + (performance.now() - start) / 1000;
      const key = `${denoise ? 'denoised' : 'plain'}-${count}`;
      errors.set(key, relativeError(picture, reference));
      report({ name: `still.${name}.${key}.seconds`, value: took, unit: 's' });
      report({ name: `still.${name}.${key}.error`, value: errors.get(key)!, unit: '' });
    }
  }
  report({
    name: `still.${name}.denoised-16.vs-plain-128`,
    value: errors.get('denoised-16')! / errors.get('plain-128')!,
    unit: 'x',
    comparedWith: 'under 1',
  });
  if (name === 'exterior')
    report({
      name: 'still.denoised-16.vs-plain-128',
      value: errors.get('denoised-16')! / errors.get('plain-128')!,
      unit: 'x',
      comparedWith: 'under 1, exterior',
    });
}
pool.close();
