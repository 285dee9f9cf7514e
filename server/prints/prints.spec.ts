import { randomUUID } from 'node:crypto';
import { existsSync, readdirSync } from 'node:fs';
import path from 'node:path';
import { strFromU8, unzipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WalkWay } from '../../core/camera/walk';
import type { Command } from '../../core/project/command';
import type { PrintSummary, ToPage } from '../../core/project/live';
import type { PrintRequest } from '../../core/render/print';
import { openPage, removeFolder, say, startServer, temporaryFolder, type Peer, type RunningServer } from '../testing/running-server';
import { openYard, post as postTo, YARD_ORDER } from './yard';

/** Prints of a small scene, ordered over the public interface of the built server. */

const folder = temporaryFolder();
let server: RunningServer;
let page: Peer<ToPage>;

beforeAll(async () => {
  ({ server, page } = await openYard(folder));
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
});

const ORDER = YARD_ORDER;
const post = (body: unknown) => postTo(server, '/api/prints', body);

async function order(extra: Partial<PrintRequest> = {}): Promise<string> {
  const response = await post({ ...ORDER, ...extra });
  expect(response.status).toBe(201);
  return ((await response.json()) as { id: string }).id;
}
const ended = async (id: string, from: Peer<ToPage> = page): Promise<PrintSummary> => {
  const of = (prints: readonly PrintSummary[]) => prints.find((p) => p.id === id && !['waiting', 'rendering'].includes(p.state));
  return of((await from.next('prints', (m) => of(m.prints) !== undefined)).prints)!;
};
async function pictureOf(id: string): Promise<Buffer> {
  const response = await fetch(`${server.url}/api/prints/${id}/picture.png`);
  expect(response.status).toBe(200);
  return Buffer.from(await response.arrayBuffer());
}
/** Gives the source material a finish, or takes it off. */
async function assign(material: string, finish: string | null): Promise<void> {
  await told({ type: 'assign-finish', source: 'yard', material, finish });
}
async function told(command: Command): Promise<void> {
  const from = page.received.length;
  page.send({ type: 'command', id: randomUUID(), command });
  await page.next('changes', () => true, from);
}
const pixels = (png: Buffer) => sharp(png).removeAlpha().raw().toBuffer();

