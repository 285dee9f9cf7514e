import { existsSync, rmSync } from 'node:fs';
import type { Denoiser } from '../../core/denoise/denoiser';
import { learntScale } from '../../core/denoise/denoiser';
import * as L from '../../core/kernel/assembly/layout';
import type { KernelPool } from '../../core/kernel/pool';
import { lineMask } from '../../core/render/lines';
import { lightOf, noiseLeft } from '../../core/render/noise';
import { denoisedPiece, insetOf, piecesOf, type Piece } from '../../core/render/pieces';
import { frameSize, samplesOf, type PrintFrame, type PrintOrder } from '../../core/render/print';
import type { WhiteBalance } from '../../core/image/white-balance';
import { automaticWhite } from '../../core/render/white';
import type { ChannelData, LightChannel } from './channel-files';
import { isLight, LIGHT } from './channel-files';
import { addUp, keepEven } from './light-parts';
import { keepFloats, readFloats } from './kept-file';

/** One picture of an order, piece by piece, from its plates to its light. What is done is kept, so that a killed print goes on. */

/** The film is kept so often, but no oftener than that keeping it takes a twentieth of the time. */
const KEEP_EVERY_MS = 1500;
const KEEPING_SHARE = 1 / 20;
const TILE = 32;
/** A small picture tells how bright a large one is, before its pieces are made: its longer side, pixels, and samples. */
const LOOK_SIDE = 256;
const LOOK_SAMPLES = 4;
/** Noise is looked at first after so many samples, and whenever they have doubled. */
const NOISE_FROM = 8;

/** What a picture is rendered with. */
export interface Rendering {
  pool: KernelPool;
  denoiser: Denoiser;
  order: PrintOrder;
  /** Path of the print's files, without ending. */
  output: string;
  /** Told after each sample of a piece how much of the picture that was. */
  drawsLines: boolean;
  told: (share: number) => void;
  /** Brings camera and moment to where they are at a share of the picture's time. */
  expose: (piece: Piece, share: number) => void;
}

export interface RenderedPicture {
  width: number;
  height: number;
  /** f32x4 a pixel, cd/m2. */
  radiance: Float32Array;
  /** That it asks for by itself. */
  white: WhiteBalance;
  samples: number;
  channels: Pick<ChannelData, 'geometry' | 'light'> | undefined;
  /** How much of each pixel a line covers, where lines are drawn. */
  lines?: Float32Array | undefined;
}

