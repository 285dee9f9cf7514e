import type { SceneMemory } from './scene-memory';
import {
  CONTROL_BYTES,
  CONTROL_DONE,
  CONTROL_GENERATION,
  CONTROL_HELD,
  CONTROL_NEXT,
  firstPieces,
  pieceCount,
  runPiece,
  type FromThread,
  type Task,
  type ThreadPort,
  type ToThread,
} from './thread';

/** A started thread, whatever it runs on. */
export interface Thread extends ThreadPort<ToThread, FromThread> {
  terminate(): void;
}

/** Threads over one scene. Without any, the caller's own thread does the work. */
export class KernelPool {
  private readonly control: number;
  private readonly threads: Thread[];
  private readonly ready: Promise<void>;
  private generation = 0;
  private busy: { remaining: number; resolve: () => void } | undefined;

  constructor(
    readonly scene: SceneMemory,
    spawn: () => Thread,
    count: number,
  ) {
    this.control = scene.memory.allocate(CONTROL_BYTES);
    this.threads = Array.from({ length: count }, spawn);
    this.ready = Promise.all(
      this.threads.map(
        (thread) =>
          new Promise<void>((resolve) => {
            thread.listen((message) => {
              if (message.type === 'ready') resolve();
              else this.finishOne();
            });
            thread.post({
              type: 'start',
              module: scene.module,
              memory: scene.memory.memory,
              scene: scene.scene,
              scratch: scene.newScratch(),
              control: this.control,
            });
          }),
      ),
    ).then(() => undefined);
  }

  /** Runs tasks to their end, one after the other; false if they were cancelled on the way. One run at a time. */
  async run(...tasks: readonly Task[]): Promise<boolean> {
    await this.ready;
    if (this.threads.length === 0) {
      for (const task of tasks)
        for (let piece = 0; piece < pieceCount(task); piece++) runPiece(this.scene.kernel, this.scene.scene, task, piece);
      return true;
    }
    if (this.busy) throw new Error('The pool is already running tasks.');
    const generation = ++this.generation;
    const words = this.words();
    Atomics.store(words, CONTROL_NEXT, 0);
    Atomics.store(words, CONTROL_DONE, 0);
    Atomics.store(words, CONTROL_GENERATION, generation);
    await new Promise<void>((resolve) => {
      this.busy = { remaining: this.threads.length, resolve };
      for (const thread of this.threads) thread.post({ type: 'run', tasks, generation });
    });
    this.busy = undefined;
    return Atomics.load(this.words(), CONTROL_DONE) === firstPieces(tasks).at(-1);
  }

  /** Makes the running tasks end after the pieces in hand; its promise then resolves to false. */
  cancel(): void {
    if (this.busy) Atomics.store(this.words(), CONTROL_GENERATION, -1);
  }

  /** Lets threads end the pieces in hand and wait, or go on; what others do then has the processor to itself. */
  hold(held: boolean): void {
    const words = this.words();
    Atomics.store(words, CONTROL_HELD, held ? 1 : 0);
    if (!held) Atomics.notify(words, CONTROL_HELD);
  }

  close(): void {
    for (const thread of this.threads) thread.terminate();
  }

  private finishOne(): void {
    if (this.busy && --this.busy.remaining === 0) this.busy.resolve();
  }

  private words(): Int32Array {
    return new Int32Array(this.scene.memory.memory.buffer, this.control, CONTROL_BYTES / 4);
  }
}
