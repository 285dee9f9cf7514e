import { closeSync, openSync, writeSync } from 'node:fs';
import { mkdir, rename } from 'node:fs/promises';
import path from 'node:path';
import sharp from 'sharp';
import { ExrWriter, type ExrChannel } from '../../core/formats/exr-writer';
import type { Layout } from '../../core/image/bloom';
import { develop, type Development } from '../../core/image/tone';
import { drawOver } from '../../core/render/drawing';
import type { Drawing } from '../../core/project/style';
import type { PictureFormat } from '../../core/render/print';
import { xmp, type RoundPicture } from './picture-metadata';

export interface PictureToWrite {
  /** f32x4 a pixel, cd/m2. */
  radiance: Float32Array;
  width: number;
  height: number;
  development: Development;
  /** Lines and paper over it; how much of each pixel a line covers. */
  drawing?: Drawing | undefined;
  lines?: Float32Array | undefined;
  metadata: Record<string, string>;
  /** How it goes on beyond its sides. */
  layout?: Layout | undefined;
  /** It goes all round. */
  round?: RoundPicture | undefined;
}

const JPEG_QUALITY = 92;
const WEBP_QUALITY = 90;

/** Develops a picture and writes it; the file is whole, or not there. OpenEXR keeps the light as it is. */
export async function writePicture(format: PictureFormat, picture: PictureToWrite, file: string): Promise<void> {
  const { radiance, width, height, development, metadata, round } = picture;
  await mkdir(path.dirname(file), { recursive: true });
  const part = `${file}.part`;
  if (format === 'exr') {
    const rgb = dropCoverage(radiance);
    writeExr(part, ['R', 'G', 'B'].map((name) => ({ name, kind: 'float' as const })), width, height, metadata, rgb); // prettier-ignore
  } else {
    const rgba = format === 'png16' ? new Uint16Array(width * height * 4) : new Uint8Array(width * height * 4);
    develop(radiance, width, development, rgba, picture.layout);
    draw(rgba, picture);
    const raw = sharp(rgba, { raw: { width, height, channels: 4 }, limitInputPixels: false }).removeAlpha();
    const coded =
      format === 'png16' ? raw.toColourspace('rgb16').png({ compressionLevel: 6 })
      : format === 'jpeg' ? raw.jpeg({ quality: JPEG_QUALITY, chromaSubsampling: '4:4:4' })
      : format === 'webp' ? raw.webp({ quality: WEBP_QUALITY })
      : raw.png({ compressionLevel: 6 }); // prettier-ignore
    await coded.withXmp(xmp(metadata, round)).withIccProfile('srgb').toFile(part);
  }
  await rename(part, file);
}

const draw = (rgba: Uint8Array | Uint16Array, { drawing, lines, width, height }: PictureToWrite): void => {
  if (drawing) drawOver(rgba, { width, height }, lines, drawing);
};

/** A small developed picture, for lists. */
export async function writeThumbnail(picture: PictureToWrite, file: string): Promise<void> {
  const { radiance, width, height, development, layout } = picture;
  const rgba = new Uint8Array(width * height * 4);
  develop(radiance, width, development, rgba, layout);
  draw(rgba, picture);
  await sharp(rgba, { raw: { width, height, channels: 4 }, limitInputPixels: false })
    .removeAlpha()
    .resize(320)
    .png()
    .toFile(file);
}

/** Floats of all channels of each pixel, in the order of the channels, to a file. */
export function writeExr(
  file: string,
  channels: readonly ExrChannel[],
  width: number,
  height: number,
  attributes: Record<string, string>,
  values: Float32Array,
): void {
  const to = openSync(file, 'w');
  try {
    const writer = new ExrWriter(channels, width, height, attributes, (bytes, at) => {
      writeSync(to, bytes, 0, bytes.length, at);
    });
    writer.add(values);
  } finally {
    closeSync(to);
  }
}

function dropCoverage(rgba: Float32Array): Float32Array {
  const out = new Float32Array((rgba.length / 4) * 3);
  for (let i = 0, k = 0; i < rgba.length; i += 4) for (let c = 0; c < 3; c++) out[k++] = rgba[i + c]!;
  return out;
}
