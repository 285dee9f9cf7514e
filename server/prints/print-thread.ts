import { Worker } from 'node:worker_threads';
import { worker } from '../dist-paths';
import type { FromPrintWorker, PrintInput } from './print-job';
import type { ToPrintWorker } from './worker';

/** So long after its last print the thread gives back what it keeps. */
const KEPT_MS = 60_000;

export interface PrintTold {
  message(message: FromPrintWorker): void;
  failed(error: Error): void;
}

/** The thread that prints, kept for the next one: what was read and computed once need not be again. */
export class PrintThread {
  private thread: Worker | undefined;
  private told: PrintTold | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;

  begin(input: PrintInput, told: PrintTold): void {
    clearTimeout(this.timer);
    this.told = told;
    this.thread ??= this.start();
    this.post({ type: 'print', input });
  }

  hold(ms: number): void {
    if (this.told) this.post({ type: 'hold', ms });
  }

  /** Its print is finished. */
  rest(): void {
    this.told = undefined;
    this.timer = setTimeout(() => void this.end(), KEPT_MS).unref();
  }

  /** In the midst of a print too. */
  async end(): Promise<void> {
    clearTimeout(this.timer);
    const { thread } = this;
    this.thread = this.told = undefined;
    await thread?.terminate();
  }

  private start(): Worker {
    const thread = new Worker(worker('print-worker'));
    // What a thread says that was ended in the meantime is of no print any more.
    thread.on('message', (message: FromPrintWorker) => {
      if (thread === this.thread) this.told?.message(message);
    });
    thread.on('error', (error) => {
      if (thread !== this.thread) return;
      const { told } = this;
      this.thread = this.told = undefined;
      told?.failed(error);
    });
    return thread;
  }

  private post(message: ToPrintWorker): void {
    this.thread?.postMessage(message);
  }
}
