import sharp from 'sharp';
import { finishMark, type Finish } from '../core/finish/finish';
import { swatchPixels } from '../core/finish/swatch';
import type { BlobStore } from './blobs';
import { loadMaps } from './scene-assets';

const SWATCH_SIDE = 64;
const MAX_SWATCHES = 2000;
const swatches = new Map<string, Promise<Buffer>>();

/** PNG of a finish's swatch; each look is made once. */
export function swatchOf(finish: Finish, blobs: BlobStore): Promise<Buffer> {
  const mark = finishMark(finish);
  let swatch = swatches.get(mark);
  if (!swatch) {
    if (swatches.size >= MAX_SWATCHES) swatches.clear();
    swatches.set(mark, (swatch = makeSwatch(finish, blobs)));
  }
  return swatch;
}

async function makeSwatch(finish: Finish, blobs: BlobStore): Promise<Buffer> {
  const maps = finish.maps === null ? undefined : await loadMaps(finish.maps, blobs);
  const pixels = swatchPixels(finish, maps?.base, SWATCH_SIDE);
  return sharp(pixels, { raw: { width: SWATCH_SIDE, height: SWATCH_SIDE, channels: 3 } })
    .png()
    .toBuffer();
}