export async function renderPicture(rendering: Rendering, number: number, { plates, region: cut }: PrintFrame): Promise<RenderedPicture> {
  const { order, pool, denoiser, output } = rendering;
  const { width, height } = frameSize(order);
  const light = order.channels.filter(isLight);
  const region = cut ?? order.region;
  const pieces = piecesOf(plates, region, light.length > 0 ? PIXELS_WITH_PARTS : undefined);
  const radiance = new Float32Array(width * height * 4);
  const channels =
    order.channels.length > 0
      ? {
          geometry: new Float32Array((width * height * L.CHANNELS_SIZE) / 4),
          light: Object.fromEntries(light.map((name) => [name, new Float32Array(width * height * 3)])) as ChannelData['light'],
        }
      : undefined;
  const lines = rendering.drawsLines ? new Float32Array(width * height) : undefined;
  const isOne = pieces.length === 1 && !region;
  const ahead = isOne ? undefined : await lookAhead(rendering, pieces[0]!);
  const scale = pieces.length > 1 ? ahead?.scale : undefined;
  let samples = 0;
  for (const [i, piece] of pieces.entries()) {
    const inset = insetOf(piece, region);
    const put = (from: Float32Array, to: Float32Array, floats: number, line = piece.film.width, left = 0) => {
      for (let y = 0; y < piece.height; y++) {
        const at = ((y + inset.top) * line + inset.left + left) * floats;
        to.set(from.subarray(at, at + piece.width * floats), ((piece.top + y) * width + piece.left) * floats);
      }
    };
    // What a piece came to is kept where it is one of several.
    const file = `${output}.piece-${String(i)}`;
    const lasting = pieces.length > 1 && !channels && !lines;
    const kept = lasting ? readFloats(file, width * piece.height * 4) : undefined;
    if (kept?.marks[0] === number) {
      radiance.set(kept.floats, piece.top * width * 4);
      samples = Math.max(samples, kept.marks[1]!);
      rendering.told(pieceShare(piece, width, height));
      continue;
    }
    const parts = await renderPiece(rendering, number, i, piece, light.length > 0, pieceShare(piece, width, height));
    samples = Math.max(samples, parts.samples);
    const clean = () =>
      order.denoise
        ? denoisedPiece(pool.scene, denoiser, piece, 'full', scale)
        : denoiser.plain().then((light) => ({ light: light!, width: piece.film.width, left: 0 }));
    const whole = await clean();
    const line = whole.width;
    if (channels && light.length > 0) {
      const seen = Float32Array.from(whole.light);
      const all = {} as Record<LightChannel, Float32Array>;
      for (const name of LIGHT) {
        putPart(pool.scene.filmData(), parts.film, parts.parts!, name);
        const plain = name === 'emission' && order.denoise ? Float32Array.from((await denoiser.plain())!) : undefined;
        const { light: rgba } = await clean();
        all[name] = Float32Array.from(rgba);
        if (plain) keepEven(all[name], line, whole.left, plain, piece.film.width);
      }
      if (order.denoise) addUp(seen, all);
      put(seen, radiance, 4, line, whole.left);
      for (const name of light) put(withoutCoverage(all[name]), channels.light[name]!, 3, line, whole.left);
      pool.scene.filmData().set(parts.film);
    } else put(whole.light, radiance, 4, line, whole.left);
    if (lasting) await keepFloats(file, [number, parts.samples], rowsOf(radiance, width, piece));
    if (lines) put(lineMask(pool.scene.filmData(), piece.film.width, piece.film.height), lines, 1);
    if (!channels) continue;
    put(await geometryOf(pool, piece), channels.geometry, L.CHANNELS_SIZE / 4);
    pool.scene.memory.release(parts.at);
  }
  for (let i = 0; existsSync(`${output}.piece-${String(i)}`); i++) rmSync(`${output}.piece-${String(i)}`);
  // Whose film is that of the whole; else as the look ahead has found it.
  const white = ahead?.white ?? automaticWhite((await denoiser.plain())!, pool.scene.filmData());
  return { width, height, radiance, white, samples, channels, lines };
}

const PIXELS_WITH_PARTS = 4_000_000;

/** The rows of a picture that a piece, which is as wide as it, has come to. */
const rowsOf = (radiance: Float32Array, width: number, { top, height }: Piece): Float32Array =>
  radiance.subarray(top * width * 4, (top + height) * width * 4);

const pieceShare = (piece: Piece, width: number, height: number): number => (piece.width * piece.height) / (width * height);

/** How bright the whole is, and its white, from a small picture of it. */
async function lookAhead({ pool, denoiser, expose, order }: Rendering, piece: Piece): Promise<{ scale: number; white: WhiteBalance }> {
  const { width, height } = piece.plate;
  const small = Math.min(1, LOOK_SIDE / Math.max(width, height));
  const size = { width: Math.max(1, Math.round(width * small)), height: Math.max(1, Math.round(height * small)), tile: TILE };
  pool.scene.setFilm(size.width, size.height);
  expose(piece, 0);
  await pool.run({ kind: 'render', ...size, first: 0, count: order.denoise ? LOOK_SAMPLES : 1 });
  const film = pool.scene.filmData();
  return { scale: learntScale(film, size.width), white: automaticWhite((await denoiser.plain())!, film) };
}

