import { readdirSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { afterAll, expect, it } from 'vitest';
import { FINISHES } from '../../core/finish/library';
import { removeFolder, temporaryFolder } from '../testing/running-server';
import { Previews } from './previews';

const folder = temporaryFolder();
const previews = new Previews(path.join(folder, 'previews'), path.join(folder, 'blobs'));
afterAll(() => {
  previews.close();
  removeFolder(folder);
});

const shipped = (id: string) => FINISHES.find((f) => f.id === id)!;

it('a preview shows the finish on a board and a ball, and is kept', async () => {
  const [brick, zinc, again] = await Promise.all([shipped('brick'), shipped('zinc'), shipped('brick')].map((f) => previews.of(f)));
  expect(Buffer.from(again!).equals(Buffer.from(brick!))).toBe(true);
  // The board's middle and the ball's: brick is red there, zinc is grey.
  for (const [left, top] of [[40, 40], [146, 100]] as const) {
    const mean = async (png: Uint8Array) => (await sharp(png).extract({ left, top, width: 24, height: 24 }).stats()).channels.map((c) => c.mean);
    const [red, , blue] = await mean(brick!);
    expect(red! / blue!).toBeGreaterThan(1.4);
    const [r, , b] = await mean(zinc!);
    expect(r! / b!).toBeLessThan(1.15);
  } // prettier-ignore
  expect(readdirSync(path.join(folder, 'previews')).filter((name) => name.endsWith('.png'))).toHaveLength(2);
});

it('a finish by another name and of the same looks shares the picture; an edited one has its own', async () => {
  await previews.of({ ...shipped('zinc'), id: 'own', name: 'Own zinc', tags: [] });
  expect(readdirSync(path.join(folder, 'previews'))).toHaveLength(2);
  await previews.of({ ...shipped('zinc'), brightness: 0.5 });
  expect(readdirSync(path.join(folder, 'previews'))).toHaveLength(3);
});

it('maps that are not there leave the finish plain instead of failing', async () => {
  const png = await previews.of({ ...shipped('zinc'), maps: 'nothing-of-the-kind' });
  expect((await sharp(png).metadata()).width).toBe(200);
});

it('those that ship are made beforehand, told how far; what is there already is left alone, a closed one stops', async () => {
  const some = ['zinc', 'brick', 'copper'].map(shipped);
  const again = new Previews(path.join(folder, 'previews'), path.join(folder, 'blobs'));
  const atOnce = () => Promise.resolve();
  const all = again.makeAll(some, atOnce);
  expect(again.progress).toEqual({ made: 2, of: 3 });
  await all;
  expect(again.progress).toEqual({ made: 3, of: 3 });
  const before = readdirSync(path.join(folder, 'previews'));
  const stopped = again.makeAll(FINISHES, atOnce);
  again.close();
  await stopped;
  expect(again.progress.made).toBeLessThan(8);
  expect(readdirSync(path.join(folder, 'previews'))).toEqual(before);
});

it('one that is asked for in the meantime counts among those that are made', async () => {
  const held = new Previews(path.join(folder, 'asked'), path.join(folder, 'blobs'));
  let release = (): void => undefined;
  const ended = held.makeAll(['zinc', 'brick', 'copper'].map(shipped), () => new Promise((resolve) => (release = resolve)));
  expect(held.progress).toEqual({ made: 0, of: 3 });
  await held.of(shipped('copper'));
  expect(held.progress).toEqual({ made: 1, of: 3 });
  held.close();
  release();
  await ended;
});
