/// <reference lib="webworker" />
import { prepareKey, prepareMesh, type PreparedMesh } from '../../../core/geometry/prepare-mesh';
import { simplifier, simplifyMesh } from '../../../core/geometry/simplify';
import { blobOf, hasAuthoredUvs } from '../../../core/geometry/mesh';
import { MAP_KINDS, type MapSet, type TextureImage } from '../../../core/finish/maps/texture-image';
import { Denoiser, type WeightFiles } from '../../../core/denoise/denoiser';
import { cameraFrame, type CameraFrame } from '../../../core/camera/camera';
import { meteredEv } from '../../../core/image/exposure';
import type { Walk } from '../../../core/camera/walk';
import { meterWalk } from '../../../core/render/meter';
import { survey } from '../../../core/render/survey';
import { checkWalk } from '../../../core/render/walk-check';
import { develop, type Development } from '../../../core/image/tone';
import { PLAIN_GRADING } from '../../../core/image/grading';
import { chromaticity, settingOf, whiteOf, type WhiteBalance } from '../../../core/image/white-balance';
import { KernelPool } from '../../../core/kernel/pool';
import { SceneMemory } from '../../../core/kernel/scene-memory';
import type { RenderedInstance, RenderedScene } from '../../../core/scene/rendered-scene';
import { growsAlike, hasBlades, setGrownScene, setLivingScene } from '../../../core/living/with-blades';
import { pictureAt, shrunk, type LevelLayer } from '../../../core/render/level-layer';
import { MovingPicture, type FrameSize } from '../../../core/render/moving-picture';
import { drawOver } from '../../../core/render/drawing';
import { lineMask } from '../../../core/render/lines';
import { renderSingle } from '../../../core/render/single';
import { renderProgressively, type Progress } from '../../../core/render/progressive';
import { automaticWhite } from '../../../core/render/white';
import type { Exposure } from '../../../core/project/project';
import type { Cuts } from '../../../core/project/sections';
import { NO_DRAWING, type Drawing } from '../../../core/project/style';
import { gradingWithCube } from '../../../core/scene/grading-of';
import { skyOf, unlitSky } from '../../../core/sky/sky';
import type { SkyInput } from '../../../core/sky/sky-map';
import type { SkyPicture } from '../../../core/sky/sky-picture';
import { portThreads } from './port-threads';
import type { FromRefiner, LevelLayerJob, MapImages, ProofJob, RefineView, ToRefiner } from './refine-messages';
import { fetchBlobs, fetchMapSet } from './fetch-assets';
import { fetchBytes } from './fetch-bytes';
import { fetchSkyPicture } from './fetch-sky-picture';
import { SceneReceiver } from './scene-changes';
import { tuftGroups } from './tuft-groups';
import type { SimpleMesh } from './working-detail';

/**
 * Fetches and prepares meshes and maps for both pictures, keeps the kernel's copy of the scene, and refines the view that is
 * at rest. Whatever is asked while it renders cancels the picture within a tile's time.
 */

const MESHES_AT_ONCE = 1000;
/** Bounces of a path, in every picture alike, so that none is darker. */
/** After what a person last did; another view that is asked for meanwhile ends it. */
const HOLD_MS = 400;

