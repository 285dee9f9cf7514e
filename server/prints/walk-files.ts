import { createReadStream, createWriteStream } from 'node:fs';
import { rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { once } from 'node:events';
import { strToU8, Zip, ZipPassThrough } from 'fflate';
import sharp from 'sharp';

/** What is handed over of a walk: its pictures as numbered PNG files in a zip, and a small moving picture to look at. */

/** Side and number of pictures of the moving one: it is held in memory while it is made. */
const MOVING_WIDTH = 480;
const MOST_MOVING = 240;

/** A picture of a walk, from 0. `output`: of all its files, without ending. */
export const framePath = (output: string, frame: number): string => path.join(framesFolder(output), frameName(frame));
export const framesFolder = (output: string): string => `${output}.frames`;
/** Programs that make films count from 1. */
const frameName = (frame: number): string => `${String(frame + 1).padStart(5, '0')}.png`;

/** Packs the pictures, and drops them where they lie singly. */
export async function writeWalk(output: string, frames: number, framesPerSecond: number, about: Record<string, string>): Promise<void> {
  await writeMoving(output, frames, framesPerSecond);
  await pack(output, frames, { ...about, FramesPerSecond: String(framesPerSecond), Frames: String(frames) });
  await rm(framesFolder(output), { recursive: true, force: true });
}

/** An animated WebP, smaller and with fewer pictures where there are many. */
async function writeMoving(output: string, frames: number, framesPerSecond: number): Promise<void> {
  const step = Math.ceil(frames / MOST_MOVING);
  const shown = Array.from({ length: Math.ceil(frames / step) }, (_, i) => framePath(output, i * step));
  const small = await Promise.all(
    shown.map((file) => sharp(file).resize({ width: MOVING_WIDTH, withoutEnlargement: true }).png().toBuffer()),
  );
  const delay = small.map(() => Math.round((1000 * step) / framesPerSecond));
  await sharp(small, { join: { animated: true } })
    .webp({ quality: 80, loop: 0, delay })
    .toFile(`${output}.part`);
  await rename(`${output}.part`, `${output}.webp`);
}

/** PNG is packed already; it is only put together, a piece at a time. */
async function pack(output: string, frames: number, about: Record<string, string>): Promise<void> {
  const file = createWriteStream(`${output}.part`);
  let full = false;
  const zip = new Zip((error, bytes, last) => {
    if (error) throw error;
    full = !file.write(bytes);
    if (last) file.end();
  });
  const entry = (name: string) => {
    const made = new ZipPassThrough(name);
    zip.add(made);
    return made;
  };
  entry('about.json').push(strToU8(JSON.stringify(about, null, 2)), true);
  for (let i = 0; i < frames; i++) {
    const to = entry(frameName(i));
    for await (const piece of createReadStream(framePath(output, i))) {
      to.push(piece as Buffer);
      if (full) await once(file, 'drain');
    }
    to.push(new Uint8Array(), true);
  }
  zip.end();
  await once(file, 'close');
  await rename(`${output}.part`, `${output}.zip`);
}
