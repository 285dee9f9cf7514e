import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { afterEach, expect, it } from 'vitest';
import { WebSocket, WebSocketServer } from 'ws';
import { dropSilent } from './heartbeat';

const server = new WebSocketServer({ port: 0, host: '127.0.0.1' });
const stop = dropSilent(server, 300);
afterEach(() => {
  stop();
  server.close();
});

it('a client that answers stays, and a silent one is dropped', async () => {
  const open = (autoPong: boolean) => new WebSocket(`ws://127.0.0.1:${String((server.address() as AddressInfo).port)}`, { autoPong });
  const [there, silent] = [open(true), open(false)];
  let pings = 0;
  there.on('ping', () => pings++);
  await once(silent, 'close');
  await expect.poll(() => pings).toBeGreaterThan(2);
  expect(there.readyState).toBe(WebSocket.OPEN);
  there.terminate();
});