const meshes = new Map<string, PreparedMesh>();
const maps = new Map<string, MapSet>();
let memory: SceneMemory | undefined;
let pool: KernelPool | undefined;
let denoiser: Denoiser | undefined;
let moving: MovingPicture | undefined;
const received = new SceneReceiver();
let scene: RenderedScene = { instances: [], lamps: [] };
let sceneStale = true;
/** The scene that the grass in the kernel's memory has grown in, and that grass; undefined: meshes or maps have come since. */
let grown: { scene: RenderedScene; blades: readonly RenderedInstance[] } | undefined;
let sky: SkyInput | undefined;
let cuts: Cuts | undefined;
let drawing: Drawing = NO_DRAWING;
let skyPicture: SkyPicture | undefined;
let skyStale = true;
/** The moment that the clouds in the kernel's memory are seen at, seconds. */
let cloudsAt: number | undefined;
/** The sky in the kernel's memory was made quickly, for a moving picture. */
let skyIsCoarse = false;
let exposure: Exposure = { mode: 'auto', ev100: 12 };
let grading: ReturnType<typeof gradingWithCube> = { grading: PLAIN_GRADING };
/** The last picture, and the white that it asks for by itself. */
let shown: { asked: RefineView; picture: Progress; moving: boolean; white: WhiteBalance; mask?: Float32Array | undefined } | undefined;
let view: RefineView | undefined;
let rendering = false;
let holding: ReturnType<typeof setTimeout> | undefined;
/** The view that the grass in the kernel's memory was grown for. */
let grownFor: string | undefined;
/** The walk that is open: where it goes through something is told with each scene. */
let walkToCheck: Walk | undefined;
/** Places that are asked about. */
let surveys: Extract<ToRefiner, { type: 'survey' }>[] = [];
let toMeter: Extract<ToRefiner, { type: 'meter' }> | undefined;
/** A moving picture that is asked for, and whether one is being made: nothing but an end of all cuts it short. */
let toMove: Extract<ToRefiner, { type: 'moving' }> | undefined;
let isMoving = false;
/** What the last moving picture showed; undefined: something has changed since. */
let movedFor: string | undefined;
/** What a row of lamps gives alone is asked for, and known for the view that was at rest; while it serves, nothing else is drawn. */
let toLayer: LevelLayerJob | undefined;
let layer: (LevelLayer & { asked: RefineView; white: WhiteBalance }) | undefined;
let isServed = false;
/** The layer took the kernel from a picture of so many samples: until there are as many again, that one is seen. */
let resumesAt: { name: string; samples: number } | undefined;
/** Small pictures that are asked for; they come before the large one is refined. */
let proofs: ProofJob[] = [];
let refining = false;
/** Something has changed since the present picture was begun. */
let restart = false;

/** Somebody waits for a walk to begin: it is metered half as often as for a print. */
const METER_EVERY_S = 2;

const post = (message: FromRefiner, transfer: Transferable[] = []) => {
  postMessage(message, transfer);
};

addEventListener('message', ({ data }: MessageEvent<ToRefiner>) => {
  switch (data.type) {
    case 'start':
      memory = new SceneMemory(data.module);
      pool = new KernelPool(memory, portThreads(data.ports), data.ports.length);
      denoiser = new Denoiser(pool, fetchWeights);
      moving = new MovingPicture(pool, denoiser);
      break;
    case 'need-meshes':
      void fetchMeshes(data.hashes);
      return;
    case 'need-maps':
      void fetchMaps(data.name, data.size);
      return;
    case 'need-simple':
      void simplify(data.hashes);
      return;
    case 'scene':
      scene = received.take(data.change);
      sceneStale = true;
      resumesAt = undefined;
      if (!isServed) layer = undefined;
      break;
    case 'sky':
      // One whose picture is still on its way lights as if it had none.
      void fetchSkyPicture(data.input).then((picture) => {
        if (sky !== data.input || picture === skyPicture) return;
        skyPicture = picture;
        skyStale = restart = true;
        if (!isMoving) pool?.cancel();
        void work();
      });
      sky = data.input;
      skyStale = true;
      layer = resumesAt = undefined;
      break;
    case 'cuts':
      cuts = data.cuts;
      sceneStale = true;
      layer = resumesAt = undefined;
      break;
    case 'drawing':
      drawing = data.drawing;
      if (shown && drawing.lines > 0) shown.mask ??= maskOf(shown.picture);
      developSoon();
      return;
    case 'exposure':
      exposure = data.exposure;
      if (!restart && !toMove) developAgain();
      return;
    case 'grading':
      grading = gradingWithCube(data.grading);
      if (!restart && !toMove) developAgain();
      return;
    case 'view':
      view = data.view;
      if (view) isServed = false;
      if (view) release();
      break;
    case 'moving':
      if (isServed && layer && nameOf(layer.asked) === nameOf(data.view)) return;
      layer = undefined;
      toMove = data;
      // What was being refined is gone on with after it.
      restart = true;
      release();
      if (!isMoving) pool?.cancel();
      void work();
      return;
    case 'meter':
      toMeter = data;
      release();
      break;
    case 'proofs':
      proofs = [...proofs.filter(({ lane }) => lane !== data.lane), ...data.proofs];
      restart ||= refining;
      if (!isMoving) pool?.cancel();
      void work();
      return;
    case 'check-walk':
      walkToCheck = data.walk;
      if (memory && !sceneStale) tellWalkFaults(memory);
      return;
    case 'survey':
      surveys.push(data);
      if (memory && !sceneStale) tellSurveys(memory);
      return;
    case 'grey-at':
      tellWhite(data.x, data.y);
      return;
    case 'level-layer':
      if (layer?.row === data.row && layer.level === data.level && view && nameOf(layer.asked) === nameOf(view)) {
        post({ type: 'level-known', row: data.row });
        return;
      }
      toLayer = data;
      if (refining && isAtRest()) pool?.cancel();
      void work();
      return;
    case 'level':
      showLevel(data.row, data.level);
      return;
    case 'hold':
      if (!isMoving) hold();
      return;
  }
  restart = true;
  if (!isMoving) pool?.cancel();
  void work();
});

