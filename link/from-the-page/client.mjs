// A client of the link that was written from docs/link-protocol.md alone: it shares no code with the application.
// node client.mjs ws://HOST:PORT/link TOKEN: links a hut of one cube, changes it, comes back; prints what it was told, a JSON line each.
import { Buffer } from 'node:buffer';
import { createHash } from 'node:crypto';
import process from 'node:process';
import { deflateRawSync } from 'node:zlib';
import WebSocket from 'ws';

const [address, token] = process.argv.slice(2);

/** A cube of 1 m, as the page lays out mesh bytes: anticlockwise seen from outside. */
function cube() {
  const corners = [0, 1].flatMap((z) => [0, 1].flatMap((y) => [0, 1].map((x) => [x, y, z])));
  const sides = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]]; // prettier-ignore
  const triangles = sides.flatMap(([a, b, c, d]) => [a, b, c, a, c, d]);
  const bytes = Buffer.alloc(16 + corners.length * 12 + triangles.length * 4);
  bytes.write('DMSH', 0, 'ascii');
  [1, corners.length, triangles.length / 3].forEach((n, i) => bytes.writeUInt32LE(n, 4 + i * 4));
  corners.flat().forEach((n, i) => bytes.writeFloatLE(n, 16 + i * 4));
  triangles.forEach((n, i) => bytes.writeUInt32LE(n, 16 + corners.length * 12 + i * 4));
  return bytes;
}

const mesh = cube();
const hash = createHash('sha256').update(mesh).digest('hex');
const frame = (coding) => Buffer.concat([Buffer.from(hash, 'hex'), Buffer.from([coding]), coding ? deflateRawSync(mesh) : mesh]);

/** One connection: says hello, and gives messages one by one. */
async function connect(resume) {
  const socket = new WebSocket(address);
  const inbox = [];
  let wake = () => {};
  socket.on('message', (data) => {
    inbox.push(JSON.parse(data.toString()));
    wake();
  });
  await new Promise((resolve, reject) => {
    socket.once('open', resolve);
    socket.once('error', reject);
  });
  const say = (message) => socket.send(JSON.stringify(message));
  /** The next message of a type; `state` and `follow` may come at any time and are passed over. */
  const hear = async (type) => {
    for (;;) {
      const at = inbox.findIndex((message) => message.type === type);
      if (at >= 0) {
        const [message] = inbox.splice(at, 1);
        console.log(JSON.stringify(message));
        return message;
      }
      await new Promise((resolve) => (wake = resolve));
    }
  };
  say({ type: 'hello', protocol: 1, token, source: { id: 'hut', name: 'Hut', tool: 'By the page' }, resume });
  return {
    say,
    hear,
    send: (bytes) => socket.send(bytes),
    welcome: await hear('welcome'),
    ended: new Promise((resolve) => socket.once('close', resolve)),
  };
}

const identity = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const placedAt = (x) => identity.map((n, i) => (i === 12 ? x : n));
const element = (id, x) => ({
  id, name: `Cube ${id}`, class: 'Wall', storey: 'Ground', layer: 'Walls', option: null, phase: 'built',
  transform: placedAt(x), parts: [{ mesh: hash, material: 'larch' }],
}); // prettier-ignore

let link = await connect(null);
let sequence = link.welcome.sequence;
link.say({ type: 'offer', blobs: [hash] });
for (const blob of (await link.hear('need')).blobs) {
  if (blob !== hash || frame(1).length > link.welcome.windowBytes) throw new Error('not what was offered');
  link.send(frame(1));
  await link.hear('credit');
}
// A snapshot in two parts.
sequence++;
link.say({
  type: 'change', sequence, last: false,
  change: {
    reset: true, elements: [element('a', 0)], materials: [{ id: 'larch', name: 'Lärche 01', colour: [0.6, 0.5, 0.4] }],
    presentation: { hiddenLayers: [], options: [], option: null, phases: [{ id: 'built', name: 'Built' }], phase: 'built' },
  },
}); // prettier-ignore
link.say({
  type: 'change', sequence, last: true,
  change: {
    elements: [element('b', 2)], site: { name: 'Marram Landing', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: -12 },
    luminaires: [{ id: 'l', name: 'Lamp', circuit: 'Hall', position: [0, 0, 3], direction: [0, 0, -2], fluxLm: 900, colourTemperatureK: 3000, beamDeg: 360, dim: 1 }],
    cameras: [{ id: 'c', name: 'From the jetty', position: [9, 9, 2], target: [0, 0, 1], focalMm: 35 }],
    camera: { position: [9, 9, 2], target: [0, 0, 1], focalMm: 26 }, time: '2026-10-16T17:48',
  },
}); // prettier-ignore
await link.hear('ack');

// What the page says is refused, by its field.
const bad = [
  [{ time: '2026-99-99T99:99' }, 'change.time'],
  [{ elements: [{ ...element('x', 0), transform: identity.map(() => 0) }] }, 'change.elements.0.transform'],
  [{ elements: [element('x', 1e308)] }, 'change.elements.0.transform'],
  [{ luminaires: [{ id: 'l', name: 'Lamp', circuit: 'Hall', position: [0, 0, 3], direction: [0, 0, 0], fluxLm: 900, colourTemperatureK: 3000, beamDeg: 360, dim: 1 }] }, 'change.luminaires.0.direction'],
  [{ elements: [{ ...element('x', 0), parts: [{ mesh: hash.toUpperCase(), material: 'larch' }] }] }, 'change.elements.0.parts.0.mesh'],
  [{ colour: 1 }, 'change.colour'],
]; // prettier-ignore
for (const [change, field] of bad) {
  link.say({ type: 'change', sequence: sequence + 1, last: true, change });
  const refused = await link.hear('refused');
  if (refused.code !== 'invalid-message' || !refused.field.startsWith(field)) throw new Error(`${field}: ${JSON.stringify(refused)}`);
}
link.say({ type: 'change', sequence: 1e308, last: true, change: {} });
if ((await link.hear('refused')).field !== 'sequence') throw new Error('sequence');

// One comes and one goes in the same change: what is removed goes first.
link.say({ type: 'change', sequence: ++sequence, last: true, change: { remove: { elements: ['a', 'b'] }, elements: [element('b', 4)] } });
await link.hear('ack');
link.say({ type: 'bye' });
await link.ended;

link = await connect(sequence);
if (link.welcome.sequence !== sequence) throw new Error('it forgot what it had acknowledged');
link.say({ type: 'change', sequence: sequence + 1, last: true, change: { elements: [element('d', 6)] } });
await link.hear('ack');
link.say({ type: 'bye' });
await link.ended;
