import sharp from 'sharp';

/** What a person gives as a photograph of a surface, made safe: sRGB PNG, upright, no larger than it needs to be. */
export interface Photograph {
  png: Buffer;
  width: number;
  height: number;
  /** What was done to it, in a sentence; empty: nothing to tell. */
  remark: string;
}

export const MAX_PHOTO_BYTES = 80 * 1024 * 1024;
export const MAX_PIXELS = 64_000_000;
const MAX_SIDE = 2600;

/** By its first bytes: only these are ever given to a decoder, so that no script or vector drawing is looked at. */
function kindOf(bytes: Uint8Array): 'JPEG' | 'PNG' | 'WebP' | 'TIFF' | undefined {
  const starts = (...code: number[]) => code.every((c, i) => bytes[i] === c);
  if (starts(0xff, 0xd8, 0xff)) return 'JPEG';
  if (starts(0x89, 0x50, 0x4e, 0x47)) return 'PNG';
  if (starts(0x52, 0x49, 0x46, 0x46) && String.fromCharCode(...bytes.subarray(8, 12)) === 'WEBP') return 'WebP';
  if (starts(0x49, 0x49, 0x2a, 0) || starts(0x4d, 0x4d, 0, 0x2a)) return 'TIFF';
  return undefined;
}

export const isPicture = (bytes: Uint8Array): boolean => kindOf(bytes) !== undefined;

/** Reads a photograph, or says in a sentence why it is not taken. */
export async function readPhotograph(name: string, bytes: Uint8Array): Promise<Photograph | { fault: string }> {
  const kind = kindOf(bytes);
  if (!kind) return { fault: `${name} is no photograph that is read here: JPEG, PNG, WebP and TIFF are.` };
  const open = () => sharp(bytes, { limitInputPixels: MAX_PIXELS, failOn: 'truncated' });
  try {
    const { width, height, pages = 1, space } = await sharp(bytes, { limitInputPixels: false }).metadata();
    if (width * height > MAX_PIXELS)
      return { fault: `${name} has ${(width * height / 1e6).toFixed(0)} million pixels; up to ${String(MAX_PIXELS / 1e6)} million are taken.` }; // prettier-ignore
    if (pages > 1) return { fault: `${name} is animated or has several pages; give a single picture.` };
    if (width < 64 || height < 64) return { fault: `${name} is ${String(width)} × ${String(height)} pixels; at least 64 × 64 are needed.` };
    // Turned as its camera held it, and from its colour profile, or that of print colours, to sRGB.
    const { data, info } = await open()
      .rotate()
      .resize({ width: MAX_SIDE, height: MAX_SIDE, fit: 'inside', withoutEnlargement: true })
      .flatten({ background: '#ffffff' })
      .toColourspace('srgb')
      .png({ compressionLevel: 3 })
      .toBuffer({ resolveWithObject: true });
    const said = [
      space === 'cmyk' ? 'It was in print colours (CMYK) and has been brought to sRGB.' : '',
      Math.max(width, height) > MAX_SIDE ? `It was made smaller, to ${String(info.width)} × ${String(info.height)} pixels.` : '',
    ];
    return { png: data, width: info.width, height: info.height, remark: said.filter(Boolean).join(' ') };
  } catch {
    return { fault: `${name} is cut off or broken: it could not be read as ${kind}.` };
  }
}