/** While a person does something, that comes first. */
function hold(): void {
  pool?.hold(true);
  clearTimeout(holding);
  holding = setTimeout(release, HOLD_MS);
}

function release(): void {
  clearTimeout(holding);
  pool?.hold(false);
}

async function work(): Promise<void> {
  if (rendering) return;
  rendering = true;
  try {
    // Read through a function: the handlers above change it while a picture is awaited.
    while (isAsked()) {
      if (toMove) {
        const asked = toMove;
        toMove = undefined;
        isMoving = true;
        try {
          if (asked.toMeter) await meterView(asked.view);
          else await move(asked.view, { mostWidth: asked.view.width });
        } finally {
          isMoving = false;
        }
        continue;
      }
      if (proofs.length > 0) {
        await makeProof(proofs[0]!);
        continue;
      }
      if (toLayer && isAtRest()) {
        await makeLayer(toLayer);
        continue;
      }
      restart = false;
      if (toMeter) await meter(toMeter);
      else {
        refining = true;
        await renderView(view!);
        refining = false;
      }
    }
  } catch (error) {
    post({ type: 'fault', message: error instanceof Error ? error.message : 'The light kernel stopped.' });
  } finally {
    rendering = refining = false;
  }
}

function isAsked(): boolean {
  return (
    (toMove !== undefined || proofs.length > 0 || (toLayer !== undefined && isAtRest()) || (restart && (view ?? toMeter) !== undefined)) &&
    memory !== undefined &&
    sky !== undefined
  );
}

/**
 * Puts sky and scene, with the grass that a camera sees, into the kernel's memory where they are not there yet. While something
 * moves, grass stays as it was grown and the sky is made quickly.
 */
function setScene(m: SceneMemory, frame: CameraFrame, timeS: number, atRest = true): void {
  if (cloudsAt !== undefined && cloudsAt !== timeS) skyStale = true;
  if (sceneStale || skyStale) {
    moving!.forget();
    movedFor = undefined;
  }
  if (skyStale || (skyIsCoarse && atRest)) {
    m.setSky(skyOf({ ...sky!, coarse: !atRest, timeS }, skyPicture));
    skyStale = false;
    cloudsAt = sky!.weather?.clouds ? timeS : undefined;
    skyIsCoarse = !atRest;
  }
  m.setCuts(cuts);
  const seenFrom = JSON.stringify(frame);
  const wasStale = sceneStale;
  const regrows = hasBlades(scene) && (atRest ? grownFor !== seenFrom : !grownFor);
  const assets = { mesh: (hash: string) => meshes.get(hash), maps: (name: string) => maps.get(name) };
  if (sceneStale && !regrows && grown && growsAlike(grown.scene, scene)) {
    setGrownScene(m, scene, assets, grown.blades);
    grown = { ...grown, scene };
    sceneStale = false;
  } else if (sceneStale || regrows) {
    // Seen from elsewhere, it has other grass.
    const blades = setLivingScene(m, scene, assets, frame, !sceneStale && grown?.scene === scene);
    grown = { scene, blades };
    if (blades.length > 0 || grownFor) post({ type: 'tufts', groups: tuftGroups(blades) });
    grownFor = blades.length > 0 ? seenFrom : undefined;
    sceneStale = false;
  }
  if (wasStale) tellWalkFaults(m);
  if (surveys.length > 0) tellSurveys(m);
}

