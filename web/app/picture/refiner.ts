import type { FromRefiner, ToRefiner } from './refine-messages';

const ACTS = ['pointerdown', 'pointerup', 'keydown', 'wheel', 'input', 'change'] as const;

/** Starts the refining worker and its render threads. Threads are spawned by the page, because not every browser lets a worker do it. */
export class Refiner {
  private readonly worker = new Worker(new URL('./refine.worker', import.meta.url), { type: 'module' });
  private readonly threads: Worker[] = [];
  private readonly held: [ToRefiner, Transferable[]][] = [];
  private started = false;

  constructor(hear: (message: FromRefiner) => void) {
    this.worker.onmessage = ({ data }: MessageEvent<FromRefiner>) => {
      hear(data);
    };
    this.worker.onerror = () => {
      hear({ type: 'fault', message: 'The refining worker stopped; reload the page.' });
    };
    if (!globalThis.crossOriginIsolated) {
      hear({ type: 'fault', message: 'This browser does not share memory between threads here, so the picture is not refined.' });
    }
    void this.start(hear);
    for (const kind of ACTS) document.addEventListener(kind, this.yield, { capture: true, passive: true });
  }

  /** What a person does has the processor to itself for a moment. */
  private readonly yield = () => {
    if (this.started) this.worker.postMessage({ type: 'hold' } satisfies ToRefiner);
  };

  send(message: ToRefiner, transfer: Transferable[] = []): void {
    // Fetching needs no kernel; the rest waits for it.
    if (this.started || message.type.startsWith('need-')) this.worker.postMessage(message, transfer);
    else this.held.push([message, transfer]);
  }

  close(): void {
    for (const kind of ACTS) document.removeEventListener(kind, this.yield, { capture: true });
    this.worker.terminate();
    for (const thread of this.threads) thread.terminate();
  }

  private async start(hear: (message: FromRefiner) => void): Promise<void> {
    try {
      const module = await WebAssembly.compileStreaming(fetch('/kernel.wasm'));
      const ports = Array.from({ length: Math.max(1, Math.min(16, navigator.hardwareConcurrency)) }, () => this.spawn());
      this.worker.postMessage({ type: 'start', module, ports } satisfies ToRefiner, ports);
      this.started = true;
      for (const [message, transfer] of this.held.splice(0)) this.worker.postMessage(message, transfer);
    } catch {
      hear({ type: 'fault', message: 'The light kernel could not be started in this browser; the picture is not refined.' });
    }
  }

  private spawn(): MessagePort {
    const thread = new Worker(new URL('./kernel.worker', import.meta.url), { type: 'module' });
    const { port1, port2 } = new MessageChannel();
    thread.postMessage(port1, [port1]);
    this.threads.push(thread);
    return port2;
  }
}
