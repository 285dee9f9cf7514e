import { parentPort } from 'node:worker_threads';
import { runThread } from '../core/kernel/thread';

/** A render thread on the server. */
runThread({
  post: (message) => {
    parentPort!.postMessage(message);
  },
  listen: (handler) => {
    parentPort!.on('message', handler);
  },
});
