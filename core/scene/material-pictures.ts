import { TEXTURE_PICTURES, type SourceMaterial } from '../model/schema';
import type { MapSet, TextureImage } from '../finish/maps/texture-image';

/**
 * Pictures that came with a model, as a map set. Its name lists their hashes, so that two materials with the same pictures
 * share it, and which set of coordinates each lies by, where that is not the first. Each is as glTF 2.0 and its extensions have
 * it, see sourceMaterialSchema in core/model/schema.ts.
 */
const PREFIX = 'image:';
const SET = '@';
const PARTS = ['base', ...TEXTURE_PICTURES.slice(1)] as readonly ('base' | Exclude<(typeof TEXTURE_PICTURES)[number], 'image'>)[];
type PicturePart = (typeof PARTS)[number];
type Texture = NonNullable<SourceMaterial['texture']>;

export function pictureMapsName({ image: base, sets = {}, ...others }: Texture): string {
  const pictures: Partial<Record<PicturePart, string | null>> = { base, ...others };
  return named(PARTS.map((part) => {
    const set = sets[part === 'base' ? 'image' : part];
    return pictures[part] ? `${pictures[part]}${set ? `${SET}${String(set)}` : ''}` : '';
  })); // prettier-ignore
}

const named = (hashes: readonly string[]): string => PREFIX + hashes.join('.').replace(/\.+$/, '');

/**
 * Names of the map sets that a finish's maps are made of: one for each set of coordinates that pictures lie by
 * (Mesh.furtherUvs), by its number; mostly one.
 */
export function mapSetsOf(maps: string | null): readonly string[] {
  if (maps === null) return [];
  if (!maps.startsWith(PREFIX) || !maps.includes(SET)) return [maps];
  const pictures = maps.slice(PREFIX.length).split('.').map((picture) => picture.split(SET)); // prettier-ignore
  const last = Math.max(...pictures.map(([, set]) => Number(set ?? 0)));
  return Array.from({ length: last + 1 }, (_, i) => named(pictures.map(([hash = '', set]) => (Number(set ?? 0) === i ? hash : ''))));
}

/** Hashes of the pictures that a map set is made of; undefined: it is not made of any. */
export function picturesOf(name: string): Map<PicturePart, string> | undefined {
  if (!name.startsWith(PREFIX)) return undefined;
  const hashes = name.slice(PREFIX.length).split('.').map((picture) => picture.replace(/@.*/, '')); // prettier-ignore
  return new Map(PARTS.map((part, i) => [part, hashes[i] ?? ''] as const).filter(([, hash]) => hash !== ''));
}

/** Decodes a picture, row 0 at v = 0; with a size, at that size. */
export type DecodePicture = (hash: string, size?: { width: number; height: number }) => Promise<TextureImage>;

/** Brings pictures to the size of the largest of them and puts them together as the maps of a finish; one that cannot be decoded is left out. */
export async function composePictures(pictures: ReadonlyMap<PicturePart, string>, decode: DecodePicture): Promise<MapSet> {
  const whole = new Map<PicturePart, TextureImage>();
  for (const [part, hash] of pictures) {
    const picture = await decode(hash).catch(() => undefined);
    if (picture) whole.set(part, picture);
  }
  const size = {
    width: Math.max(1, ...[...whole.values()].map((p) => p.width)),
    height: Math.max(1, ...[...whole.values()].map((p) => p.height)),
  };
  const texels = new Map<PicturePart, Uint8Array>();
  for (const [part, picture] of whole) {
    const fits = picture.width === size.width && picture.height === size.height;
    const fitted = fits ? picture : await decode(pictures.get(part)!, size).catch(() => undefined);
    if (fitted) texels.set(part, fitted.texels);
  }
  const image = (t: Uint8Array): TextureImage => ({ ...size, texels: t });
  const occlusion = texels.get('occlusion');
  const count = size.width * size.height;
  const base = texels.get('base')?.slice() ?? (occlusion && new Uint8Array(count * 4).fill(255));
  if (base && occlusion) darken(base, occlusion);
  const maps: MapSet = { base: base ? image(base) : WHITE, surface: undefined };
  for (const [kind, channels] of Object.entries(PACKED) as [keyof typeof PACKED, (typeof PACKED)[keyof typeof PACKED]][]) {
    const packed = pack(channels, texels, count);
    if (packed) maps[kind] = image(packed);
  }
  const glow = texels.get('emission');
  if (glow) maps.emission = image(glow);
  return maps;
}

/** A channel of a map: which channel of which picture it is, what it is without that picture, and how it is told there. */
type Channel = readonly [part: PicturePart | null, channel: number, absent: number, how?: (picture: Uint8Array, at: number) => number];
const share = (part: PicturePart, channel: number): Channel => [part, channel, 255];

const WHITE: TextureImage = { width: 1, height: 1, texels: Uint8Array.of(255, 255, 255, 255) };

/** How maps are put together from pictures; see MapSet. Of bearings, both channels whole is no direction: it is not told. */
const PACKED: Readonly<Record<Exclude<keyof MapSet, 'base' | 'emission'>, readonly Channel[]>> = {
  surface: [['normal', 0, 128], ['normal', 1, 128], share('roughnessMetalness', 1), [null, 0, 128]],
  packedFactors: [share('roughnessMetalness', 2), share('clearCoat', 0), share('transmission', 0), [null, 0, 255]],
  filmAndCoat: [share('filmThickness', 1), share('clearCoatRoughness', 1), share('film', 0), [null, 0, 255]],
  sheen: [share('sheen', 0), share('sheen', 1), share('sheen', 2), share('sheenRoughness', 3)],
  coatNormal: [['clearCoatNormal', 0, 255], ['clearCoatNormal', 1, 255], ['brushing', 0, 255, (p, o) => strongly(p, o, 0)], ['brushing', 1, 255, (p, o) => strongly(p, o, 1)]],
  specular: [share('specularColour', 0), share('specularColour', 1), share('specularColour', 2), share('specular', 3)],
  diffuseTransmission: [share('diffuseTransmissionColour', 0), share('diffuseTransmissionColour', 1), share('diffuseTransmissionColour', 2), share('diffuseTransmission', 3)],
}; // prettier-ignore

/** A direction's x or y, as long as the third channel says; the picture's need not be of length one. */
function strongly(picture: Uint8Array, at: number, axis: 0 | 1): number {
  const along = [picture[at]! * 2 - 255, picture[at + 1]! * 2 - 255] as const;
  const length = Math.hypot(...along) || 1;
  return Math.round(127.5 + (along[axis] / length) * (picture[at + 2]! / 2));
}

/** Undefined: none of the pictures is there. */
function pack(channels: readonly Channel[], texels: ReadonlyMap<PicturePart, Uint8Array>, count: number): Uint8Array | undefined {
  if (!channels.some(([part]) => part && texels.has(part))) return undefined;
  const out = new Uint8Array(count * 4);
  for (const [k, [part, channel, absent, how]] of channels.entries()) {
    const picture = part && texels.get(part);
    for (let o = 0; o < out.length; o += 4) out[o + k] = !picture ? absent : how ? how(picture, o) : picture[o + channel]!;
  }
  return out;
}

/** What little light reaches hollows is also thrown about in them: half of the darkening goes to the colour. */
export function darken(base: Uint8Array, occlusion: Uint8Array): void {
  for (let o = 0; o < base.length; o += 4) for (let k = 0; k < 3; k++) base[o + k] = Math.round(base[o + k]! * (0.5 + occlusion[o]! / 510)); // prettier-ignore
}
