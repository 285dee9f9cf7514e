import { createHash } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import { encodeMesh } from '../../core/geometry/mesh';
import { MeshBuilder } from '../../core/geometry/shapes';
import { testElement } from '../../core/model/testing';
import type { PrintsNow, PrintSummary, ToPage } from '../../core/project/live';
import type { PrintRequest } from '../../core/render/print';
import { SCREEN_WHITE } from '../../core/image/white-balance';
import { openAuthor, openPage, startServer, type Peer, type RunningServer } from '../testing/running-server';

/** A small scene, linked to a running server, and orders of pictures of it; for tests. */

/** A server over a folder with the scene, and a page that listens to it. */
export async function openYard(folder: string): Promise<{ server: RunningServer; page: Peer<ToPage> }> {
  const server = await startServer(folder);
  await linkYard(server);
  return { server, page: await openPage(server) };
}

const MESH = encodeMesh(new MeshBuilder().box([-20, -20, -0.2], [20, 20, 0]).box([-1, -1, 0], [1, 1, 2]).build());
const HASH = createHash('sha256').update(MESH).digest('hex');

async function linkYard(server: RunningServer): Promise<void> {
  const author = await openAuthor(server);
  author.send({ type: 'hello', protocol: 1, token: server.token, source: { id: 'yard', name: 'Yard', tool: 'Test' } });
  await author.next('welcome');
  author.socket.send(Buffer.concat([Buffer.from(HASH, 'hex'), Buffer.from([1]), deflateRawSync(MESH)]));
  author.send({
    type: 'change',
    sequence: 1,
    change: {
      reset: true,
      materials: [{ id: 'm', name: 'Plaster & <lime>', colour: [0.5, 0.5, 0.5] }],
      elements: [testElement('e', { parts: [{ mesh: HASH, material: 'm' }] })],
    },
  });
  await author.next('ack');
  author.close();
}

export const YARD_ORDER: PrintRequest = {
  name: 'North <yard> & "gate"',
  camera: { position: [6, -7, 3], target: [0, 0, 1], focalMm: 35 },
  width: 48, height: 27, quality: 'proof', seed: 7, denoise: false, ev100: 13, timeS: 0, white: SCREEN_WHITE,
}; // prettier-ignore

export const post = (server: RunningServer, address: string, body: unknown): Promise<Response> =>
  fetch(`${server.url}${address}`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) });

const OPEN = ['waiting', 'rendering'];

/** The prints once those of some ids have all ended, or are in a state that is waited for. */
export async function printsWhen(page: Peer<ToPage>, holds: (now: PrintsNow) => boolean): Promise<PrintsNow> {
  return page.next('prints', holds);
}
export const ended = (ids: readonly string[]) => (now: PrintsNow): boolean =>
  ids.every((id) => now.prints.some((print) => print.id === id && !OPEN.includes(print.state))); // prettier-ignore
export const are =
  (ids: readonly string[], state: PrintSummary['state']) =>
  ({ prints }: PrintsNow): boolean =>
    ids.every((id) => prints.some((print) => print.id === id && print.state === state));
export const printOf = ({ prints }: PrintsNow, id: string): PrintSummary => prints.find((print) => print.id === id)!;