function tellSurveys(m: SceneMemory): void {
  for (const { number, places, ignored, headroomM, cuts } of surveys)
    post({ type: 'surveyed', number, survey: survey(m, places, new Set(ignored), headroomM, cuts) });
  surveys = [];
}

function tellWalkFaults({ kernel }: SceneMemory): void {
  if (walkToCheck) post({ type: 'walk-faults', faults: checkWalk(kernel, walkToCheck) });
}

async function meter({ walk, aspect, metering }: Extract<ToRefiner, { type: 'meter' }>): Promise<void> {
  const m = memory!;
  setScene(m, cameraFrame(walk.stops[0]!, aspect), 0);
  m.settings({ seed: 1 });
  const exposures = await meterWalk(moving!, walk, aspect, { everyS: METER_EVERY_S, metering });
  moving!.forget();
  // Cancelled by something else, it is begun again after that.
  if (!exposures) {
    restart = true;
    return;
  }
  toMeter = undefined;
  post({ type: 'exposures', exposures });
  restart = true;
}

/** One small picture; left where it is in the queue when something else comes between. */
async function makeProof(job: ProofJob): Promise<void> {
  const m = memory!;
  m.setSky(skyOf({ ...job.sky, coarse: true }, await fetchSkyPicture(job.sky)));
  const assets = { mesh: (hash: string) => meshes.get(hash), maps: (name: string) => maps.get(name) };
  const { emission, lamps } = job.lamps ?? {};
  const lit = (instance: RenderedInstance, i: number) => ({ ...instance, emissionScale: emission![i] ?? instance.emissionScale });
  if (lamps || sceneStale) {
    setLivingScene(m, lamps ? { ...scene, lamps, instances: scene.instances.map(lit) } : scene, assets, job.frame);
    grownFor = JSON.stringify(job.frame);
    grown = undefined;
  }
  // What the large picture needs is put back before it goes on; a scene that was new is told of then.
  sceneStale ||= lamps !== undefined;
  skyStale = true;
  m.camera(job.frame);
  m.settings({ seed: 1 });
  const radiance = await renderSingle(pool!, denoiser!, job);
  moving!.forget();
  movedFor = undefined;
  if (!radiance || proofs[0] !== job) return;
  proofs.shift();
  const { lane, id, width, height, exposure: exposing } = job;
  const { mode, ev100, white, metering = 'all' } = exposing;
  const exposed = {
    ev100: mode === 'fixed' ? ev100 : meteredEv(radiance, width, metering),
    white: white ? whiteOf(white) : automaticWhite(radiance, m.filmData()),
  };
  const rgba = new Uint8ClampedArray(width * height * 4);
  develop(radiance, width, { ...exposed, ...gradingWithCube(job.grading) }, rgba);
  post({ type: 'proof', lane, id, width, height, rgba }, [rgba.buffer]);
}

/** The last picture shows the scene and the view that are asked for now, and everything in it. */
const isAtRest = (): boolean =>
  view !== undefined && shown !== undefined && !shown.moving && !sceneStale && !skyStale && nameOf(shown.asked) === nameOf(view);

/** Wide enough to be looked at while a level is dragged. */
const LAYER_WIDTH = 424;

async function makeLayer({ row, level, lamps, emission }: LevelLayerJob): Promise<void> {
  const m = memory!;
  const { asked, picture, white } = shown!;
  const width = Math.min(LAYER_WIDTH, picture.width);
  const height = Math.max(1, Math.round((width * asked.height) / asked.width));
  const base = shrunk(picture.radiance, picture.width, picture.height, width, height);
  const { samples } = picture;
  const assets = { mesh: (hash: string) => meshes.get(hash), maps: (name: string) => maps.get(name) };
  const alone = { ...scene, lamps, instances: scene.instances.map((instance, i) => ({ ...instance, emissionScale: emission[i] ?? 0 })) };
  if (grown && growsAlike(grown.scene, alone)) setGrownScene(m, alone, assets, grown.blades);
  else setLivingScene(m, alone, assets, asked.frame);
  m.setSky(unlitSky(sky!));
  m.setTime(asked.timeS);
  m.settings({ seed: 1 });
  moving!.forget();
  const lit = await moving!.frame(asked.frame, asked.width / asked.height, { width });
  // What is seen is put back at once, and what was being refined is gone on with.
  sceneStale = skyStale = true;
  if (!lit) {
    restart = true;
    return;
  }
  const light = Float32Array.from(lit.radiance);
  setScene(m, asked.frame, asked.timeS);
  movedFor = nameOf(asked);
  restart ||= samples < asked.samples;
  resumesAt = { name: nameOf(asked), samples };
  if (toLayer?.row !== row) return;
  toLayer = undefined;
  layer = { row, level, width, height: lit.height, base, light, asked, white };
  post({ type: 'level-known', row });
}

