import { existsSync, readFileSync } from 'node:fs';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { startIfc } from '../core/formats/ifc-parser';
import { prepareMesh, type PreparedMesh } from '../core/geometry/prepare-mesh';
import { decodeMesh, emptyBounds, meshBounds, type Bounds } from '../core/geometry/mesh';
import { transformPoint } from '../core/geometry/mat4';
import { cameraFrame } from '../core/camera/camera';
import { develop } from '../core/image/tone';
import { SceneMemory } from '../core/kernel/scene-memory';
import { kernelModule } from '../core/kernel/testing';
import { SCREEN_WHITE } from '../core/image/white-balance';
import { Denoiser } from '../core/denoise/denoiser';
import { MovingPicture } from '../core/render/moving-picture';
import { denoiserWeights } from '../server/denoiser-weights';
import { applyChange, EMPTY_MODEL, type Model } from '../core/model/model';
import { compileScene } from '../core/scene/compile';
import { clearSky } from '../core/sky/sky-map';
import { worker } from '../server/dist-paths';
import { ReadingThread } from '../files/reading-thread';
import { nodePool } from '../server/node-pool';
import { parserAlone } from './parser-alone';
import { median, report } from './report';

/**
 * From the file's bytes to the first developed picture, as the picture's refinement shows it, against the parser alone. The file
 * is read in the server's own thread for that, and its meshes are prepared and their trees built while it reads on.
 */

const HOUSE = '/usr/share/assimp/models/IFC/AC14-FZK-Haus.ifc';
const [WIDTH, HEIGHT] = [640, 360];
/** Of the first picture, as it is shown while there is no other. */
const PREVIEW_WIDTH = 192;
const TURNS = 60;
if (!existsSync(HOUSE)) {
  console.error('The house is not installed: apt-get install assimp-testmodels.');
  process.exit(1);
}
const bytes = new Uint8Array(readFileSync(HOUSE));
const api = await startIfc();
const memory = new SceneMemory(kernelModule());
const pool = nodePool(memory);
const moving = new MovingPicture(pool, new Denoiser(pool, denoiserWeights));
memory.setSky(clearSky({ trueAltitudeDeg: 40, azimuthDeg: 200, trueNorthDeg: 0 }));
memory.settings({ seed: 1 });

/** Milliseconds of each part of the way, of every run. */
const parts = new Map<string, number[]>();

const reader = new ReadingThread(worker('file-worker'));

/** The model of the file; its meshes go to `take` as they come. */
async function read(take: (hash: string, blob: Uint8Array) => void): Promise<Model> {
  const answer = await reader.model({ bytes, fileName: 'house.ifc', file: null, before: null }, take);
  if (!answer.ok) throw new Error(answer.message);
  return applyChange(EMPTY_MODEL, answer.change);
}

async function firstPicture(): Promise<number> {
  // What an earlier run has placed is forgotten, or its trees would not be built again.
  memory.setScene({ instances: [], lamps: [] }, { mesh: () => undefined, maps: () => undefined });
  const start = performance.now();
  let last = start;
  const done = (part: string) => {
    const now = performance.now();
    parts.set(part, [...(parts.get(part) ?? []), now - last]);
    last = now;
  };
  const prepared = new Map<string, PreparedMesh>();
  const boundsOf = new Map<string, Bounds>();
  const bounds = emptyBounds();
  const model = await read((hash, blob) => {
    const mesh = decodeMesh(blob);
    if (typeof mesh === 'string') return;
    const ready = prepareMesh(mesh);
    prepared.set(hash, ready);
    boundsOf.set(hash, meshBounds(mesh.positions));
    memory.placeMesh(hash, ready);
  });
  done('read-and-build');
  const scene = compileScene([{ id: 'house', model }], new Map());
  for (const { mesh, transform } of scene.instances) {
    const { min, max } = boundsOf.get(mesh)!;
    for (const corner of [min, max]) transformPoint(transform, corner).forEach((c, i) => {
      bounds.min[i] = Math.min(bounds.min[i]!, c);
      bounds.max[i] = Math.max(bounds.max[i]!, c);
    }); // prettier-ignore
  }
  memory.setScene(scene, { mesh: (key) => prepared.get(key), maps: () => undefined });
  done('place');
  const target = bounds.min.map((v, i) => (v + bounds.max[i]!) / 2) as [number, number, number];
  const size = Math.max(bounds.max[0] - bounds.min[0], bounds.max[1] - bounds.min[1]);
  const camera = cameraFrame(
    { position: [target[0] - size, target[1] - size, target[2] + size * 0.5], target, focalMm: 35 },
    WIDTH / HEIGHT,
  );
  moving.forget();
  const previewPass = (await moving.frame(camera, WIDTH / HEIGHT, { width: PREVIEW_WIDTH }))!;
  done('render');
  develop(
    previewPass.radiance,
    previewPass.width,
    { ev100: 13, white: SCREEN_WHITE },
    new Uint8Array(previewPass.width * previewPass.height * 4),
  );
  done('develop');
  return performance.now() - start;
}

for (let i = 0; i < 8; i++) {
  parserAlone(api, bytes);
  await firstPicture();
}
parts.clear();
setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;
/** Neither pays for what the other has left behind. */
const clean = <T>(turn: () => T): T => {
  collect();
  return turn();
};
// The machine may change its speed within seconds: each picture is compared with the parser just before and just after it.
const parser = [clean(() => parserAlone(api, bytes))];
const picture: number[] = [];
for (let i = 0; i < TURNS; i++) {
  picture.push(await clean(firstPicture));
  parser.push(clean(() => parserAlone(api, bytes)));
}
const ratios = picture.map((ms, i) => (2 * ms) / (parser[i]! + parser[i + 1]!));
report({ name: 'ifc.parser', value: median(parser), unit: 'ms' });
for (const [part, times] of parts) report({ name: `ifc.first-picture.${part}`, value: median(times), unit: 'ms' });
report({ name: 'ifc.first-picture', value: median(picture), unit: 'ms', comparedWith: `${WIDTH} x ${HEIGHT}` });
report({ name: 'ifc.first-picture.vs-parser', value: median(ratios), unit: 'x', comparedWith: 'at most 1.5' });
pool.close();
reader.close();
