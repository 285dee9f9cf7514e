import { decodeMaps, KEPT_MAPS, mapSetOf } from '../../../core/finish/maps/generate';
import type { MapSet, TextureImage } from '../../../core/finish/maps/texture-image';
import { decodeMesh, type Mesh } from '../../../core/geometry/mesh';
import { composePictures, picturesOf } from '../../../core/scene/material-pictures';
import { fetchBytes, fetchOnce } from './fetch-bytes';

/** What a scene is made of, from the server; for a worker. */

/** Meshes by the hashes of their blobs, in one answer; those that the server has not are left out. `once`: who waits is told when it is out of reach. */
export async function fetchBlobs(blobs: readonly string[], once = false): Promise<Map<string, Mesh>> {
  const bytes = await (once ? fetchOnce : fetchBytes)('/api/blobs/pack', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ blobs }),
  });
  if (!bytes) throw new Error('no such blobs');
  return readPack(bytes);
}

/** A map set by its name: of pictures that came with a model, kept, or shipped; those that ship are there in two sizes. */
export async function fetchMapSet(name: string, size: 'whole' | 'small'): Promise<MapSet> {
  const pictures = picturesOf(name);
  return pictures ? composePictures(pictures, fetchPicture) : fetchTexels(name, size);
}

/** For each blob: 32 bytes of hash, its length as u32, its bytes. */
function readPack(bytes: Uint8Array): Map<string, Mesh> {
  const out = new Map<string, Mesh>();
  const data = new DataView(bytes.buffer);
  for (let at = 0; at + 36 <= bytes.length;) {
    const hash = Array.from(bytes.subarray(at, at + 32), (b) => b.toString(16).padStart(2, '0')).join('');
    const length = data.getUint32(at + 32, true);
    const mesh = decodeMesh(bytes.subarray(at + 36, at + 36 + length));
    if (typeof mesh !== 'string') out.set(hash, mesh);
    at += 36 + length;
  }
  return out;
}

async function fetchTexels(name: string, size: 'whole' | 'small'): Promise<MapSet> {
  const kept = name.startsWith(KEPT_MAPS);
  const bytes = await fetchBytes(kept ? `/api/blobs/${name.slice(KEPT_MAPS.length)}` : `/api/maps/${name}?size=${size}`);
  if (!bytes) throw new Error('no such maps');
  return mapSetOf(decodeMaps(bytes));
}

async function fetchPicture(hash: string, size?: { width: number; height: number }): Promise<TextureImage> {
  const bytes = await fetchBytes(`/api/blobs/${hash}`);
  if (!bytes) throw new Error('no such picture');
  const bitmap = await createImageBitmap(new Blob([bytes]), { imageOrientation: 'flipY', premultiplyAlpha: 'none' });
  const { width, height } = size ?? bitmap;
  const context = new OffscreenCanvas(width, height).getContext('2d')!;
  context.drawImage(bitmap, 0, 0, width, height);
  return { width, height, texels: new Uint8Array(context.getImageData(0, 0, width, height).data) };
}