/** Shows a row at another level, where what it gives is known. */
function showLevel(row: string, level: number): void {
  if (layer?.row !== row) return;
  isServed = true;
  resumesAt = undefined;
  const { asked, width, white } = layer;
  shown = { asked, picture: { samples: 0.1, width, height: layer.height, radiance: pictureAt(layer, level) }, moving: true, white };
  developAgain();
}

const nameOf = ({ frame, timeS }: RefineView): string => JSON.stringify([frame, timeS]);

/** What a view looks like in a moving picture; undefined: cancelled. */
function movingPicture(asked: RefineView, size: FrameSize, atRest = false): Promise<Progress | undefined> {
  const m = memory!;
  setScene(m, asked.frame, asked.timeS, atRest);
  m.setTime(asked.timeS);
  m.settings({ seed: 1 });
  return moving!.frame(asked.frame, asked.width / asked.height, size);
}

/** Small, but enough to meter by. */
const METERED_WIDTH = 96;

async function meterView(asked: RefineView): Promise<void> {
  const picture = await movingPicture(asked, { width: METERED_WIDTH });
  if (picture) post({ type: 'development', development: developmentFor(picture, automaticWhite(picture.radiance, memory!.filmData())) });
}

/** One moving picture; false: cancelled. */
async function move(asked: RefineView, size: FrameSize, atRest = false): Promise<boolean> {
  const picture = await movingPicture(asked, size, atRest);
  if (!picture) return false;
  show(asked, picture, !atRest);
  movedFor = nameOf(asked);
  return true;
}

async function renderView(asked: RefineView): Promise<void> {
  const m = memory!;
  setScene(m, asked.frame, asked.timeS);
  // A first picture at once, where there is none yet; then one of the whole size with the light of every fourth pixel.
  const resumes = resumesAt?.name === nameOf(asked) ? resumesAt.samples : undefined;
  if (resumes === undefined) {
    if (movedFor !== nameOf(asked)) await move(asked, { mostWidth: asked.width }, true);
    if (restart || toMove) return;
    if (!(await move(asked, { width: asked.width, lightShrink: 2 }, true)) || restart || toMove || toLayer) return;
  }
  m.camera(asked.frame);
  m.setTime(asked.timeS);
  m.settings({ seed: 1 });
  await renderProgressively(pool!, denoiser!, {
    width: asked.width,
    height: asked.height,
    targetSamples: asked.samples,
    show: (picture) => {
      if (picture.samples >= (resumes ?? 0)) show(asked, picture);
    },
    goesOn: () => !restart && !toMove && !toLayer,
    sampled: (samples) => {
      post({ type: 'sampled', view: asked.number, samples, target: asked.samples });
    },
  });
}

function show(asked: RefineView, picture: Progress, moving = false): void {
  const film = memory!.filmData();
  const white = automaticWhite(picture.radiance, film);
  const mask = drawing.lines > 0 ? maskOf(picture) : undefined;
  shown = { asked, picture: { ...picture, radiance: Float32Array.from(picture.radiance) }, moving, white, mask };
  developAgain();
}

/** Where the film in memory has lines; none where it is another picture's by now. */
function maskOf({ width, height }: Progress): Float32Array | undefined {
  const { filmSize } = memory!;
  return filmSize.width === width && filmSize.height === height ? lineMask(memory!.filmData(), width, height) : undefined;
}

let develops = false;

/** Washes take long: of what is dragged meanwhile, the last is drawn. */
function developSoon(): void {
  if (develops) return;
  develops = true;
  setTimeout(() => {
    develops = false;
    if (!restart && !toMove) developAgain();
  });
}

