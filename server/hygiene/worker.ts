import { readFileSync } from 'node:fs';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { decodeMesh, type Mesh } from '../../core/geometry/mesh';
import { checkModel, type Progress } from '../../core/hygiene/check';
import { brokenPictures } from './pictures';
import { applyChange, EMPTY_MODEL } from '../../core/model/model';
import type { ModelChange } from '../../core/model/schema';

/** Checks a project in a thread of its own and tells what it finds as it goes. */

export interface HygieneOrder {
  sources: { id: string; name: string; change: ModelChange }[];
  entries: [string, unknown][];
  /** Directory of the meshes. */
  blobs: string;
}

const { sources, entries, blobs } = workerData as HygieneOrder;
const meshes = new Map<string, Mesh | undefined>();

function meshOf(hash: string): Mesh | undefined {
  if (!meshes.has(hash)) {
    let mesh: Mesh | undefined;
    try {
      const read = decodeMesh(blobOf(hash));
      if (typeof read !== 'string') mesh = read;
    } catch {
      // Not there: the element is checked without it.
    }
    meshes.set(hash, mesh);
  }
  return meshes.get(hash);
}

const blobOf = (hash: string): Buffer => readFileSync(path.join(blobs, hash.slice(0, 2), hash));

function pictureOf(hash: string): Buffer | undefined {
  try {
    return blobOf(hash);
  } catch {
    return undefined;
  }
}

const models = sources.map(({ id, name, change }) => ({ id, name, model: applyChange(EMPTY_MODEL, change) }));
for (const progress of checkModel(models, new Map(entries), meshOf)) parentPort!.postMessage(progress satisfies Progress);
// Decoding takes longest.
for (const model of models) parentPort!.postMessage({ findings: await brokenPictures(model, pictureOf), done: 1 } satisfies Progress);
