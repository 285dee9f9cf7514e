import { createHash } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { readFile, rename, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { looksOf, type Finish } from '../../core/finish/finish';
import { worker } from '../dist-paths';
import { serially } from '../serially';
import type { FromPreviewWorker, PreviewOrder } from './worker';

/** Counts up when test cards come out differently, so that kept ones are made anew. */
const VERSION = 1;
const IDLE_MS = 20_000;

/** Pictures of finishes by the light kernel, made when they are first asked for and kept beside the project. */
export class Previews {
  private thread: Worker | undefined;
  private idle: NodeJS.Timeout | undefined;
  private readonly making = new Map<string, Promise<Uint8Array>>();
  private readonly oneByOne = serially();

  constructor(
    private readonly directory: string,
    private readonly blobs: string,
  ) {
    mkdirSync(directory, { recursive: true });
  }

  /** PNG of a finish's test card. */
  async of(finish: Finish): Promise<Uint8Array> {
    const hash = createHash('sha256')
      .update(JSON.stringify([VERSION, looksOf(finish)]))
      .digest('hex')
      .slice(0, 40);
    const file = path.join(this.directory, `${hash}.png`);
    const kept = await readFile(file).catch(() => undefined);
    if (kept) return kept;
    let making = this.making.get(hash);
    if (!making) {
      making = this.oneByOne(() => this.make(finish, file)).finally(() => this.making.delete(hash));
      this.making.set(hash, making);
    }
    return making;
  }

  close(): void {
    clearTimeout(this.idle);
    void this.thread?.terminate();
    this.thread = undefined;
  }

  private async make(finish: Finish, file: string): Promise<Uint8Array> {
    clearTimeout(this.idle);
    const thread = (this.thread ??= new Worker(worker('preview-worker')));
    const answer = await new Promise<FromPreviewWorker>((resolve, reject) => {
      const end = () => {
        this.thread = undefined;
        reject(new Error('The preview was given up.'));
      };
      thread.once('exit', end).once('message', (message: FromPreviewWorker) => {
        thread.off('exit', end);
        resolve(message);
      });
      thread.postMessage({ finish, blobs: this.blobs } satisfies PreviewOrder);
    });
    // The kernel's memory is given back when nobody looks at the library.
    this.idle = setTimeout(() => {
      this.close();
    }, IDLE_MS);
    this.idle.unref();
    if ('fault' in answer) throw new Error(answer.fault);
    await writeFile(`${file}.part`, answer.png);
    await rename(`${file}.part`, file);
    return answer.png;
  }
}