/** Samples a piece until it is done; its film and parts stay in the kernel's memory. */
async function renderPiece(
  { pool, order, output, told, expose }: Rendering,
  number: number,
  index: number,
  piece: Piece,
  withParts: boolean,
  share: number,
): Promise<{ samples: number; parts: Float32Array | undefined; at: number; film: Float32Array }> {
  const { scene } = pool;
  const { width, height, left, top } = piece.film;
  const pixels = width * height;
  scene.setFilm(width, height);
  scene.setWindow(left, top, piece.plate.width, piece.plate.height);
  const at = withParts ? scene.memory.allocate(pixels * L.PARTS_SIZE) : 0;
  if (withParts) scene.setParts(at);
  const parts = () => scene.memory.floats(at, withParts ? (pixels * L.PARTS_SIZE) / 4 : 0);
  const film = scene.filmData();
  const filmFile = `${output}.film`;
  let advanced = 0;
  /** With a target of noise it may turn out that more is done than was thought. */
  const advance = (taken: number, wanted: number) => {
    const now = Math.max(advanced, (share * taken) / wanted);
    told(now - advanced);
    advanced = now;
  };
  const kept = readFloats(filmFile, film.length + parts().length);
  let done = 0;
  if (kept?.marks[0] === number && kept.marks[1] === index) {
    film.set(kept.floats.subarray(0, film.length));
    parts().set(kept.floats.subarray(film.length));
    done = kept.marks[2]!;
    advance(done, samplesOf(order));
  }
  let keepAt = Date.now() + KEEP_EVERY_MS;
  let wanted = samplesOf(order);
  let half: { samples: number; light: Float32Array } | undefined;
  for (let sample = done; sample < wanted; sample++) {
    expose(piece, order.noise ? radicalInverse(sample) : (sample + 0.5) / wanted);
    await pool.run({ kind: 'render', width, height, tile: TILE, first: sample, count: 1 });
    const taken = sample + 1;
    if (order.noise) {
      if (half && taken === half.samples * 2) {
        const left = noiseLeft(scene.filmData(), half.light, width, taken);
        // Noise falls with the root of the samples.
        wanted = Math.min(samplesOf(order), Math.max(taken, Math.ceil(taken * (left / order.noise) ** 2)));
      }
      if (taken >= NOISE_FROM && Number.isInteger(Math.log2(taken))) half = { samples: taken, light: lightOf(scene.filmData()) };
    }
    advance(taken, wanted);
    const now = Date.now();
    if (now > keepAt && taken < wanted) {
      const both = new Float32Array(film.length + parts().length);
      both.set(scene.filmData());
      both.set(parts(), film.length);
      await keepFloats(filmFile, [number, index, taken], both);
      const after = Date.now();
      keepAt = after + Math.max(KEEP_EVERY_MS, (after - now) / KEEPING_SHARE);
    }
  }
  return { samples: wanted, parts: withParts ? parts() : undefined, at, film: withParts ? scene.filmData().slice() : film };
}

/** Van der Corput's sequence in base 2: spread over the whole of 0 to 1 however few of it are taken. */
export function radicalInverse(i: number): number {
  let sum = 0;
  for (let share = 0.5, left = i + 1; left > 0; left >>= 1, share /= 2) if (left & 1) sum += share;
  return sum;
}

/** Puts a part of the light into the film in place of the whole. */
function putPart(film: Float32Array, whole: Float32Array, parts: Float32Array, name: LightChannel): void {
  const [pixel, part] = [L.PIXEL_SIZE / 4, L.PARTS_SIZE / 4];
  for (let q = 0, p = 0; q < film.length; q += pixel, p += part)
    for (let c = 0; c < 3; c++) {
      const [shining, direct] = [parts[p + c]!, parts[p + 4 + c]!];
      film[q + c] = name === 'emission' ? shining : name === 'direct' ? direct : Math.max(0, whole[q + c]! - shining - direct);
    }
}

function withoutCoverage(rgba: Float32Array): Float32Array {
  const rgb = new Float32Array((rgba.length / 4) * 3);
  for (let p = 0, q = 0; q < rgba.length; q += 4) for (let c = 0; c < 3; c++) rgb[p++] = rgba[q + c]!;
  return rgb;
}

async function geometryOf(pool: KernelPool, { film: { width, height } }: Piece): Promise<Float32Array> {
  const out = pool.scene.memory.allocate(width * height * L.CHANNELS_SIZE);
  await pool.run({ kind: 'channels', width, height, tile: TILE, out });
  const floats = pool.scene.memory.floats(out, (width * height * L.CHANNELS_SIZE) / 4).slice();
  pool.scene.memory.release(out);
  return floats;
}
