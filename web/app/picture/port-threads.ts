import type { Thread } from '../../../core/kernel/pool';

/** The kernel's threads behind the ports that a page has given away, one after the other. */
export function portThreads(ports: MessagePort[]): () => Thread {
  const left = [...ports];
  return () => {
    const port = left.shift()!;
    return {
      post: (message) => {
        port.postMessage(message);
      },
      listen: (handler) => {
        port.onmessage = (event: MessageEvent<Parameters<typeof handler>[0]>) => {
          handler(event.data);
        };
      },
      terminate: () => {
        port.close();
      },
    };
  };
}
