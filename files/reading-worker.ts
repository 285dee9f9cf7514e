import { parentPort } from 'node:worker_threads';
import { ModelFileError } from '../core/formats/model-file';
import { applyChange, differenceOf, EMPTY_MODEL, snapshotOf } from '../core/model/model';
import type { ModelChange } from '../core/model/schema';
import { readModelFile, readProperties, startParser } from './read-model';

/** Reads model files in a thread of its own, so that neither a big nor a broken file holds up the rest; see reading-thread.ts. */

export interface FileRequest {
  kind: 'model';
  number: number;
  bytes: Uint8Array;
  fileName: string;
  /** Where it lies, if it is watched; null: uploaded. */
  file: string | null;
  /** What the project has of this file, as a snapshot, because only plain values travel between threads; null: nothing yet. */
  before: ModelChange | null;
}
/** What the file says of its elements beside their shape; asked for once the model is on its way. */
export interface PropertiesRequest {
  kind: 'properties';
  number: number;
  bytes: Uint8Array;
  fileName: string;
}
export interface PropertiesAnswer {
  number: number;
  /** JSON by element; undefined: nothing, or not of this format. */
  properties: Uint8Array | undefined;
}
/** The thread and its parser are there; from now on the file's time counts. */
export interface Begun {
  number: number;
  begun: true;
}
/** A mesh or picture of a file that is still being read. */
export interface FileBlob {
  number: number;
  hash: string;
  blob: Uint8Array;
}
export type FileAnswer = { number: number; ok: true; change: ModelChange; format: string } | { number: number; ok: false; message: string };

async function read({ number, bytes, fileName, file, before: snapshot }: FileRequest): Promise<FileAnswer> {
  try {
    const before = snapshot ? applyChange(EMPTY_MODEL, snapshot) : undefined;
    const keep = (hash: string, blob: Uint8Array): void => {
      parentPort!.postMessage({ number, hash, blob } satisfies FileBlob);
    };
    const { model, format } = await readModelFile({ bytes, fileName, file, before, keep });
    const change = before ? differenceOf(before, model) : snapshotOf(model);
    return { number, ok: true, change, format };
  } catch (error) {
    if (!(error instanceof ModelFileError)) console.error('file:', fileName, error);
    const message = error instanceof ModelFileError ? error.message : `${fileName} could not be read; the parser stopped.`;
    return { number, ok: false, message };
  }
}

async function properties({ number, bytes, fileName }: PropertiesRequest): Promise<PropertiesAnswer> {
  try {
    const found = await readProperties(bytes, fileName);
    return { number, properties: found && new TextEncoder().encode(JSON.stringify(found)) };
  } catch (error) {
    console.error('file:', fileName, error);
    return { number, properties: undefined };
  }
}

parentPort!.on('message', (request: FileRequest | PropertiesRequest) => {
  void (async () => {
    await startParser(request.fileName);
    parentPort!.postMessage({ number: request.number, begun: true } satisfies Begun);
    parentPort!.postMessage(await (request.kind === 'model' ? read(request) : properties(request)));
  })();
});
