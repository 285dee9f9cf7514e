import { Worker } from 'node:worker_threads';
import { worker } from '../dist-paths';
import { serially } from '../../core/serially';
import type { FromPreviewWorker, Previewed, PreviewOrder } from './worker';

const IDLE_MS = 20_000;

/** A thread that makes one preview after the other; its kernel's memory is given back when nothing has been asked for a while. */
export class PreviewThread {
  private thread: Worker | undefined;
  private idle: NodeJS.Timeout | undefined;
  private isClosed = false;
  private readonly oneByOne = serially();

  /** PNG of a finish's test card, or of a thing; `blobs` is where their maps may lie. Rejects with a sentence. */
  make(what: Previewed, blobs: string): Promise<Uint8Array> {
    return this.oneByOne(() => this.ask({ ...what, blobs }));
  }

  /** Gives up what is being made, and makes no more. */
  close(): void {
    this.isClosed = true;
    this.rest();
  }

  private rest(): void {
    clearTimeout(this.idle);
    void this.thread?.terminate();
    this.thread = undefined;
  }

  private async ask(order: PreviewOrder): Promise<Uint8Array> {
    if (this.isClosed) throw new Error('The preview was given up.');
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
      thread.postMessage(order);
    });
    this.idle = setTimeout(() => {
      this.rest();
    }, IDLE_MS);
    this.idle.unref();
    if ('fault' in answer) throw new Error(answer.fault);
    return answer.png;
  }
}
