import { createHash } from 'node:crypto';
import { parentPort } from 'node:worker_threads';
import { IfcAPI, LogLevel } from 'web-ifc';
import { gltfReader, readGltf } from '../../core/formats/gltf';
import { readIfc } from '../../core/formats/ifc';
import { ModelFileError, withHashes, type ModelFile } from '../../core/formats/model-file';
import { applyChange, differenceOf, EMPTY_MODEL, snapshotOf } from '../../core/model/model';
import type { ModelChange } from '../../core/model/schema';

/** Reads model files in a thread of its own, so that neither a big nor a broken file holds up the server. */

export interface FileRequest {
  number: number;
  bytes: Uint8Array;
  fileName: string;
  /** What the project has of this file, as a snapshot, because only plain values travel between threads; null: nothing yet. */
  before: ModelChange | null;
}
export type FileAnswer =
  | { number: number; ok: true; change: ModelChange; blobs: { hash: string; bytes: Uint8Array }[]; format: string }
  | { number: number; ok: false; message: string };

async function startIfc(): Promise<IfcAPI> {
  const api = new IfcAPI();
  await api.Init();
  api.SetLogLevel(LogLevel.LOG_LEVEL_OFF);
  return api;
}

/** Parsers by the ending of a file's name; each is started when it is first needed. */
const ifc = once(startIfc);
const gltf = once(gltfReader);
const READERS: Readonly<Record<string, (bytes: Uint8Array, fileName: string) => Promise<ModelFile>>> = {
  ifc: async (bytes, fileName) => readIfc(await ifc(), bytes, fileName),
  glb: async (bytes, fileName) => readGltf(await gltf(), bytes, fileName),
  gltf: async (bytes, fileName) => readGltf(await gltf(), bytes, fileName),
};

function once<T>(start: () => Promise<T>): () => Promise<T> {
  let started: Promise<T> | undefined;
  return () => (started ??= start());
}

async function read({ number, bytes, fileName, before }: FileRequest): Promise<FileAnswer> {
  try {
    const reader = READERS[(/\.([^.]+)$/.exec(fileName)?.[1] ?? '').toLowerCase()];
    if (!reader) throw new ModelFileError(`${fileName} is of no kind that is read: ${Object.keys(READERS).join(', ')}.`);
    const { model: unhashed, meshes, pictures, format } = await reader(bytes, fileName);
    const hashes = new Map<string, string>();
    const blobs = new Map<string, Uint8Array>();
    for (const [key, blob] of [...meshes, ...pictures]) {
      const hash = createHash('sha256').update(blob).digest('hex');
      hashes.set(key, hash);
      blobs.set(hash, blob);
    }
    const model = withHashes(unhashed, (key) => hashes.get(key)!);
    const change = before ? differenceOf(applyChange(EMPTY_MODEL, before), model) : snapshotOf(model);
    return { number, ok: true, change, blobs: [...blobs].map(([hash, blob]) => ({ hash, bytes: blob })), format };
  } catch (error) {
    const told = error instanceof ModelFileError;
    return { number, ok: false, message: told ? error.message : `${fileName} could not be read; the parser stopped.` };
  }
}

parentPort!.on('message', (request: FileRequest) => {
  void read(request).then((answer) => {
    parentPort!.postMessage(answer);
  });
});
