import type { Document, Texture } from '@gltf-transform/core';
import { adjusted, adjustmentMatrix, isAdjusted } from '../finish/adjust';
import type { Finish } from '../finish/finish';
import type { MapSet, TextureImage } from '../finish/maps/texture-image';
import { decodeSrgb, encodeSrgb } from '../image/tone';

/** Packs texels of three or four channels, row 0 first, into a PNG. */
export type PngEncoder = (texels: Uint8Array, width: number, height: number) => Promise<Uint8Array>;

/** What the base colour is multiplied with. glTF knows no adjustment: it is worked into the map, or into the plain colour. */
export function baseFactor(finish: Finish, hasMaps: boolean): readonly [number, number, number] {
  const linear = finish.baseColour.map(decodeSrgb) as [number, number, number];
  if (!isAdjusted(finish)) return linear;
  return hasMaps ? [1, 1, 1] : adjusted(linear, adjustmentMatrix(finish), finish.contrast);
}

/** Pictures of a finish's maps as glTF has them; null: it is the same all over. */
const TOLD = [
  'base', 'occlusion', 'normal', 'roughness', 'coat', 'clear', 'glow', 'filmThickness', 'coatRoughness', 'film', 'sheen', 'sheenRoughness',
  'coatNormal', 'brushing', 'mirror', 'mirrorColour', 'through', 'throughColour',
] as const; // prettier-ignore
export type MapTextures = Record<(typeof TOLD)[number], Texture | null> & {
  /** The base's alpha is not everywhere whole. */
  fades: boolean;
  /** Which set of coordinates a picture lies by, where that is not the first. */
  sets: ReadonlyMap<Texture, number>;
};

type Texel = (from: Uint8Array, at: number) => readonly number[];

/** Makes textures of the map sets of a finish (see mapSetsOf), in the colours of the finish if it adjusts them. */
export async function texturesOfMaps(
  document: Document,
  sets: readonly { name: string; maps: MapSet }[],
  finish: Finish,
  png: PngEncoder,
): Promise<MapTextures | undefined> {
  const made = await Promise.all(sets.map(({ name, maps }, set) => texturesOfSet(document, name, maps, set > 0 ? undefined : finish, png)));
  const [first, ...others] = made;
  if (!first) return undefined;
  const lie = new Map<Texture, number>();
  for (const [i, other] of others.entries())
    for (const part of TOLD) {
      const texture = other[part];
      if (!texture || first[part]) continue;
      first[part] = texture;
      lie.set(texture, i + 1);
    }
  return { ...first, sets: lie };
}

