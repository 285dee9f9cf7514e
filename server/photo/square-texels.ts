import sharp from 'sharp';
import { MAX_PIXELS } from './photograph';

/** A picture as RGBA8 of a square size, row 0 at the bottom as maps have it. Rejects what is cut off or too large. */
export async function squareTexels(picture: Uint8Array, size: number): Promise<Uint8Array> {
  const texels = await sharp(picture, { limitInputPixels: MAX_PIXELS, failOn: 'truncated' })
    .resize(size, size, { fit: 'fill' })
    .flip()
    .toColourspace('srgb')
    .ensureAlpha()
    .raw()
    .toBuffer();
  return new Uint8Array(texels);
}

/** What is wrong with a zip of pictures, as its own sentence or that of the picture that could not be read. */
export const zipFault = (name: string, error: unknown): string =>
  error instanceof Error && error.message.startsWith(name) ? error.message : `${name} holds a picture that is cut off or broken.`;
