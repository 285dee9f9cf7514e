import { Worker } from 'node:worker_threads';
import { serially } from '../core/serially';
import type { Begun, FileAnswer, FileBlob, FileRequest, PropertiesAnswer, PropertiesRequest } from './reading-worker';

type Request = FileRequest | PropertiesRequest;
/** Without the number that the thread itself gives. */
type Unnumbered<R extends Request> = R extends Request ? Omit<R, 'number'> : never;

/** A parser that is still at it after so long is caught in a damaged file: several times what the slowest format takes on a slow computer. */
const LEAST_MS = 30_000;
const MS_A_MEGABYTE = 2000;
const MOST_MS = 10 * 60_000;

/** A parser that wants more ends its thread, not the server. */
const MEMORY = { maxOldGenerationSizeMb: 4096 };

/** A zip may hold five hundred times what it weighs. */
const limitOf = ({ bytes, fileName }: Unnumbered<Request>): number =>
  /\.(zip|3mf)$/i.test(fileName) ? MOST_MS : Math.min(MOST_MS, LEAST_MS + (bytes.byteLength / 1e6) * MS_A_MEGABYTE);

/** Reads files in a thread of its own, one after the other; a thread that stops or does not come to an end is replaced. */
export class ReadingThread {
  private thread: Worker | undefined;
  private number = 0;
  private readonly inOrder = serially();

  constructor(
    /** Where the build put reading-worker.ts. */
    private readonly script: string,
    private readonly limitMs: (request: Unnumbered<Request>) => number = limitOf,
  ) {}

  /** The model of a file, as a change of what was known before. `keep` takes its blobs while it is read. */
  model(request: Omit<FileRequest, 'kind' | 'number'>, keep: (hash: string, blob: Uint8Array) => void): Promise<FileAnswer> {
    return this.inOrder(() => this.ask<FileAnswer>({ kind: 'model', ...request }, (message) => ({ number: 0, ok: false, message }), keep)); // prettier-ignore
  }

  /** What a file says of its elements beside their shapes, as JSON; undefined: nothing. */
  async properties(fileName: string, bytes: Uint8Array): Promise<Uint8Array | undefined> {
    const nothing = () => ({ number: 0, properties: undefined });
    return (await this.inOrder(() => this.ask<PropertiesAnswer>({ kind: 'properties', fileName, bytes }, nothing))).properties;
  }

  close(): void {
    void this.thread?.terminate();
    this.thread = undefined;
  }

  private ask<Answer extends FileAnswer | PropertiesAnswer>(
    request: Unnumbered<Request>,
    failure: (sentence: string) => Answer,
    keep: (hash: string, blob: Uint8Array) => void = () => undefined,
  ): Promise<Answer> {
    const thread = (this.thread ??= new Worker(this.script, { resourceLimits: MEMORY }));
    const number = ++this.number;
    const limit = this.limitMs(request);
    return new Promise((resolve) => {
      const give = (answer: Answer) => {
        clearTimeout(timer);
        thread.off('message', heard);
        thread.off('error', stopped);
        thread.off('exit', stopped);
        resolve(answer);
      };
      let timer: ReturnType<typeof setTimeout> | undefined;
      const heard = (said: Answer | FileBlob | Begun) => {
        if (said.number !== number) return;
        if ('begun' in said) timer = setTimeout(tooLate, limit);
        else if ('blob' in said) keep(said.hash, said.blob);
        else give(said);
      };
      const fail = (sentence: string) => {
        if (this.thread === thread) this.thread = undefined;
        void thread.terminate();
        give(failure(sentence));
      };
      const stopped = () => {
        fail(`${request.fileName} could not be read; the parser stopped.`);
      };
      const tooLate = () => {
        fail(`${request.fileName} could not be read: the parser came to no end within ${String(Math.round(limit / 1000))} s. The file is probably damaged.`); // prettier-ignore
      };
      thread.on('message', heard);
      thread.on('error', stopped);
      thread.on('exit', stopped);
      thread.postMessage({ ...request, number });
    });
  }
}