/** Without a finish the base is what lies over another one: hollows. */
async function texturesOfSet(
  document: Document,
  name: string,
  maps: MapSet,
  finish: Finish | undefined,
  png: PngEncoder,
): Promise<Omit<MapTextures, 'sets'>> {
  const { base, surface, packedFactors, emission, filmAndCoat, coatNormal } = maps;
  const texture = async (kind: string, { width, height, texels }: TextureImage, texel: Texel): Promise<Texture> => {
    const channels = texel(texels, 0).length;
    const out = new Uint8Array(width * height * channels);
    for (let i = 0; i < width * height; i++) out.set(texel(texels, i * 4), i * channels);
    return document
      .createTexture(`${name.replace(/^image:(.{8}).*/, 'picture $1')} ${kind}`)
      .setMimeType('image/png')
      .setImage(await png(out, width, height));
  };
  /** Where any of some channels is not all there. */
  const told = async (kind: string, image: TextureImage | undefined, channels: readonly number[], texel: Texel) =>
    image && channels.some((channel) => varies(image, channel)) ? texture(kind, image, texel) : null;
  const share = (kind: string, channel: number) => told(kind, packedFactors, [channel], (t, i) => Array<number>(3).fill(t[i + channel]!));
  const colourAndShare = async (kind: string, image: TextureImage | undefined): Promise<[Texture | null, Texture | null]> => {
    const made = await told(kind, image, [0, 1, 2, 3], (t, i) => [t[i]!, t[i + 1]!, t[i + 2]!, t[i + 3]!]);
    return made && image
      ? [[0, 1, 2].some((channel) => varies(image, channel)) ? made : null, varies(image, 3) ? made : null]
      : [null, null];
  };
  const fades = varies(base, 3);
  const colour: Texel = finish && isAdjusted(finish) ? adjustedTexel(finish) : (t, i) => [t[i]!, t[i + 1]!, t[i + 2]!];
  const [sheen, sheenRoughness] = await colourAndShare('sheen', maps.sheen);
  const [mirrorColour, mirrorShare] = await colourAndShare('mirroring', maps.specular);
  const [throughColour, throughShare] = await colourAndShare('scattered through', maps.diffuseTransmission);
  return {
    base: finish ? await texture('base colour', base, fades ? (t, i) => [...colour(t, i), t[i + 3]!] : colour) : null,
    occlusion: finish ? null : await told('occlusion', base, [0], (t, i) => Array<number>(3).fill(lightened(t[i]!))),
    fades,
    // Ours has green along v, which runs down the rows; glTF's points up them. Blue follows from the other two.
    normal:
      surface && isTilted(surface) ? await texture('normal', surface, (t, i) => [t[i]!, 255 - t[i + 1]!, depthOf(t[i]!, t[i + 1]!)]) : null,
    roughness: await roughnessOf(surface, packedFactors, texture),
    coat: await share('clear coat', 1),
    clear: await share('transmission', 2),
    glow: emission ? await texture('emission', emission, (t, i) => [t[i]!, t[i + 1]!, t[i + 2]!]) : null,
    filmThickness: await told('film thickness', filmAndCoat, [0], (t, i) => [0, t[i]!, 0]),
    coatRoughness: await told('coat roughness', filmAndCoat, [1], (t, i) => [0, t[i + 1]!, 0]),
    film: await told('film', filmAndCoat, [2], (t, i) => [t[i + 2]!, 0, 0]),
    sheen,
    sheenRoughness,
    coatNormal: await told('coat normal', coatNormal, [0, 1], (t, i) => [t[i]!, 255 - t[i + 1]!, depthOf(t[i]!, t[i + 1]!)]),
    brushing: await told('brushing', coatNormal, [2, 3], brushingOf),
    mirror: mirrorShare,
    mirrorColour,
    through: throughShare,
    throughColour,
  };
}

/** Roughness in green, metalness in blue. */
async function roughnessOf(
  surface: TextureImage | undefined,
  factors: TextureImage | undefined,
  texture: (kind: string, image: TextureImage, texel: Texel) => Promise<Texture>,
): Promise<Texture | null> {
  const image = surface && varies(surface, 2) ? surface : factors && varies(factors, 0) ? factors : undefined;
  return image
    ? texture('roughness', image, (_, i) => [255, image === surface ? surface.texels[i + 2]! : 255, factors?.texels[i] ?? 255])
    : null;
}

/** The occlusion that `darken` makes so dark of white. */
const lightened = (white: number): number => Math.max(0, white * 2 - 255);

const isTilted = ({ texels }: TextureImage): boolean => {
  for (let i = 0; i < texels.length; i += 4) if (texels[i] !== 128 || texels[i + 1] !== 128) return true;
  return false;
};

/** KHR_materials_anisotropy has the direction apart from its strength. */
const brushingOf: Texel = (t, i) => {
  const [x, y] = [t[i + 2]! - 127.5, 127.5 - t[i + 3]!] as const;
  const length = Math.hypot(x, y);
  const coded = (c: number) => Math.round(127.5 + (c / (length || 1)) * 127.5);
  return [coded(x), coded(y), Math.min(255, Math.round(length * 2))];
};

function varies({ texels }: TextureImage, channel: number): boolean {
  for (let i = channel; i < texels.length; i += 4) if (texels[i]! < 255) return true;
  return false;
}

function depthOf(red: number, green: number): number {
  const [x, y] = [(red / 255) * 2 - 1, (green / 255) * 2 - 1];
  return Math.round((Math.sqrt(Math.max(0, 1 - x * x - y * y)) * 0.5 + 0.5) * 255);
}

/** A texel of the base colour as the finish shows it, its own colour and adjustment worked in. */
function adjustedTexel(finish: Finish): Texel {
  const matrix = adjustmentMatrix(finish);
  const own = finish.baseColour.map(decodeSrgb);
  const linear = Float64Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255));
  return (t, i) => {
    const shown = adjusted([linear[t[i]!]! * own[0]!, linear[t[i + 1]!]! * own[1]!, linear[t[i + 2]!]! * own[2]!], matrix, finish.contrast);
    return shown.map((c) => Math.round(encodeSrgb(c) * 255));
  };
}
