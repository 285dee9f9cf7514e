import { FINISHES } from '../library';
import { paintMaps, type FinishMaps } from './paint';
import { PAINTERS } from './painters';
import { metalShares } from './packed-factors';
import { halved } from './texture-budget';
import { MAP_IS_SRGB, type MapSet, type TextureImage } from './texture-image';

export const MAP_SIZE = 1024;
/** Of the map sets that a page begins with; the whole one is fetched where a surface is seen from near. */
export const SMALL_MAP_SIZE = 256;

/** Names of the generated map sets. */
export const MAP_NAMES: readonly string[] = Object.keys(PAINTERS);

/** Generates a map set; undefined for an unknown name. The same name always gives the same bytes. */
export function generateMaps(name: string, size = MAP_SIZE): FinishMaps | undefined {
  const painter = PAINTERS[name];
  const finish = FINISHES.find((f) => f.maps === name);
  return painter && finish && paintMaps(painter, finish.widthM, finish.heightM, size);
}

/** The same maps at SMALL_MAP_SIZE, each texel the mean of those that it stands for. */
export function smallMaps({ size, base, surface, packedFactors }: FinishMaps): FinishMaps {
  const small = (texels: Uint8Array, kind: keyof MapSet) => {
    let image: TextureImage = { width: size, height: size, texels };
    while (image.width > SMALL_MAP_SIZE) image = halved(image, MAP_IS_SRGB[kind]);
    return image;
  };
  const smallBase = small(base, 'base');
  return {
    size: smallBase.width,
    base: smallBase.texels,
    surface: small(surface, 'surface').texels,
    ...(packedFactors && { packedFactors: small(packedFactors, 'packedFactors').texels }),
  };
}

/** File form of a map set: size as u32, then base and surface texels, and those of packedFactors if there are any. */
export function encodeMaps({ size, base, surface, packedFactors = new Uint8Array() }: FinishMaps): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(4 + base.length + surface.length + packedFactors.length);
  new DataView(out.buffer).setUint32(0, size, true);
  out.set(base, 4);
  out.set(surface, 4 + base.length);
  out.set(packedFactors, 4 + base.length + surface.length);
  return out;
}

/** Map sets that a person made are kept as blobs, and named by this and their hash. */
export const KEPT_MAPS = 'set:';

const MAX_SIZE = 2048;

/** Whether bytes are a map set that a person may bring. */
export function isMapSet(bytes: Uint8Array): boolean {
  if (bytes.byteLength < 4) return false;
  const size = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  return size >= 16 && size <= MAX_SIZE && [8, 12].some((bytesOfTexel) => bytes.byteLength === 4 + size * size * bytesOfTexel);
}

export function decodeMaps(bytes: Uint8Array): FinishMaps {
  const size = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  const texels = size * size * 4;
  const part = (k: number) => bytes.subarray(4 + texels * k, 4 + texels * (k + 1));
  if (bytes.byteLength === 4 + texels * 2) return { size, base: part(0), surface: part(1) };
  if (bytes.byteLength === 4 + texels * 3) return { size, base: part(0), surface: part(1), packedFactors: sharesOf(part(2)) };
  throw new Error('The map set is cut off.');
}

/** Sets that were kept before there were others have metalness in every channel. */
function sharesOf(texels: Uint8Array): Uint8Array {
  for (let i = 0; i < texels.length; i += 4)
    if (texels[i] !== texels[i + 1] || texels[i] !== texels[i + 2] || texels[i] !== texels[i + 3]) return texels;
  return metalShares(texels, 0);
}

/** The maps as pictures of their own. */
export function mapSetOf({ size, base, surface, packedFactors }: FinishMaps): MapSet {
  const image = (texels: Uint8Array) => ({ width: size, height: size, texels });
  return { base: image(base), surface: image(surface), ...(packedFactors && { packedFactors: image(packedFactors) }) };
}
