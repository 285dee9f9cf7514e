import { readFileSync } from 'node:fs';
import path from 'node:path';
import { buildMarramLanding } from '../author/model/build';
import { storedMesh } from '../author/model/kit';
import { DEFAULT_PARAMETERS } from '../author/model/parameters';
import { cameraFrame } from '../core/camera/camera';
import { decodeMaps, mapSetOf } from '../core/finish/maps/generate';
import type { MapSet } from '../core/finish/maps/texture-image';
import { prepareMesh, type PreparedMesh } from '../core/geometry/prepare-mesh';
import { SceneMemory } from '../core/kernel/scene-memory';
import type { SceneAssets } from '../core/scene/rendered-scene';
import { kernelModule } from '../core/kernel/testing';
import { setLivingScene } from '../core/living/with-blades';
import { Denoiser } from '../core/denoise/denoiser';
import { momentOf, skyInputOf } from '../core/scene/moment';
import { compileScene } from '../core/scene/compile';
import { DEFAULT_FOLLOW, DEFAULT_SUN } from '../core/project/project';
import { skyOf } from '../core/sky/sky';
import { denoiserWeights } from '../server/denoiser-weights';
import { MAPS_DIRECTORY } from '../server/dist-paths';
import { nodePool } from '../server/node-pool';

/** The demo's scene in the kernel, as it stands by default; what the stills are measured at. */

interface DemoView {
  camera: string;
  sun: { date: string; minutes: number };
}

export const DEMO_VIEWS = {
  exterior: { camera: 'from-the-bank', sun: DEFAULT_SUN },
  interior: { camera: 'waiting-hall', sun: DEFAULT_SUN },
  cafe: { camera: 'cafe', sun: { date: '2026-10-14', minutes: 22 * 60 } },
  dusk: { camera: 'from-the-jetty', sun: { date: '2026-10-14', minutes: 18 * 60 + 30 } },
} as const satisfies Record<string, DemoView>;
export type DemoViewName = keyof typeof DEMO_VIEWS;

export interface DemoStage {
  memory: SceneMemory;
  pool: ReturnType<typeof nodePool>;
  denoiser: Denoiser;
  look: (view: DemoView, aspect: number) => void;
}

export function demoStage(): DemoStage {
  const model = buildMarramLanding(DEFAULT_PARAMETERS);
  const sources = [{ id: 'demo', model }];
  const memory = new SceneMemory(kernelModule());
  const pool = nodePool(memory);
  const assigned = assets();
  const look = ({ camera, sun }: DemoView, aspect: number) => {
    const entries = new Map<string, unknown>([['sun', sun], ['follow', { ...DEFAULT_FOLLOW, time: false }]]); // prettier-ignore
    memory.setSky(skyOf(skyInputOf(momentOf([model], entries))));
    const frame = cameraFrame(model.cameras.get(camera)!, aspect);
    setLivingScene(memory, compileScene(sources, entries), assigned, frame);
    memory.camera(frame);
  };
  return { memory, pool, denoiser: new Denoiser(pool, denoiserWeights), look };
}

function assets(): SceneAssets {
  const meshes = new Map<string, PreparedMesh>();
  const maps = new Map<string, MapSet>();
  return {
    mesh: (hash) => {
      if (!meshes.has(hash)) meshes.set(hash, prepareMesh(storedMesh(hash)!.mesh));
      return meshes.get(hash);
    },
    maps: (name) => {
      if (!maps.has(name)) maps.set(name, mapSetOf(decodeMaps(readFileSync(path.join(MAPS_DIRECTORY, `${name}.maps`)))));
      return maps.get(name);
    },
  };
}
