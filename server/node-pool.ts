import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { KernelPool, type Thread } from '../core/kernel/pool';
import type { SceneMemory } from '../core/kernel/scene-memory';
import { worker } from './dist-paths';

/** A pool over worker_threads, one for each core. */
export function nodePool(scene: SceneMemory, threads = availableParallelism()): KernelPool {
  return new KernelPool(scene, spawnThread, threads);
}

function spawnThread(): Thread {
  const thread = new Worker(worker('kernel-thread'));
  return {
    post: (message) => {
      thread.postMessage(message);
    },
    listen: (handler) => {
      thread.on('message', handler);
    },
    terminate: () => void thread.terminate(),
  };
}
