import { type KernelExports, instantiateKernel } from './kernel';

/** Work that is cut into numbered pieces; any thread may take any piece, the result is the same. */
export type Task =
  | { kind: 'render'; width: number; height: number; tile: number; first: number; count: number }
  | { kind: 'features'; width: number; height: number; tile: number; first: number; count: number }
  | { kind: 'seen'; width: number; height: number; tile: number }
  | { kind: 'channels'; width: number; height: number; tile: number; out: number }
  | { kind: 'prepare-moving'; height: number; rows: number; job: number }
  | { kind: 'join-moving'; height: number; rows: number; job: number }
  /** `width` and `height` in pixels of the network's picture, which begins at `left`, `top` of the film. */
  | { kind: 'network-input'; height: number; rows: number; left: number; top: number; width: number; scale: number; target: number }
  /** `height` in tiles of two rows. */
  | { kind: 'convolve'; height: number; rows: number; layer: number }
  | {
      kind: 'network-output';
      height: number;
      rows: number;
      left: number;
      top: number;
      width: number;
      scale: number;
      source: number;
      line: number;
      inset: number;
      above: number;
      out: number;
    }
  /** `height` points. */
  | { kind: 'bake'; height: number; rows: number; points: number; count: number; out: number }
  | { kind: 'mean-radiance'; height: number; rows: number; out: number };

export type ToThread =
  | { type: 'start'; module: WebAssembly.Module; memory: WebAssembly.Memory; scene: number; scratch: number; control: number }
  | { type: 'run'; tasks: readonly Task[]; generation: number };
export type FromThread = { type: 'ready' } | { type: 'done'; generation: number };

/** Words of the control block in shared memory. Pieces are numbered and counted through all tasks of a run. */
export const CONTROL_NEXT = 0;
export const CONTROL_GENERATION = 1;
export const CONTROL_DONE = 2;
/** 1: no further piece is begun for now. */
export const CONTROL_HELD = 3;
export const CONTROL_BYTES = 64;

/** A thread that is held, or waits for others, looks this often whether its task has been cancelled. */
const LOOK_UP_MS = 50;

/** A message port as browser workers and worker_threads both have it. */
export interface ThreadPort<Out, In> {
  post(message: Out): void;
  listen(handler: (message: In) => void): void;
}

/** Cut into squares; other tasks are cut into rows. */
const isTiled = (task: Task): task is Extract<Task, { tile: number }> => 'tile' in task;

export function pieceCount(task: Task): number {
  if (isTiled(task)) return Math.ceil(task.width / task.tile) * Math.ceil(task.height / task.tile);
  return Math.ceil(task.height / task.rows);
}

/** Number of the first piece of each task of a run, and behind them that of all. */
export function firstPieces(tasks: readonly Task[]): number[] {
  const first = [0];
  for (const task of tasks) first.push(first.at(-1)! + pieceCount(task));
  return first;
}

export function runPiece(kernel: KernelExports, scene: number, task: Task, piece: number): void {
  if (isTiled(task)) {
    const columns = Math.ceil(task.width / task.tile);
    const x0 = (piece % columns) * task.tile;
    const y0 = Math.floor(piece / columns) * task.tile;
    const x1 = Math.min(task.width, x0 + task.tile);
    const y1 = Math.min(task.height, y0 + task.tile);
    if (task.kind === 'seen') kernel.renderSeen(scene, x0, y0, x1, y1);
    else if (task.kind === 'channels') kernel.renderChannels(scene, x0, y0, x1, y1, task.out);
    else if (task.kind === 'features') kernel.renderFeatures(scene, x0, y0, x1, y1, task.first, task.count);
    else kernel.renderTile(scene, x0, y0, x1, y1, task.first, task.count);
    return;
  }
  const y0 = piece * task.rows;
  const y1 = Math.min(task.height, y0 + task.rows);
  if (task.kind === 'network-input') kernel.networkInput(scene, task.left, task.top, task.width, y0, y1, task.scale, task.target);
  else if (task.kind === 'prepare-moving') kernel.prepareMoving(task.job, y0, y1);
  else if (task.kind === 'join-moving') kernel.joinMoving(scene, task.job, y0, y1);
  else if (task.kind === 'bake') kernel.bakeLight(scene, task.points, y0, y1, task.count, task.out);
  else if (task.kind === 'convolve') kernel.convolve(task.layer, y0, y1);
  else if (task.kind === 'mean-radiance') kernel.meanRadiance(scene, y0, y1, task.out);
  else {
    const { left, top, width, scale, source, line, inset, above, out } = task;
    kernel.networkOutput(scene, left, top, width, y0, y1, scale, source, line, inset, above, out);
  }
}

/** A render thread's whole life: take pieces until none are left or the generation has moved on. */
export function runThread(port: ThreadPort<FromThread, ToThread>): void {
  let kernel: KernelExports | undefined;
  let memory: WebAssembly.Memory | undefined;
  let scene = 0;
  let control = 0;
  port.listen((message) => {
    if (message.type === 'start') {
      kernel = instantiateKernel(message.module, message.memory);
      kernel.attach(message.scene, message.scratch);
      ({ memory, scene, control } = message);
      port.post({ type: 'ready' });
      return;
    }
    const words = new Int32Array(memory!.buffer, control, CONTROL_BYTES / 4);
    const first = firstPieces(message.tasks);
    const goesOn = () => Atomics.load(words, CONTROL_GENERATION) === message.generation;
    /** Whether so many pieces are done, waited for. */
    const awaited = (pieces: number): boolean => {
      for (let done = Atomics.load(words, CONTROL_DONE); done < pieces; done = Atomics.load(words, CONTROL_DONE)) {
        if (!goesOn()) return false;
        Atomics.wait(words, CONTROL_DONE, done, LOOK_UP_MS);
      }
      return true;
    };
    while (goesOn()) {
      if (Atomics.wait(words, CONTROL_HELD, 1, LOOK_UP_MS) !== 'not-equal') continue;
      const piece = Atomics.add(words, CONTROL_NEXT, 1);
      if (piece >= first.at(-1)!) break;
      // A task begins when all before it are done.
      const at = first.findLastIndex((start) => start <= piece);
      if (!awaited(first[at]!)) break;
      runPiece(kernel!, scene, message.tasks[at]!, piece - first[at]!);
      Atomics.add(words, CONTROL_DONE, 1);
      Atomics.notify(words, CONTROL_DONE);
    }
    port.post({ type: 'done', generation: message.generation });
  });
}
