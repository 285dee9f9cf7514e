import { decodeSkyPicture, isSkyPicture, type SkyPicture } from '../../../core/sky/sky-picture';
import type { SkyInput } from '../../../core/sky/sky-map';
import { fetchBytes } from './fetch-bytes';

/** The all-round pictures that were used last. */
const kept = new Map<string, Promise<SkyPicture | undefined>>();
const MOST_KEPT = 3;

/** The picture that a sky is of; undefined: it has none, or it cannot be had. */
export async function fetchSkyPicture({ picture }: SkyInput): Promise<SkyPicture | undefined> {
  if (!picture) return undefined;
  const { hash } = picture;
  const known = kept.get(hash) ?? load(hash);
  kept.delete(hash);
  kept.set(hash, known);
  if (kept.size > MOST_KEPT) kept.delete([...kept.keys()][0]!);
  return known;
}

async function load(hash: string): Promise<SkyPicture | undefined> {
  const bytes = await fetchBytes(`/api/blobs/${hash}`);
  try {
    return bytes && isSkyPicture(bytes) ? decodeSkyPicture(bytes) : undefined;
  } catch {
    kept.delete(hash);
    return undefined;
  }
}
