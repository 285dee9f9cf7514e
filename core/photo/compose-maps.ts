import type { FinishMaps } from '../finish/maps/paint';
import { darken } from '../scene/material-pictures';
import { metalShares } from '../finish/maps/packed-factors';
import { encodeNormalXy } from '../finish/maps/relief';
import type { MapRole } from './map-roles';

/** RGBA8 of one role, all of one square size, row 0 at v = 0. */
export type RolePictures = ReadonlyMap<MapRole, Uint8Array>;

export interface ComposedMaps {
  maps: FinishMaps;
  /** Factor of the finish: that of all, or 1 where a map tells it. */
  metalness: number;
  /** How the normals were coded, and how that is known; undefined: there were none. */
  normals: { style: 'OpenGL' | 'DirectX'; by: 'name' | 'curl' } | undefined;
}

/**
 * Which way green grows in a normal map. The slopes of a real surface are the gradient of its height, which has no curl:
 * with green turned the wrong way round it has. 'OpenGL': green up.
 */
export function normalStyle(normals: Uint8Array, size: number): 'OpenGL' | 'DirectX' {
  const slope = (x: number, y: number, k: number) => {
    const i = (((y + size) % size) * size + ((x + size) % size)) * 4;
    const n = [0, 1, 2].map((c) => (normals[i + c]! - 127.5) / 127.5) as [number, number, number];
    return -n[k]! / Math.max(0.1, n[2]);
  };
  let [up, down] = [0, 0];
  for (let y = 0; y < size; y += 1)
    for (let x = 0; x < size; x += 1) {
      const pByY = slope(x, y + 1, 0) - slope(x, y - 1, 0);
      const qByX = slope(x + 1, y, 1) - slope(x - 1, y, 1);
      up += (pByY - qByX) ** 2;
      down += (pByY + qByX) ** 2;
    }
  return up <= down ? 'OpenGL' : 'DirectX';
}

/** Puts the pictures of a map set together. Heights have `reliefM` from the lowest to the highest place. */
export function composeMaps(pictures: RolePictures, size: number, widthM: number, heightM: number, reliefM: number): ComposedMaps {
  const get = (role: MapRole) => pictures.get(role);
  const packed = get('packed');
  const base = Uint8Array.from(get('base') ?? new Uint8Array(size * size * 4).fill(255));
  const surface = new Uint8Array(size * size * 4);
  const [roughness, gloss, height, occlusion, opacity] = (['roughness', 'glossiness', 'height', 'occlusion', 'opacity'] as const).map(get);
  const metal = metalnessOf(pictures, size);
  if (occlusion ?? packed) darken(base, (occlusion ?? packed)!);
  for (let i = 0; i < size * size; i++) {
    const o = i * 4;
    if (opacity) base[o + 3] = opacity[o]!;
    surface[o] = surface[o + 1] = 128;
    surface[o + 2] = roughness ? roughness[o]! : gloss ? 255 - gloss[o]! : packed ? packed[o + 1]! : 178;
    surface[o + 3] = height ? height[o]! : 128;
  }
  const normals = normalsOf(pictures, size);
  if (normals)
    for (let i = 0; i < size * size; i++) {
      surface[i * 4] = normals.picture[i * 4]!;
      surface[i * 4 + 1] = normals.style === 'DirectX' ? 255 - normals.picture[i * 4 + 1]! : normals.picture[i * 4 + 1]!;
    }
  else if (height) encodeNormalXy(Float32Array.from({ length: size * size }, (_, i) => (height[i * 4]! / 255) * reliefM), size, widthM, heightM, surface); // prettier-ignore
  return {
    maps: { size, base, surface, ...(metal.map && { packedFactors: metal.map }) },
    metalness: metal.factor,
    normals: normals && { style: normals.style, by: normals.by },
  };
}

/** A map that is nearly the same all over is one value. */
const SAME = 6;

function metalnessOf(pictures: RolePictures, size: number): { factor: number; map?: Uint8Array } {
  const [picture, channel] = [pictures.get('metalness') ?? pictures.get('packed'), pictures.has('metalness') ? 0 : 2];
  if (!picture) return { factor: 0 };
  const map = metalShares(picture, channel);
  let [sum, low, high] = [0, 255, 0];
  for (let o = 0; o < map.length; o += 4) {
    const value = map[o]!;
    sum += value;
    low = Math.min(low, value);
    high = Math.max(high, value);
  }
  return high - low <= SAME ? { factor: sum / (size * size * 255) } : { factor: 1, map };
}

function normalsOf(pictures: RolePictures, size: number) {
  const [gl, dx, plain] = (['normal-gl', 'normal-dx', 'normal'] as const).map((role) => pictures.get(role));
  if (gl) return { picture: gl, style: 'OpenGL', by: 'name' } as const;
  if (dx) return { picture: dx, style: 'DirectX', by: 'name' } as const;
  return plain && ({ picture: plain, style: normalStyle(plain, size), by: 'curl' } as const);
}
