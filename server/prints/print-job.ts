import { existsSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { cameraFrame, type CameraFrame } from '../../core/camera/camera';
import { CUBE_FACES, faceFrame, roundFrame } from '../../core/camera/projection';
import { WalkWay, type Walk } from '../../core/camera/walk';
import { Denoiser } from '../../core/denoise/denoiser';
import { steady, type SteadyState } from '../../core/denoise/steady';
import { evenlyRound, meteredEv, type Metering } from '../../core/image/exposure';
import type { Development } from '../../core/image/tone';
import { settingOf, whiteOf } from '../../core/image/white-balance';
import type { KernelPool } from '../../core/kernel/pool';
import { MASK_OPAQUE } from '../../core/kernel/assembly/layout';
import { SceneMemory } from '../../core/kernel/scene-memory';
import type { SceneAssets } from '../../core/scene/rendered-scene';
import { developmentAt, meterWalk, type Exposures } from '../../core/render/meter';
import { sheetOf } from '../../core/render/drawing-sheet';
import { lineDrawing } from '../../core/render/line-drawing';
import { MovingPicture } from '../../core/render/moving-picture';
import {
  frameNames,
  frameOf,
  frameSize,
  isDrawn,
  PICTURE_FORMATS,
  type PrintedScene,
  type PrintFrame,
  type PrintSpec,
} from '../../core/render/print';
import { automaticWhite } from '../../core/render/white';
import { gradingWithCube } from '../../core/scene/grading-of';
import { closelySeenMaps, MOST_FINE_SETS } from '../../core/scene/fine-maps';
import { decodeSkyPicture, type SkyPicture } from '../../core/sky/sky-picture';
import { BlobStore } from '../blobs';
import { fineMaps } from '../fine-maps';
import { loadAssets } from '../scene-assets';
import { channelFiles, writeChannels } from './channel-files';
import { ffmpeg, writeFilm } from './film-file';
import { keepFloats, readFloats } from './kept-file';
import { PrintedLight } from './printed-light';
import { asJson, framePath, framesFolder, pack, writeMoving } from './package-files';
import { writePicture, writeThumbnail, type PictureToWrite } from './picture-file';
import type { KeptForPrints } from './kept-for-prints';
import { renderPicture, type RenderedPicture, type Rendering } from './picture-render';

export interface PrintInput {
  spec: PrintSpec;
  blobDirectory: string;
  /** Where map sets for close views are kept. */
  mapDirectory: string;
  /** Without ending. */
  output: string;
}
/** How much is done of all pictures together, 0 to 1. */
export type FromPrintWorker = { type: 'progress'; done: number; secondsLeft: number | null } | { type: 'finished' };

/** A small picture all round, by which the faces of a cube are exposed. */
const ROUND = { width: 192, height: 96 };
const ROUND_SAMPLES = 8;
/** Of a walk so many pictures are asked what they show closely. */
const MOST_LOOKED_AT = 40;

/** One print from its frozen order to its files. What is done is kept beside them every few seconds, so a killed print goes on. */
export class PrintJob {
  private readonly spec: PrintSpec;
  private readonly order: PrintSpec['order'];
  private readonly blobDirectory: string;
  private readonly mapDirectory: string;
  private readonly output: string;
  private readonly names: string[];
  private readonly at: (frame: number) => PrintFrame;
  private readonly isSingle: boolean;
  private readonly width: number;
  private readonly height: number;
  private readonly pictureOf: (frame: number) => string;
  private holding: ReturnType<typeof setTimeout> | undefined;

  constructor(
    { spec, blobDirectory, mapDirectory, output }: PrintInput,
    private readonly kept: KeptForPrints,
    private readonly tell: (message: Extract<FromPrintWorker, { type: 'progress' }>) => void,
  ) {
    const { order } = spec;
    this.spec = spec;
    this.order = order;
    this.blobDirectory = blobDirectory;
    this.mapDirectory = mapDirectory;
    this.output = output;
    const names = frameNames(order);
    this.names = names;
    this.at = frameOf(order);
    this.isSingle = names.length === 1;
    ({ width: this.width, height: this.height } = frameSize(order));
    this.pictureOf = (frame) =>
      names.length === 1 ? `${output}.${PICTURE_FORMATS[order.format].ending}` : framePath(output, names[frame]!);
  }

  /** Others have the processor for a while. */
  hold(ms: number): void {
    this.kept.pool.hold(true);
    clearTimeout(this.holding);
    this.holding = setTimeout(() => {
      this.kept.pool.hold(false);
    }, ms);
  }

  async run(): Promise<void> {
    const { spec, order, output, names, width, height, pictureOf, at } = this;
    // Killed between its last file and the word of it.
    if (existsSync(`${output}.done`)) {
      rmSync(framesFolder(output), { recursive: true, force: true });
      return;
    }
    const { scene, pool, denoiser } = this.kept;
    const assets = await this.assetsFor();
    scene.setCuts(spec.cuts);
    const light = new PrintedLight(spec, scene, assets, await this.skyPicturesOf(spec));
    const left = names.map((_, i) => i).filter((i) => !existsSync(pictureOf(i)));
    const told = this.progress(1 - left.length / names.length);
    const isMetered = order.walk && (order.walk.metered || order.walk.meteredWhite);
    const exposures = isMetered ? await this.metered(pool, denoiser, order.walk!, light) : undefined;
    const round = order.projection.kind === 'cube' && left.length > 0 ? await this.lookedRound(pool, denoiser, light) : undefined;
    let before = order.walk && order.denoise && left[0] ? this.readSteady(left[0] - 1) : undefined;
    for (const frame of left) {
      const picture = at(frame);
      // The noise of each picture of a film is another one, so that they add up; undenoised they are as stills.
      scene.settings({ seed: (order.seed + (order.walk && order.denoise ? frame * 7919 : 0)) >>> 0 });
      const plate = picture.plates[0]!.frame;
      const shown = light.show(picture.shotS, picture.timeS, plate);
      if (isDrawn(order.format)) {
        await this.drawInLines(scene, assets, plate);
        continue;
      }
      if (shown.isOther) before = undefined;
      const rendering: Rendering = { pool, denoiser, order, output, drawsLines: (spec.drawing?.lines ?? 0) > 0, told: (share) => { told(share / names.length); }, expose: this.shutter(scene, picture, frame) }; // prettier-ignore
      const made = await renderPicture(rendering, frame, picture);
      if (picture.over) {
        const { plates, share, shotS } = picture.over;
        const next = { ...picture, plates };
        light.show(shotS, picture.timeS, plates[0]!.frame);
        // Told by numbers of its own, so that a kept film of the one is not taken for the other's.
        const other = await renderPicture({ ...rendering, told: () => undefined, expose: (piece) => { scene.camera(piece.plate.frame); } }, names.length + frame, next); // prettier-ignore
        for (let i = 0; i < made.radiance.length; i++) made.radiance[i] = made.radiance[i]! * (1 - share) + other.radiance[i]! * share;
        before = undefined;
      } else if (order.walk && order.denoise) {
        before = steady(made.radiance, scene.filmData(), width, plate, before);
        await keepFloats(`${output}.steady`, [frame], before.kept);
      }
      const development = this.developmentOf(made, shown.developed, exposures, picture.timeS, round);
      const written: PictureToWrite = {
        ...made,
        drawing: spec.drawing,
        development,
        layout: { wraps: order.projection.kind === 'equirectangular', stacked: this.stacked },
        metadata: { ...spec.metadata, ...toldOf(development), Samples: String(made.samples) },
        round: order.projection.kind === 'equirectangular' && !order.projection.eyesM ? { width, height, headingDeg: this.headingOf(plate) } : undefined,
      }; // prettier-ignore
      if (frame === 0) this.keepSights(scene);
      if (frame === 0) await writeThumbnail(written, `${output}.thumb.png`);
      if (made.channels) await writeChannels(output, spec, width, height, { ...made.channels, instanceAt: (number) => scene.instanceAt(number) }); // prettier-ignore
      await writePicture(order.format, written, pictureOf(frame));
    }
    await this.handOver();
    for (const file of [`${output}.film`, `${output}.steady`]) rmSync(file, { force: true });
    clearTimeout(this.holding);
    pool.hold(false);
  }

  /** A picture of lines alone. */
  private async drawInLines(scene: SceneMemory, assets: SceneAssets, frame: CameraFrame): Promise<void> {
    const { spec, order, output, width, height, pictureOf } = this;
    const { parallelM } = order.camera;
    const widthM = order.projection.kind === 'orthographic' ? order.projection.widthM : parallelM;
    const drawing = lineDrawing(scene, spec.scene.instances, (hash) => assets.mesh(hash), frame, { width, height }, spec.cuts);
    const made = { drawing, width, sheet: sheetOf(width / height, widthM), title: order.name };
    const { writeDrawing } = await import('./drawing-file');
    await writeDrawing(order.format as 'svg' | 'pdf', made, pictureOf(0), `${output}.thumb.png`);
  }

  /** Packs what is more than one file, makes the film of a walk, and marks the end. */
  private async handOver(): Promise<void> {
    const { spec, order, output, names, isSingle, pictureOf } = this;
    const { walk } = order;
    const about = { ...spec.metadata, ...(walk && { FramesPerSecond: String(walk.framesPerSecond), Frames: String(names.length) }) };
    const files: [string, string | Uint8Array][] = names.map((name, i) => [name, pictureOf(i)]);
    if (walk) {
      if (order.format !== 'exr') await writeMoving(output, names.map((_, i) => pictureOf(i)), walk.framesPerSecond); // prettier-ignore
      const kind = walk.film;
      // Without ffmpeg the browser joins the pictures.
      if (kind && kind !== 'none' && ffmpeg()) {
        const pattern = path.join(framesFolder(output), `%05d.${PICTURE_FORMATS[order.format].ending}`);
        await writeFilm(kind, pattern, walk.framesPerSecond, order.name, `${output}.${kind}`);
      }
    }
    const extras = channelFiles(output);
    if (!isSingle || extras.length > 0) await pack(`${output}.zip`, [['about.json', asJson(about)], ...files, ...extras]);
    // In this order: killed between the two, nothing is made twice.
    await keepFloats(`${output}.done`, [], new Float32Array());
    rmSync(framesFolder(output), { recursive: true, force: true });
  }

  /** The camera and the moment at a share of the time that the shutter is open. */
  private shutter(scene: SceneMemory, { timeS }: PrintFrame, frame: number): Rendering['expose'] {
    const { order } = this;
    const { walk } = order;
    const open = walk?.shutterDeg ? walk.shutterDeg / 360 / walk.framesPerSecond : 0;
    const way = walk && new WalkWay(walk);
    return (piece, share) => {
      scene.setTime(timeS + share * open);
      const moved = open > 0 && way ? way.seenAt(frame / walk.framesPerSecond + share * open)[0]!.camera : undefined;
      scene.camera(moved ? cameraFrame(moved, order.width / order.height) : piece.plate.frame);
    };
  }

  /** Degrees clockwise of true north. */
  private headingOf({ forward: [x, y] }: CameraFrame): number {
    const { spec } = this;
    return ((Math.atan2(x, y) * 180) / Math.PI - Number(spec.metadata['TrueNorthDeg'] ?? 0) + 720) % 360;
  }

  /** Which of the places that were asked for are in sight: nothing that is not clear stands between. */
  private keepSights({ kernel }: SceneMemory): void {
    const { order, output } = this;
    const { sights, camera } = order;
    if (!sights) return;
    const [x, y, z] = camera.position;
    const seen = sights.flatMap(([px, py, pz], i) => {
      const way = [px - x, py - y, pz - z] as const;
      const length = Math.hypot(...way);
      if (length < 0.01) return [];
      return kernel.traceAny(x, y, z, way[0] / length, way[1] / length, way[2] / length, length, MASK_OPAQUE) ? [] : [i];
    });
    writeFileSync(`${output}.sight.json`, JSON.stringify(seen));
  }

  private readSteady(frame: number): SteadyState | undefined {
    const { output, width, height, at } = this;
    const kept = readFloats(`${output}.steady`, width * height * 8);
    return kept?.marks[0] === frame ? { width, height, camera: at(frame).plates[0]!.frame, kept: kept.floats } : undefined;
  }

  /** Of all skies that the print has, by their hashes. */
  private async skyPicturesOf({ sky, along }: PrintSpec): Promise<Map<string, SkyPicture>> {
    const { blobDirectory } = this;
    const pictures = new Map<string, SkyPicture>();
    for (const { picture } of [sky, ...(along?.lit.map((lit) => lit.sky) ?? [])]) {
      if (!picture || pictures.has(picture.hash)) continue;
      const bytes = await new BlobStore(blobDirectory).get(picture.hash);
      const decoded = bytes && decodeSkyPicture(bytes);
      if (decoded) pictures.set(picture.hash, decoded);
    }
    return pictures;
  }

  private async metered(pool: KernelPool, denoiser: Denoiser, walk: Walk, light: PrintedLight): Promise<Exposures> {
    const { order } = this;
    const aspect = order.width / order.height;
    const start = cameraFrame(walk.stops[0]!, aspect);
    light.show(0, order.timeS, start);
    pool.scene.settings({ seed: order.seed });
    return (await meterWalk(new MovingPicture(pool, denoiser), walk, aspect, {
      metering: this.spec.exposure?.metering,
      light: (seconds) => light.show(seconds, order.timeS, start),
    }))!;
  }

  /** What is seen closely has finer maps, the same all along a walk, but not in a proof, which is to be there soon. */
  private async assetsFor(): Promise<SceneAssets> {
    const { spec, order, blobDirectory, mapDirectory, names, at } = this;
    const instances = [...new Set([spec, ...(spec.along?.scenes ?? [])].flatMap(({ scene }) => scene.instances))];
    const assets = await loadAssets(instances, new BlobStore(blobDirectory), this.kept.assets);
    if (order.quality === 'proof') return assets;
    const close = new Set<string>();
    const step = Math.max(1, Math.ceil(names.length / MOST_LOOKED_AT));
    for (let frame = 0; frame < names.length; frame += step)
      for (const { axes, across } of this.looksOf(at(frame)))
        for (const name of closelySeenMaps(instances, (hash) => assets.mesh(hash), axes, across)) close.add(name);
    const fine = new Map([...close].slice(0, MOST_FINE_SETS).map((name) => [name, fineMaps(name, mapDirectory)]));
    return { mesh: (hash) => assets.mesh(hash), maps: (name) => fine.get(name) ?? assets.maps(name) };
  }

  /** Where a picture looks, and with how many pixels across: one that goes all round looks through the faces of a cube. */
  private looksOf({ plates, camera }: PrintFrame): { axes: CameraFrame; across: number }[] {
    const { order, width } = this;
    if (order.projection.kind !== 'equirectangular') return plates.map(({ frame, width: across }) => ({ axes: frame, across }));
    return CUBE_FACES.map((face) => ({ axes: faceFrame(camera, face), across: width / 4 }));
  }

  /** Tells how far it is; `before` was done by an earlier start. */
  private progress(before: number): (share: number) => void {
    const started = Date.now();
    let done = 0;
    return (share) => {
      done += share;
      const secondsLeft = done > 0 ? Math.max(0, (((1 - before - done) / done) * (Date.now() - started)) / 1000) : null;
      this.tell({ type: 'progress', done: Math.min(1, before + done), secondsLeft });
    };
  }

  /** Pictures one over the other. */
  private get stacked(): number {
    const { projection } = this.order;
    return projection.kind === 'equirectangular' && projection.eyesM ? 2 : 1;
  }

  private metersEv(radiance: Float32Array, metering: Metering = 'all'): number {
    const { order, width } = this;
    if (order.projection.kind !== 'equirectangular' || typeof metering === 'object' || metering === 'middle')
      return meteredEv(radiance, width, metering);
    return meteredEv(evenlyRound(radiance, width, this.stacked), 1, metering);
  }

  /** Exposure and white of all faces of a cube together, from a small picture all round. */
  private async lookedRound(pool: KernelPool, denoiser: Denoiser, light: PrintedLight): Promise<Pick<Development, 'ev100' | 'white'>> {
    const { order } = this;
    const frame = roundFrame(order.camera, 0);
    const { developed } = light.show(0, order.timeS, frame);
    pool.scene.settings({ seed: order.seed });
    pool.scene.setFilm(ROUND.width, ROUND.height);
    pool.scene.camera(frame);
    await pool.run({ kind: 'render', ...ROUND, tile: 32, first: 0, count: ROUND_SAMPLES });
    const radiance = Float32Array.from((await denoiser.denoised('full'))!);
    const { metering = 'all' } = developed.exposure ?? {};
    const ev100 = meteredEv(evenlyRound(radiance, ROUND.width), 1, metering === 'highlights' ? metering : 'all');
    return { ev100, white: automaticWhite(radiance, pool.scene.filmData()) };
  }

  /** As ordered; what the order leaves open is as the state that is printed says, and measured along a walk. */
  private developmentOf(
    made: RenderedPicture,
    developed: PrintedScene,
    exposures: Exposures | undefined,
    timeS: number,
    round: Pick<Development, 'ev100' | 'white'> | undefined,
  ): Development {
    const { spec, order } = this;
    const { walk } = order;
    const along = exposures && developmentAt(exposures, timeS - order.timeS);
    const { mode = 'auto', ev100 = 0, white, metering } = developed.exposure ?? {};
    const own = round?.white ?? made.white;
    const metersEv = () => (mode === 'fixed' ? ev100 : (round?.ev100 ?? this.metersEv(made.radiance, metering)));
    // Of several states of light along a walk, each has its own exposure.
    const isSet = spec.along !== undefined;
    const grading = developed.grading && gradingWithCube(developed.grading);
    // The corners of a picture that goes all round are not its rim; and what would be thrown over the edge of a cube's face is left out.
    const isRound = order.projection.kind === 'equirectangular' || order.projection.kind === 'cube';
    return {
      ev100: isSet && mode === 'fixed' ? ev100 : along && walk?.metered ? along.ev100 : (order.ev100 ?? metersEv()),
      white: isSet && white ? whiteOf(white) : along && walk?.meteredWhite ? along.white : (order.white ?? (white ? whiteOf(white) : own)),
      ...grading,
      ...(grading && isRound && { grading: { ...grading.grading, vignette: 0, ...(order.projection.kind === 'cube' && { bloom: 0 }) } }),
    };
  }
}

/** The exposure and the white that a picture was developed with. */
function toldOf({ ev100, white }: Development): Record<string, string> {
  const { kelvin, tint } = settingOf(white.x, white.y);
  return { ExposureEv100: ev100.toFixed(2), WhiteKelvin: String(kelvin), WhiteTint: tint.toFixed(1), WhiteDegree: white.degree.toFixed(2) };
}
