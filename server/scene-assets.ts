import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { dressMesh, type DressedMesh } from '../core/geometry/dress';
import { blobOf, decodeMesh, meshOfKey } from '../core/geometry/mesh';
import { decodeMaps, isMapSet, KEPT_MAPS } from '../core/finish/maps/generate';
import type { FinishMaps } from '../core/finish/maps/paint';
import type { SceneAssets, TextureImage } from '../core/kernel/scene-memory';
import type { Scene } from '../core/scene/scene';
import type { BlobStore } from './blobs';
import { MAPS_DIRECTORY } from './dist-paths';

const SAFE_NAME = /^[\w-]+$/;

/** Reads everything that a scene needs from the disk. */
export async function loadAssets(scene: Scene, blobs: BlobStore): Promise<SceneAssets> {
  const meshes = new Map<string, DressedMesh>();
  const maps = new Map<string, { base: TextureImage; surface: TextureImage | undefined }>();
  for (const { mesh: key, finish } of scene.instances) {
    if (!meshes.has(key)) {
      const bytes = await blobs.get(blobOf(key));
      const mesh = bytes && decodeMesh(bytes);
      if (mesh && typeof mesh !== 'string') meshes.set(key, dressMesh(meshOfKey(key, mesh)));
    }
    if (finish.maps !== null && !maps.has(finish.maps)) {
      const loaded = await loadMaps(finish.maps, blobs);
      if (loaded) maps.set(finish.maps, loaded);
    }
  }
  return { mesh: (hash) => meshes.get(hash), maps: (name) => maps.get(name) };
}

/** A map set by the name that a finish gives it; undefined: there is none. */
export async function loadMaps(
  name: string,
  blobs: BlobStore,
): Promise<{ base: TextureImage; surface: TextureImage | undefined } | undefined> {
  if (name.startsWith('image:')) {
    const bytes = await blobs.get(name.slice(6));
    if (!bytes) return undefined;
    const { data, info } = await sharp(bytes).flip().toColourspace('srgb').ensureAlpha().raw().toBuffer({ resolveWithObject: true });
    return { base: { width: info.width, height: info.height, texels: new Uint8Array(data) }, surface: undefined };
  }
  if (name.startsWith(KEPT_MAPS)) {
    const bytes = await blobs.get(name.slice(KEPT_MAPS.length));
    return bytes && isMapSet(bytes) ? imagesOf(decodeMaps(bytes)) : undefined;
  }
  if (!SAFE_NAME.test(name)) return undefined;
  const file = path.join(MAPS_DIRECTORY, `${name}.maps`);
  if (!existsSync(file)) return undefined;
  return imagesOf(decodeMaps(readFileSync(file)));
}

function imagesOf({ size, base, surface }: FinishMaps) {
  return { base: { width: size, height: size, texels: base }, surface: { width: size, height: size, texels: surface } };
}