describe('a print', () => {
  it('show what their view shows, whatever is shown now', async () => {
    const shown = { visibility: { decisions: {}, isolated: ['class/Nothing'] }, variants: {} };
    const none = await postTo(server, '/api/prints', { ...YARD_ORDER, shown });
    expect([none.status, await none.text()]).toEqual([409, expect.stringContaining('There is nothing to print yet')]);
  });

  it('is a PNG of the size asked for, with its data as XMP, and a thumbnail', async () => {
    const id = await order();
    expect(await ended(id)).toMatchObject({ state: 'finished', progress: 1, name: ORDER.name, seed: 7, fault: null });
    const png = await pictureOf(id);
    const metadata = await sharp(png).metadata();
    expect(metadata).toMatchObject({ format: 'png', width: 48, height: 27 });
    const xmp = metadata.xmpAsString!;
    for (const piece of [
      '<dp:View>North &lt;yard&gt; &amp; &quot;gate&quot;</dp:View>', '<dp:FocalLengthMm>35<', '<dp:LocalTime>2026-10-16 14:40 Europe/London<',
      '<dp:ExposureEv100>13.00<', '<dp:Revision>yard 1<', '<dp:Samples>32<', '<dp:Seed>7<', '<dp:Denoised>no<',
    ])
      expect(`${piece} ${String(xmp.includes(piece))}`).toBe(`${piece} true`); // prettier-ignore
    const thumb = await fetch(`${server.url}/api/prints/${id}/thumb.png`);
    expect(await sharp(Buffer.from(await thumb.arrayBuffer())).metadata()).toMatchObject({ format: 'png', width: 320 });
  });

  it('is the same to the last bit for the same seed, and another for another', async () => {
    // Between them one of another kind, by the same thread.
    const [a, other, b, c] = [await order(), await order({ projection: { kind: 'equirectangular' }, width: 64, height: 32, denoise: true, timeS: 3 }), await order(), await order({ seed: 8 })]; // prettier-ignore
    for (const id of [a, other, b, c]) await ended(id);
    const [first, second, third] = await Promise.all([a, b, c].map(async (id) => pixels(await pictureOf(id))));
    expect(first!.equals(second!)).toBe(true);
    expect(first!.equals(third!)).toBe(false);
    // Two seeds show the same building: they differ by noise only.
    const difference = first!.reduce((sum, v, i) => sum + Math.abs(v - third![i]!), 0) / first!.length;
    expect(difference).toBeLessThan(8);
  });

  it('that a killed server left goes on where it was, and ends as if nothing had been', async () => {
    const size = { width: 96, height: 54, quality: 'standard' as const };
    const whole = await order(size);
    await ended(whole);
    const reference = await pixels(await pictureOf(whole));
    const id = await order(size);
    await expect.poll(() => existsSync(path.join(folder, 'prints', `${id}.film`)), { interval: 20 }).toBe(true);
    await server.kill('SIGKILL');
    server = await startServer(folder);
    page = await openPage(server);
    expect((await ended(id)).state).toBe('finished');
    const resumed = await pixels(await pictureOf(id));
    // Sums of floats in another grouping may round differently: at most one step of 255, and hardly anywhere.
    let worst = 0;
    for (let i = 0; i < resumed.length; i++) worst = Math.max(worst, Math.abs(resumed[i]! - reference[i]!));
    expect(worst).toBeLessThanOrEqual(1);
  });

  it('waits for the one before it, and can be cancelled while it waits or renders', async () => {
    const long = await order({ width: 800, height: 450, quality: 'fine' });
    const waiting = await order();
    await page.next('prints', (m) => m.prints.some((p) => p.id === waiting && p.state === 'waiting'));
    await fetch(`${server.url}/api/prints/${waiting}/cancel`, { method: 'POST' });
    expect((await ended(waiting)).state).toBe('cancelled');
    await fetch(`${server.url}/api/prints/${long}/cancel`, { method: 'POST' });
    expect((await ended(long)).state).toBe('cancelled');
    expect((await fetch(`${server.url}/api/prints/${long}/picture.png`)).status).toBe(404);
    const next = await order();
    expect((await ended(next)).state).toBe('finished');
  });

  it('tells the seconds that are left while it renders', async () => {
    const id = await order({ width: 320, height: 180, quality: 'fine' });
    const message = await page.next('prints', (m) => m.prints.some((p) => p.id === id && p.progress > 0 && p.secondsLeft !== null));
    const print = message.prints.find((p) => p.id === id)!;
    expect(print.secondsLeft).toBeGreaterThan(0);
    expect(print.progress).toBeLessThan(1);
    await fetch(`${server.url}/api/prints/${id}`, { method: 'DELETE' });
    await page.next('prints', (m) => m.prints.every((p) => p.id !== id), page.received.indexOf(message));
  });
});

