import { createHash } from 'node:crypto';
import { parentPort } from 'node:worker_threads';
import { IfcAPI, LogLevel } from 'web-ifc';
import { hashMeshes, IfcError, readIfc } from '../../core/formats/ifc';
import { applyChange, differenceOf, EMPTY_MODEL, snapshotOf } from '../../core/model/model';
import type { ModelChange } from '../../core/model/schema';

/** Reads IFC files in a thread of its own, so that neither a big nor a broken file holds up the server. */

export interface IfcRequest {
  number: number;
  bytes: Uint8Array;
  fileName: string;
  /** What the project has of this file, as a snapshot, because only plain values travel between threads; null: nothing yet. */
  before: ModelChange | null;
}
export type IfcAnswer =
  | { number: number; ok: true; change: ModelChange; blobs: { hash: string; bytes: Uint8Array }[]; schema: string }
  | { number: number; ok: false; message: string };

const api = new IfcAPI();
const ready = api.Init().then(() => {
  api.SetLogLevel(LogLevel.LOG_LEVEL_OFF);
});

async function read({ number, bytes, fileName, before }: IfcRequest): Promise<IfcAnswer> {
  await ready;
  try {
    const { model: unhashed, meshes, schema } = readIfc(api, bytes, fileName);
    const hashes = new Map<string, string>();
    const blobs = new Map<string, Uint8Array>();
    for (const [key, mesh] of meshes) {
      const hash = createHash('sha256').update(mesh).digest('hex');
      hashes.set(key, hash);
      blobs.set(hash, mesh);
    }
    const model = hashMeshes(unhashed, hashes);
    const change = before ? differenceOf(applyChange(EMPTY_MODEL, before), model) : snapshotOf(model);
    return { number, ok: true, change, blobs: [...blobs].map(([hash, mesh]) => ({ hash, bytes: mesh })), schema };
  } catch (error) {
    return { number, ok: false, message: error instanceof IfcError ? error.message : `${fileName} could not be read; the parser stopped.` };
  }
}

parentPort!.on('message', (request: IfcRequest) => {
  void read(request).then((answer) => {
    parentPort!.postMessage(answer);
  });
});
