import { strToU8, unzipSync, zipSync } from 'fflate';
import path from 'node:path';
import sharp from 'sharp';
import { afterAll, expect, it } from 'vitest';
import { ownFinish, type Finish } from '../core/finish/finish';
import { FINISHES } from '../core/finish/library';
import { encodeMaps, generateMaps, KEPT_MAPS } from '../core/finish/maps/generate';
import { pictureMapsName } from '../core/scene/material-pictures';
import { BlobStore } from './blobs';
import { packFinishes, readPackage } from './finish-package';
import { removeFolder, temporaryFolder } from './testing/running-server';

const folder = temporaryFolder();
const blobs = new BlobStore(path.join(folder, 'blobs'));
const elsewhere = new BlobStore(path.join(folder, 'other'));
afterAll(() => {
  removeFolder(folder);
});

it('finishes go to another project and are the same there, maps and all', async () => {
  const maps = encodeMaps(generateMaps('brick', 256)!);
  const own: Finish = {
    ...ownFinish('Old wall / north', 'brick', `${KEPT_MAPS}${await blobs.put(maps)}`, 1.2, 0.9),
    hueDeg: 12,
    tags: ['photograph'],
  };
  const shipped: Finish = { ...FINISHES.find((f) => f.id === 'zinc')!, brightness: 0.8 };
  const zip = await packFinishes([own, shipped], blobs);
  expect(Object.keys(unzipSync(zip)).sort()).toEqual([
    '001 Old wall _ north/colour.png', '001 Old wall _ north/finish.json', '001 Old wall _ north/height.png', '001 Old wall _ north/normal.png',
    '001 Old wall _ north/roughness.png', '002 Zinc, standing seam 430/finish.json',
  ]); // prettier-ignore
  const { finishes } = (await readPackage('own.zip', zip, elsewhere)) as { finishes: Finish[] };
  expect(finishes).toEqual([
    { ...own, id: finishes[0]!.id, maps: finishes[0]!.maps },
    { ...shipped, id: finishes[1]!.id },
  ]);
  expect(finishes[0]!.id).not.toBe(own.id);
  // Byte for byte, through PNG and back.
  expect(finishes[0]!.maps).toBe(own.maps);
  expect(Buffer.from((await elsewhere.get(finishes[0]!.maps!.slice(KEPT_MAPS.length)))!).equals(Buffer.from(maps))).toBe(true);
});

it('finishes in the pictures of a linked model take all of these along, as the files that they are', async () => {
  const picture = async (background: string) =>
    blobs.put(
      new Uint8Array(
        await sharp({ create: { width: 30, height: 20, channels: 3, background } })
          .png()
          .toBuffer(),
      ),
    );
  const [colour, hollows, coat] = [await picture('#3a5f7d'), await picture('#808080'), await picture('#ff0000')];
  const maps = pictureMapsName({ image: colour, occlusion: hollows, clearCoat: coat, sets: { occlusion: 1 }, widthM: 1, heightM: 1 });
  const own: Finish = { ...ownFinish('Painted board', 'paint', maps, 1, 1), roughness: 0.4, clearCoat: 0.8 };
  const zip = await packFinishes([own], blobs);
  const { finishes } = (await readPackage('own.zip', zip, elsewhere)) as { finishes: Finish[] };
  expect(finishes[0]).toEqual({ ...own, id: finishes[0]!.id });
  for (const hash of [colour, hollows, coat]) expect(await elsewhere.get(hash)).toEqual(await blobs.get(hash));
  // Where one is missing, or is another, the finish comes without maps.
  const files = unzipSync(zip);
  const [name] = Object.keys(files).filter((file) => file.endsWith(coat));
  for (const bytes of [undefined, files[Object.keys(files).find((file) => file.endsWith(colour))!]!]) {
    const others = Object.fromEntries(Object.entries(files).filter(([file]) => file !== name));
    const read = (await readPackage('p.zip', zipSync(bytes ? { ...others, [name!]: bytes } : others), elsewhere)) as { finishes: Finish[] };
    expect(read.finishes[0]).toMatchObject({ name: 'Painted board', maps: null });
  }
});

it('a package of an earlier version is completed, and what is none is refused in a sentence', async () => {
  const early: Record<string, unknown> = { ...FINISHES[0]! };
  delete early['breakRepeat'];
  delete early['vary'];
  const of = (finish: object) => zipSync({ 'a/finish.json': strToU8(JSON.stringify({ format: 'diaphane-finish', version: 1, finish })) });
  const read = (await readPackage('p.zip', of(early), elsewhere)) as { finishes: Finish[] };
  expect(read.finishes[0]).toMatchObject({ name: FINISHES[0]!.name, breakRepeat: false });
  const fault = async (bytes: Uint8Array) => ((await readPackage('p.zip', bytes, elsewhere)) as { fault: string }).fault;
  expect(await fault(of({ ...early, roughness: 7 }))).toContain('a/finish.json in p.zip is no finish: roughness');
  expect(await fault(zipSync({ 'a/finish.json': strToU8('{') }))).toBe('a/finish.json in p.zip is no finish.');
  expect(await fault(zipSync({ 'x.txt': strToU8('x') }))).toBe('p.zip holds no finishes.');
  expect(await fault(strToU8('nothing'))).toBe('p.zip is a broken or cut off zip.');
});

it('what is called a picture and is none is never given to a decoder', async () => {
  const finish = { ...FINISHES[0]!, maps: `${KEPT_MAPS}${'0'.repeat(64)}` };
  const svg = strToU8('<svg xmlns="http://www.w3.org/2000/svg" width="600" height="600"><rect width="600" height="600"/></svg>');
  const json = strToU8(JSON.stringify({ format: 'diaphane-finish', version: 1, finish }));
  const png = new Uint8Array(await sharp({ create: { width: 300, height: 300, channels: 3, background: '#777' } }).png().toBuffer()); // prettier-ignore
  const fault = async (files: Record<string, Uint8Array>) =>
    ((await readPackage('p.zip', zipSync({ 'a/finish.json': json, ...files }), elsewhere)) as { fault?: string }).fault;
  for (const picture of ['colour.png', 'normal.png'])
    expect(await fault({ 'a/colour.png': png, [`a/${picture}`]: svg })).toBe('p.zip holds a picture that is cut off or broken.');
  expect(await fault({ 'a/colour.png': png.slice(0, png.length - 40) })).toBe('p.zip holds a picture that is cut off or broken.');
  expect(await fault({ 'a/colour.png': png })).toBeUndefined();
});

it('a zip of thousands of files, or finishes, is refused in a sentence, and soon', async () => {
  const zipOf = (count: number, name: (i: number) => string) =>
    zipSync(Object.fromEntries(Array.from({ length: count }, (_, i) => [name(i), new Uint8Array([123, 125])])), { level: 0 });
  expect(await readPackage('many.zip', zipOf(501, (i) => `${String(i)}/finish.json`), blobs)).toEqual({ fault: 'many.zip holds 501 finishes; up to 500 are read at once.' }); // prettier-ignore
  expect(await readPackage('more.zip', zipOf(9000, (i) => `${String(i)}/finish.json`), blobs)).toEqual({ fault: 'more.zip holds more than 4000 files.' }); // prettier-ignore
});
