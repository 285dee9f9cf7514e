import { createReadStream, createWriteStream } from 'node:fs';
import { rename } from 'node:fs/promises';
import path from 'node:path';
import { once } from 'node:events';
import { strToU8, Zip, ZipPassThrough } from 'fflate';
import sharp from 'sharp';

/** What is handed over of several pictures: their files in a zip, and of a walk a small moving picture to look at. */

/** Side and number of pictures of the moving one: it is held in memory while it is made. */
const MOVING_WIDTH = 480;
const MOST_MOVING = 240;

export const framesFolder = (output: string): string => `${output}.frames`;
/** A picture of several. `output`: of all files of a print, without ending. */
export const framePath = (output: string, name: string): string => path.join(framesFolder(output), name);

/** An animated WebP, smaller and with fewer pictures where there are many. */
export async function writeMoving(output: string, files: readonly string[], framesPerSecond: number): Promise<void> {
  const step = Math.ceil(files.length / MOST_MOVING);
  const small = await Promise.all(
    files
      .filter((_, i) => i % step === 0)
      .map((file) => sharp(file).resize({ width: MOVING_WIDTH, withoutEnlargement: true }).png().toBuffer()),
  );
  const delay = small.map(() => Math.round((1000 * step) / framesPerSecond));
  await sharp(small, { join: { animated: true } })
    .webp({ quality: 80, loop: 0, delay })
    .toFile(`${output}.part`);
  await rename(`${output}.part`, `${output}.webp`);
}

/** Packs files under the names they are handed over by. Pictures are packed already; they are only put together, a piece at a time. */
export async function pack(to: string, files: Iterable<readonly [name: string, file: string | Uint8Array]>): Promise<void> {
  const out = createWriteStream(`${to}.part`);
  let full = false;
  const zip = new Zip((error, bytes, last) => {
    if (error) throw error;
    full = !out.write(bytes);
    if (last) out.end();
  });
  for (const [name, file] of files) {
    const entry = new ZipPassThrough(name);
    zip.add(entry);
    if (typeof file !== 'string') {
      entry.push(file, true);
      continue;
    }
    for await (const piece of createReadStream(file)) {
      entry.push(piece as Buffer);
      if (full) await once(out, 'drain');
    }
    entry.push(new Uint8Array(), true);
  }
  zip.end();
  await once(out, 'close');
  await rename(`${to}.part`, to);
}

export const asJson = (value: unknown): Uint8Array => strToU8(JSON.stringify(value, null, 2));