describe('a walk', () => {
  const stops = [
    ORDER.camera,
    { position: [2, -8, 2] as [number, number, number], target: [0, 0, 1] as [number, number, number], focalMm: 28 },
  ];
  const WALK = { stops, seconds: 0.2, eased: false, framesPerSecond: 25, metered: false, meteredWhite: false } as const;
  const framesOf = async (id: string) => {
    const response = await fetch(`${server.url}/api/prints/${id}/pictures.zip`);
    expect(response.status).toBe(200);
    return unzipSync(new Uint8Array(await response.arrayBuffer()));
  };

  it('is numbered pictures in a zip, and a moving one of them', async () => {
    const id = await order({ walk: { ...WALK, stops: [...stops] } });
    expect(await ended(id)).toMatchObject({ state: 'finished', progress: 1, frames: 5, samples: 32 });
    const files = await framesOf(id);
    expect(Object.keys(files)).toEqual(['about.json', '00001.png', '00002.png', '00003.png', '00004.png', '00005.png']);
    expect(JSON.parse(strFromU8(files['about.json']!))).toMatchObject({ FramesPerSecond: '25', Frames: '5', View: ORDER.name });
    const moving = await sharp(Buffer.from(await (await fetch(`${server.url}/api/prints/${id}/moving.webp`)).arrayBuffer())).metadata();
    expect(moving).toMatchObject({ format: 'webp', pages: 5, delay: [40, 40, 40, 40, 40], width: 48 });
    expect((await fetch(`${server.url}/api/prints/${id}/picture.png`)).status).toBe(404);
    // Nothing is left beside them, and nothing at all once it is deleted.
    expect(existsSync(path.join(folder, 'prints', `${id}.frames`))).toBe(false);
    await fetch(`${server.url}/api/prints/${id}`, { method: 'DELETE' });
    expect(readdirSync(path.join(folder, 'prints')).filter((name) => name.startsWith(id))).toEqual([]);
  });

  it('is exact to the frame: water and camera are, in each picture, as in a still of that place and moment', async () => {
    await assign('m', 'water-pool');
    const walk = { ...WALK, stops: [...stops] };
    const id = await order({ walk, timeS: 3 });
    await ended(id);
    const files = await framesOf(id);
    const way = new WalkWay(walk);
    for (const number of [1, 4]) {
      const still = await order({ camera: way.cameraAt(number / 25), timeS: 3 + number / 25 });
      await ended(still);
      const [alone, frame] = [await pixels(await pictureOf(still)), await pixels(Buffer.from(files[`0000${String(number + 1)}.png`]!))];
      expect(alone.equals(frame)).toBe(true);
    }
    // A moment later it is another picture.
    const later = await order({ camera: way.cameraAt(1 / 25), timeS: 3 + 2 / 25 });
    await ended(later);
    expect((await pixels(await pictureOf(later))).equals(await pixels(Buffer.from(files['00002.png']!)))).toBe(false);
    await assign('m', null);
  });

  it('is exposed for each place on its way where it is metered, whatever the order says for the rest', async () => {
    const brightness = async (metered: boolean) => {
      const id = await order({ walk: { ...WALK, stops: [...stops], seconds: 0.1, metered, meteredWhite: false }, ev100: 4 });
      await ended(id);
      const files = await framesOf(id);
      const texels = await Promise.all(['00001.png', '00002.png'].map((name) => pixels(Buffer.from(files[name]!))));
      return texels.map((t) => t.reduce((sum, value) => sum + value, 0) / t.length);
    };
    // A day's light at an exposure for dusk is all white.
    for (const mean of await brightness(false)) expect(mean).toBeGreaterThan(235);
    for (const mean of await brightness(true)) {
      expect(mean).toBeGreaterThan(70);
      expect(mean).toBeLessThan(200);
    }
  });

  it('is seen under what its stops tell: each picture as a still under that condition, at the time that the sun has run to', async () => {
    for (const [id, minutes] of [['noon', 720], ['half past', 750], ['evening', 1200]] as const) {
      await told({ type: 'set-sun', date: '2026-06-21', minutes });
      await told({ type: 'keep-condition', id, name: id, parts: ['sun'] });
    }
    const { camera } = ORDER;
    const lit = [{ ...camera, condition: 'noon' }, { ...camera, minutes: 780 }, { ...camera, by: 'cut' as const, condition: 'evening', holdS: 0.08 }];
    const id = await order({ walk: { ...WALK, stops: lit, seconds: 0.16 }, camera });
    await ended(id);
    const files = await framesOf(id);
    for (const [frame, condition] of [[1, 'noon'], [3, 'half past'], [6, 'evening']] as const) {
      const still = await order({ camera, condition });
      await ended(still);
      expect([condition, (await pixels(await pictureOf(still))).equals(await pixels(Buffer.from(files[`0000${String(frame)}.png`]!)))]).toEqual([condition, true]);
    }
    const refused = await post({ ...ORDER, walk: { ...WALK, stops: [{ ...camera, condition: 'dropped' }, camera] } });
    expect([refused.status, ((await refused.json()) as { message: string }).message]).toEqual([409, 'The condition of this picture has been dropped meanwhile.']);
  }); // prettier-ignore

  it('that a killed server left goes on with the picture it was at, and ends as if nothing had been', async () => {
    const wanted = { walk: { ...WALK, stops: [...stops] }, width: 64, height: 36 };
    const whole = await order(wanted);
    await ended(whole);
    const reference = await framesOf(whole);
    const id = await order(wanted);
    await expect.poll(() => existsSync(path.join(folder, 'prints', `${id}.frames`, '00002.png')), { interval: 20 }).toBe(true);
    await server.kill('SIGKILL');
    server = await startServer(folder);
    page = await openPage(server);
    expect(await ended(id)).toMatchObject({ state: 'finished', frames: 5 });
    const resumed = await framesOf(id);
    expect(Object.keys(resumed)).toEqual(Object.keys(reference));
    for (const name of Object.keys(reference).slice(1)) {
      const [a, b] = [await pixels(Buffer.from(reference[name]!)), await pixels(Buffer.from(resumed[name]!))];
      expect(a.reduce((worst, value, i) => Math.max(worst, Math.abs(value - b[i]!)), 0)).toBeLessThanOrEqual(1);
    }
  });

  it('is refused by the field that is wrong', async () => {
    for (const [walk, word] of [[{ ...WALK, seconds: 0 }, 'seconds'], [{ ...WALK, stops: stops.slice(1) }, 'stops'], [{ ...WALK, framesPerSecond: 23 }, 'framesPerSecond'], [{ ...WALK, seconds: 600, framesPerSecond: 30 }, '6000 pictures']] as const) {
      const response = await post({ ...ORDER, walk });
      expect([response.status, ((await response.json()) as { message: string }).message.includes(word)]).toEqual([400, true]);
    }
  }); // prettier-ignore
});

