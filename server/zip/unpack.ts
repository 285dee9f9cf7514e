import { Worker } from 'node:worker_threads';
import type { ZipFiles } from '../../core/formats/zip';
import { ModelFileError } from '../../core/formats/model-file';
import { worker } from '../dist-paths';
import type { FromZipWorker, ZipOrder } from './worker';

/** Longer than any honest zip of this size takes. */
const LIMIT_MS = 60_000;
const MEMORY = { maxOldGenerationSizeMb: 512 };

/** Unpacks a zip in a thread of its own, so that neither a large nor a broken one holds up the server. Rejects with ModelFileError. */
export function unpackZip(bytes: Uint8Array, fileName: string): Promise<ZipFiles> {
  const thread = new Worker(worker('zip-worker'), { workerData: { bytes, fileName } satisfies ZipOrder, resourceLimits: MEMORY });
  const files = new Map<string, Uint8Array<ArrayBuffer>>();
  return new Promise((resolve, reject) => {
    const fail = (sentence: string) => {
      end();
      reject(new ModelFileError(sentence));
    };
    const timer = setTimeout(() => {
      fail(`${fileName} could not be unpacked within ${String(LIMIT_MS / 1000)} s.`);
    }, LIMIT_MS);
    const end = () => {
      clearTimeout(timer);
      thread.removeAllListeners();
      // One that is ended while it fails must not end the server.
      thread.on('error', () => undefined);
      void thread.terminate();
    };
    thread.on('message', (message: FromZipWorker) => {
      if (message.type === 'file') files.set(message.name, message.bytes);
      else if (message.type === 'fault') fail(message.sentence);
      else {
        end();
        resolve({ names: new Set(files.keys()), read: (name) => files.get(name) });
      }
    });
    const stopped = () => {
      fail(`${fileName} could not be unpacked.`);
    };
    thread.on('error', stopped);
    thread.on('exit', stopped);
  });
}
