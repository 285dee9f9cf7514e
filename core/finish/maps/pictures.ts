import type { SourceMaterial } from '../../model/schema';
import { decodeSrgb } from '../../image/tone';
import type { MapSet, TextureImage } from './texture-image';

/**
 * Pictures that came with a model, as a map set. Its name lists their hashes, so that two materials with the same pictures
 * share it. Each is as glTF 2.0 and its extensions have it, see linkedTexture in core/model/schema.ts.
 */
const PREFIX = 'image:';
const PARTS = ['base', 'normal', 'roughnessMetalness', 'occlusion', 'emission', 'clearCoat', 'transmission', 'sheen'] as const;
export type PicturePart = (typeof PARTS)[number];
type Texture = NonNullable<SourceMaterial['texture']>;

export function pictureMapsName({ image: base, ...others }: Texture): string {
  const pictures: Partial<Record<PicturePart, string | null>> = { base, ...others };
  return PREFIX + PARTS.map((part) => pictures[part] ?? '').join('.').replace(/\.+$/, ''); // prettier-ignore
}

/** Hashes of the pictures that a map set is made of; undefined: it is not made of any. */
export function picturesOf(name: string): Map<PicturePart, string> | undefined {
  if (!name.startsWith(PREFIX)) return undefined;
  const hashes = name.slice(PREFIX.length).split('.');
  return new Map(PARTS.map((part, i) => [part, hashes[i] ?? ''] as const).filter(([, hash]) => hash !== ''));
}

/** Decodes a picture, row 0 at v = 0; with a size, at that size. */
export type DecodePicture = (hash: string, size?: { width: number; height: number }) => Promise<TextureImage>;

/** Brings pictures to the size of the largest of them and puts them together as the maps of a finish. */
export async function composePictures(pictures: ReadonlyMap<PicturePart, string>, decode: DecodePicture): Promise<MapSet> {
  const whole = new Map<PicturePart, TextureImage>();
  for (const [part, hash] of pictures) whole.set(part, await decode(hash));
  const size = {
    width: Math.max(1, ...[...whole.values()].map((p) => p.width)),
    height: Math.max(1, ...[...whole.values()].map((p) => p.height)),
  };
  const texels = new Map<PicturePart, Uint8Array>();
  for (const [part, picture] of whole) {
    const fits = picture.width === size.width && picture.height === size.height;
    texels.set(part, (fits ? picture : await decode(pictures.get(part)!, size)).texels);
  }
  const image = (t: Uint8Array): TextureImage => ({ ...size, texels: t });
  const [normal, both, occlusion] = [texels.get('normal'), texels.get('roughnessMetalness'), texels.get('occlusion')];
  const count = size.width * size.height;
  const base = texels.get('base')?.slice() ?? new Uint8Array(count * 4).fill(255);
  if (occlusion) darken(base, occlusion);
  const shares = sharesOf(texels, count);
  const glow = texels.get('emission');
  const beside = { ...(shares && { shares: image(shares) }), ...(glow && { glow: image(glow) }) };
  if (!normal && !both) return { base: image(base), surface: undefined, ...beside };
  const surface = new Uint8Array(count * 4);
  for (let o = 0; o < count * 4; o += 4) {
    surface[o] = normal ? normal[o]! : 128;
    surface[o + 1] = normal ? normal[o + 1]! : 128;
    surface[o + 2] = both ? both[o + 1]! : 255;
    surface[o + 3] = 128;
  }
  return { base: image(base), surface: image(surface), ...beside };
}

/** Where in its picture the share of each factor is told, in the order of `MapSet.shares`; of sheen by the strongest of its colours. */
const SHARES = [['roughnessMetalness', 2], ['clearCoat', 0], ['transmission', 0]] as const; // prettier-ignore

function sharesOf(texels: ReadonlyMap<PicturePart, Uint8Array>, count: number): Uint8Array | undefined {
  const sheen = texels.get('sheen');
  if (!sheen && !SHARES.some(([part]) => texels.has(part))) return undefined;
  const out = new Uint8Array(count * 4).fill(255);
  for (const [k, [part, channel]] of SHARES.entries()) {
    const picture = texels.get(part);
    if (picture) for (let o = 0; o < out.length; o += 4) out[o + k] = picture[o + channel]!;
  }
  if (sheen)
    for (let o = 0; o < out.length; o += 4) out[o + 3] = Math.round(255 * decodeSrgb(Math.max(sheen[o]!, sheen[o + 1]!, sheen[o + 2]!) / 255)); // prettier-ignore
  return out;
}

/** What little light reaches hollows is also thrown about in them: half of the darkening goes to the colour. */
export function darken(base: Uint8Array, occlusion: Uint8Array): void {
  for (let o = 0; o < base.length; o += 4) for (let k = 0; k < 3; k++) base[o + k] = Math.round(base[o + k]! * (0.5 + occlusion[o]! / 510)); // prettier-ignore
}
