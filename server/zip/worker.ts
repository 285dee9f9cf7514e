import { parentPort, workerData } from 'node:worker_threads';
import { ModelFileError } from '../../core/formats/model-file';
import { openZip } from '../../core/formats/zip';

/** Unpacks one zip, entry by entry; see unpack.ts. */

export interface ZipOrder {
  bytes: Uint8Array;
  fileName: string;
}
export type FromZipWorker =
  { type: 'file'; name: string; bytes: Uint8Array<ArrayBuffer> } | { type: 'fault'; sentence: string } | { type: 'done' };

const AT_ONCE = 50;
const { bytes, fileName } = workerData as ZipOrder;
const say = (message: FromZipWorker, transfer: ArrayBuffer[] = []) => {
  parentPort!.postMessage(message, transfer);
};
try {
  const zip = openZip(bytes, fileName);
  const names = [...zip.names];
  for (let i = 0; i < names.length; i += AT_ONCE)
    for (const [name, found] of zip.readSome(names.slice(i, i + AT_ONCE))) {
      const unpacked = new Uint8Array(found);
      say({ type: 'file', name, bytes: unpacked }, [unpacked.buffer]);
    }
  say({ type: 'done' });
} catch (error) {
  say({ type: 'fault', sentence: error instanceof ModelFileError ? error.message : `${fileName} is a broken or cut off zip.` });
}