/** The last picture as it is to be developed now; nothing is rendered for it. */
function developAgain(): void {
  if (!shown) return;
  const { asked, moving } = shown;
  const { samples, width, height, radiance } = shown.picture;
  const development = developmentFor(shown.picture, shown.white);
  const rgba = new Uint8ClampedArray(width * height * 4);
  develop(radiance, width, { ...development, ...grading }, rgba);
  drawOver(rgba, { width, height }, shown.mask, drawing);
  post({ type: 'picture', view: asked.number, samples, target: asked.samples, moving, development, width, height, rgba }, [rgba.buffer]);
}

/** How a picture is exposed: as is set, else as it asks for itself. */
function developmentFor({ radiance, width }: Progress, ownWhite: WhiteBalance): Development {
  const { mode, ev100, white, metering = 'all' } = exposure;
  return { ev100: mode === 'fixed' ? ev100 : meteredEv(radiance, width, metering), white: white ? whiteOf(white) : ownWhite };
}

/** Half the side of the square about a place whose mean colour is asked for, as a share of the picture's width. */
const GREY_REACH = 0.004;

function tellWhite(x: number, y: number): void {
  if (!shown) return;
  const { width, height, radiance } = shown.picture;
  const reach = Math.max(1, Math.round(width * GREY_REACH));
  const [cx, cy] = [Math.floor(x * width), Math.floor(y * height)];
  const sum: [number, number, number] = [0, 0, 0];
  for (let j = Math.max(0, cy - reach); j <= Math.min(height - 1, cy + reach); j++)
    for (let i = Math.max(0, cx - reach); i <= Math.min(width - 1, cx + reach); i++)
      for (let c = 0; c < 3; c++) sum[c] = sum[c]! + radiance[(j * width + i) * 4 + c]!;
  post({ type: 'white', white: settingOf(...chromaticity(sum)) });
}

const fetchWeights: WeightFiles = async (weights) => {
  const bytes = await fetchBytes(`/denoiser/${weights}`);
  if (!bytes) throw new Error('no such weights');
  return bytes;
};

/** Meshes come in parts, so that a large model is seen early. */
async function fetchMeshes(keys: string[]): Promise<void> {
  for (let at = 0; at < keys.length; at += MESHES_AT_ONCE) await fetchSome(keys.slice(at, at + MESHES_AT_ONCE));
}

async function fetchSome(keys: string[]): Promise<void> {
  const wanted = keys.filter((key) => !meshes.has(key));
  if (wanted.length > 0) {
    try {
      const packed = await fetchBlobs([...new Set(wanted.map(blobOf))]);
      for (const key of wanted) {
        const mesh = packed.get(blobOf(key));
        if (mesh) meshes.set(key, prepareKey(key, mesh));
      }
    } catch {
      post({ type: 'fault', message: 'The model’s meshes could not be fetched; they are asked for again with the next change.' });
    }
    sceneStale = true;
    grown = undefined;
  }
  const ready = keys.filter((key) => meshes.has(key));
  post({ type: 'meshes', meshes: ready.map((key) => [key, meshes.get(key)!]), missing: keys.filter((key) => !meshes.has(key)) });
  // Their trees are built while the page puts them on the screen, before the scene with them comes.
  try {
    for (const key of ready) memory?.placeMesh(key, meshes.get(key)!);
  } catch {
    // There is no room; that is said when the scene is set.
  }
}

async function simplify(keys: string[]): Promise<void> {
  await simplifier();
  const simple = keys.map((key): [string, SimpleMesh | null] => {
    const full = meshes.get(key);
    // Simplifying would tear a picture from where its author has laid it.
    const less = full && !hasAuthoredUvs(key) ? simplifyMesh(full) : undefined;
    return [key, less ? { mesh: prepareMesh(less.mesh), lossM: less.lossM } : null];
  });
  post({ type: 'simple', meshes: simple });
}

async function fetchMaps(name: string, size: 'whole' | 'small'): Promise<void> {
  try {
    const loaded = await fetchMapSet(name, size);
    maps.set(name, loaded);
    sceneStale = true;
    grown = undefined;
    const copy = (image: TextureImage | undefined) => image && { ...image, texels: new Uint8Array(image.texels) };
    post({ type: 'maps', name, maps: Object.fromEntries(MAP_KINDS.map((kind) => [kind, copy(loaded[kind])])) as unknown as MapImages });
  } catch {
    post({ type: 'maps', name, maps: undefined });
  }
}
