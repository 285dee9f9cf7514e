import type { Document, Texture } from '@gltf-transform/core';
import { adjusted, adjustmentMatrix, isAdjusted } from '../finish/adjust';
import type { Finish } from '../finish/finish';
import type { MapSet, TextureImage } from '../finish/maps/texture-image';
import { decodeSrgb, encodeSrgb } from '../image/tone';

/** Packs texels of three or four channels, row 0 first, into a PNG. */
export type PngEncoder = (texels: Uint8Array, width: number, height: number) => Promise<Uint8Array>;

/** The maps of a finish as glTF has them; null: it is the same all over. */
export interface MapTextures {
  base: Texture;
  /** The base's alpha is not everywhere whole. */
  fades: boolean;
  normal: Texture | null;
  roughness: Texture | null;
  coat: Texture | null;
  clear: Texture | null;
  sheen: Texture | null;
  glow: Texture | null;
  coatRoughness: Texture | null;
  coatNormal: Texture | null;
  sheenRoughness: Texture | null;
  film: Texture | null;
  filmThickness: Texture | null;
  brushing: Texture | null;
  /** Alpha and colour of what is mirrored; the same of what is scattered through. */
  mirror: Texture | null;
  through: Texture | null;
}

type Texel = (from: Uint8Array, at: number) => readonly number[];

/** Makes textures of a map set, in the colours of a finish that adjusts them. */
export async function texturesOfMaps(
  document: Document,
  name: string,
  maps: MapSet,
  finish: Finish,
  png: PngEncoder,
): Promise<MapTextures> {
  const { base, surface, shares, glow, layers, bearings, mirror, through } = maps;
  const texture = async (kind: string, { width, height, texels }: TextureImage, texel: Texel): Promise<Texture> => {
    const channels = texel(texels, 0).length;
    const out = new Uint8Array(width * height * channels);
    for (let i = 0; i < width * height; i++) out.set(texel(texels, i * 4), i * channels);
    return document
      .createTexture(`${name.replace(/^image:(.{8}).*/, 'picture $1')} ${kind}`)
      .setMimeType('image/png')
      .setImage(await png(out, width, height));
  };
  const share = async (kind: string, channel: number, coded = (x: number) => x) =>
    shares && varies(shares, channel) ? texture(kind, shares, (t, i) => Array<number>(3).fill(coded(t[i + channel]!))) : null;
  const fades = varies(base, 3);
  const colour: Texel = isAdjusted(finish) ? adjustedTexel(finish) : (t, i) => [t[i]!, t[i + 1]!, t[i + 2]!];
  return {
    base: await texture('base colour', base, fades ? (t, i) => [...colour(t, i), t[i + 3]!] : colour),
    fades,
    // Ours has green along v, which runs down the rows; glTF's points up them. Blue follows from the other two.
    normal: surface ? await texture('normal', surface, (t, i) => [t[i]!, 255 - t[i + 1]!, depthOf(t[i]!, t[i + 1]!)]) : null,
    roughness: surface ? await texture('roughness', surface, (t, i) => [255, t[i + 2]!, shares?.texels[i] ?? 255]) : null,
    coat: await share('clear coat', 1),
    clear: await share('transmission', 2),
    sheen: await share('sheen', 3, (x) => Math.round(255 * encodeSrgb(x / 255))),
    glow: glow ? await texture('emission', glow, (t, i) => [t[i]!, t[i + 1]!, t[i + 2]!]) : null,
    filmThickness: layers && varies(layers, 0) ? await texture('film thickness', layers, (t, i) => [0, t[i]!, 0]) : null,
    coatRoughness: layers && varies(layers, 1) ? await texture('coat roughness', layers, (t, i) => [0, t[i + 1]!, 0]) : null,
    film: layers && varies(layers, 2) ? await texture('film', layers, (t, i) => [t[i + 2]!, 0, 0]) : null,
    sheenRoughness: layers && varies(layers, 3) ? await texture('sheen roughness', layers, (t, i) => [0, 0, 0, t[i + 3]!]) : null,
    coatNormal: bearings ? await texture('coat normal', bearings, (t, i) => [t[i]!, 255 - t[i + 1]!, depthOf(t[i]!, t[i + 1]!)]) : null,
    brushing: bearings ? await texture('brushing', bearings, brushingOf) : null,
    mirror: mirror ? await texture('mirroring', mirror, (t, i) => [t[i]!, t[i + 1]!, t[i + 2]!, t[i + 3]!]) : null,
    through: through ? await texture('scattered through', through, (t, i) => [t[i]!, t[i + 1]!, t[i + 2]!, t[i + 3]!]) : null,
  };
}

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
