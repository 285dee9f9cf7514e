import type { WebSocketServer } from 'ws';

/** Asks all clients now and then whether they are there, and drops those that did not answer the last time. Returns what ends it. */
export function dropSilent(sockets: WebSocketServer, everyMs: number): () => void {
  const asked = new WeakSet();
  const timer = setInterval(() => {
    for (const socket of sockets.clients) {
      if (asked.has(socket)) {
        socket.terminate();
        continue;
      }
      asked.add(socket);
      socket.once('pong', () => asked.delete(socket));
      socket.ping();
    }
  }, everyMs);
  return () => {
    clearInterval(timer);
  };
}
