import { existsSync, readFileSync } from 'node:fs';
import sharp from 'sharp';
import { prepareKey, type PreparedMesh } from '../core/geometry/prepare-mesh';
import { blobOf, decodeMesh } from '../core/geometry/mesh';
import { decodeMaps, isMapSet, KEPT_MAPS, mapSetOf } from '../core/finish/maps/generate';
import { composePictures, mapSetsOf, picturesOf, type DecodePicture } from '../core/scene/material-pictures';
import type { MapSet } from '../core/finish/maps/texture-image';
import type { SceneAssets } from '../core/scene/rendered-scene';
import type { Scene } from '../core/scene/scene';
import { MAX_PIXELS } from './photo/photograph';
import type { BlobStore } from './blobs';
import { mapsFile } from './dist-paths';

const SAFE_NAME = /^[\w-]+$/;

/** What was read for a scene, by name; both names tell the content. */
export interface KeptAssets {
  meshes: Map<string, PreparedMesh>;
  maps: Map<string, MapSet>;
}

/** Reads everything that instances need from the disk, but what is kept of the scene before; kept is then what this one needs. */
export async function loadAssets(instances: Scene['instances'], blobs: BlobStore, kept?: KeptAssets): Promise<SceneAssets> {
  const meshes = new Map<string, PreparedMesh>();
  const maps = new Map<string, MapSet>();
  for (const { mesh: key, finish } of instances) {
    const mesh = meshes.get(key) ?? kept?.meshes.get(key) ?? (await loadMesh(key, blobs));
    if (mesh) meshes.set(key, mesh);
    for (const name of mapSetsOf(finish.maps)) {
      const loaded = maps.get(name) ?? kept?.maps.get(name) ?? (await loadMaps(name, blobs));
      if (loaded) maps.set(name, loaded);
    }
  }
  if (kept) Object.assign(kept, { meshes, maps });
  return { mesh: (hash) => meshes.get(hash), maps: (name) => maps.get(name) };
}

async function loadMesh(key: string, blobs: BlobStore): Promise<PreparedMesh | undefined> {
  const bytes = await blobs.get(blobOf(key));
  const mesh = bytes && decodeMesh(bytes);
  return mesh && typeof mesh !== 'string' ? prepareKey(key, mesh) : undefined;
}

/** A map set by the name that a finish gives it; undefined: there is none. */
export async function loadMaps(name: string, blobs: BlobStore): Promise<MapSet | undefined> {
  const pictures = picturesOf(name);
  if (pictures) return composePictures(pictures, decodeWith(blobs));
  if (name.startsWith(KEPT_MAPS)) {
    const bytes = await blobs.get(name.slice(KEPT_MAPS.length));
    return bytes && isMapSet(bytes) ? mapSetOf(decodeMaps(bytes)) : undefined;
  }
  if (!SAFE_NAME.test(name)) return undefined;
  const file = mapsFile(name);
  if (!existsSync(file)) return undefined;
  return mapSetOf(decodeMaps(readFileSync(file)));
}

const decodeWith =
  (blobs: BlobStore): DecodePicture =>
  async (hash, size) => {
    const bytes = await blobs.get(hash);
    if (!bytes) throw new Error(`There is no picture ${hash}.`);
    const whole = sharp(bytes, { limitInputPixels: MAX_PIXELS, failOn: 'truncated' }).flip().toColourspace('srgb').ensureAlpha();
    const fitted = size ? whole.resize(size.width, size.height, { fit: 'fill' }) : whole;
    const { data, info } = await fitted.raw().toBuffer({ resolveWithObject: true });
    return { width: info.width, height: info.height, texels: new Uint8Array(data) };
  };