describe('an order that leaves the exposure open', () => {
  it('has what its view holds, and the file says what it was developed with', async () => {
    const { name } = ORDER;
    const page = await openPage(server);
    await page.next('project');
    say(page, {
      type: 'command',
      id: 'held',
      command: { type: 'hold-exposure', view: name, exposure: { ev100: 4, white: { kelvin: 3200, tint: 0 } } },
    });
    await page.next('changes', ({ reply }) => reply === 'held');
    const open = { ...ORDER, ev100: undefined, white: undefined };
    const told = async (order: object) => {
      const { id } = (await (await post(order)).json()) as { id: string };
      await ended(id);
      const bytes = Buffer.from(await (await fetch(`${server.url}/api/prints/${id}/picture`)).arrayBuffer());
      return (await sharp(bytes).metadata()).xmpAsString!;
    };
    const held = await told(open);
    expect(held).toContain('<dp:ExposureEv100>4.00<');
    expect(/<dp:WhiteKelvin>(\d+)</.exec(held)![1]).toMatch(/^3[12]\d\d$/);
    expect(await told({ ...open, name: 'Another view' })).toMatch(/<dp:ExposureEv100>-?\d+\.\d\d</);
    page.close();
  });
});

describe('an order for later', () => {
  it('begins at its time, whatever the zone that it is told in, and waits without work', async () => {
    const soon = new Date(Date.now() + 3_600_000);
    const told = (hours: number, between: string) => {
      const local = new Date(soon.getTime() + hours * 3_600_000).toISOString().slice(0, 19);
      return `${local.replace('T', between)}${hours < 0 ? '-' : '+'}${String(Math.abs(hours)).padStart(2, '0')}:00`;
    };
    for (const startAt of [told(-12, 'T'), told(13, 'T'), told(0, ' ')]) {
      const response = await post({ order: ORDER, startAt });
      expect(response.status).toBe(201);
      const { id } = (await response.json()) as { id: string };
      const print = (await openPage(server).then((page) => page.next('prints'))).prints.find((each) => each.id === id)!;
      expect([print.state, print.startAt]).toEqual(['waiting', `${soon.toISOString().slice(0, 19)}.000Z`]);
      await fetch(`${server.url}/api/prints/${id}`, { method: 'DELETE' });
    }
  });
});

describe('an order that cannot be kept', () => {
  it('is refused where its option or section is not there', async () => {
    for (const [gone, words] of [[{ option: { source: 'yard', option: 'gone' } }, 'option'], [{ sections: ['gone'] }, 'section']] as const) {
      const response = await post({ ...ORDER, ...gone });
      expect([response.status, ((await response.json()) as { message: string }).message.includes(words)]).toEqual([409, true]);
    }
  }); // prettier-ignore

  it('is refused by the field that is wrong', async () => {
    const message = async (body: unknown) => {
      const response = await post(body);
      expect(response.status).toBe(400);
      return ((await response.json()) as { message: string }).message;
    };
    expect(await message({ ...ORDER, width: 8193 })).toContain('width');
    expect(await message({ ...ORDER, height: 0 })).toContain('height');
    expect(await message({ ...ORDER, quality: 'best' })).toContain('quality');
    expect(await message({ ...ORDER, seed: -1 })).toContain('seed');
    expect(await message({ ...ORDER, name: '' })).toContain('name');
    expect(await message({ ...ORDER, camera: { ...ORDER.camera, focalMm: 1 } })).toContain('camera.focalMm');
    expect(await message({ ...ORDER, extra: 1 })).toContain('extra');
  });

  it('is refused with a sentence while there is no model', async () => {
    const empty = temporaryFolder();
    const other = await startServer(empty);
    const response = await fetch(`${other.url}/api/prints`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(ORDER),
    });
    expect(response.status).toBe(409);
    expect(await response.json()).toEqual({ message: 'There is nothing to print yet: link a model first.' });
    await other.kill('SIGTERM');
    removeFolder(empty);
  });
});
