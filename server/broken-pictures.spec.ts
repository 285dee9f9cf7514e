import path from 'node:path';
import sharp from 'sharp';
import { afterAll, expect, it } from 'vitest';
import { pictureMapsName } from '../core/scene/material-pictures';
import { applyChange, EMPTY_MODEL } from '../core/model/model';
import { testChange, testElement } from '../core/model/testing';
import { BlobStore } from './blobs';
import { brokenPictures } from './hygiene/pictures';
import { loadMaps } from './scene-assets';
import { removeFolder, temporaryFolder } from './testing/running-server';

const folder = temporaryFolder();
const blobs = new BlobStore(path.join(folder, 'blobs'));
afterAll(() => {
  removeFolder(folder);
});

const png = async (width: number, height: number) => new Uint8Array(await sharp({ create: { width, height, channels: 3, background: '#4060a0' }, limitInputPixels: false }).png().toBuffer()); // prettier-ignore

/** Pictures that decoders stumble over, beside a sound one. */
async function pictures() {
  const sound = await png(60, 40);
  const noise = new Uint8Array(await sharp(Buffer.from(Array.from({ length: 30_000 }, (_, i) => (i * 7919) % 251)), { raw: { width: 100, height: 100, channels: 3 } }).png().toBuffer()); // prettier-ignore
  return {
    sound: await blobs.put(sound),
    cut: await blobs.put(noise.slice(0, noise.length / 2)),
    none: await blobs.put(Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 1, 2, 3])),
    huge: await blobs.put(await png(9000, 9000)),
    gone: 'f'.repeat(64),
  };
}

it('a picture that cannot be decoded leaves a neutral map in its place, and the rest as it is', async () => {
  const { sound, cut, none, huge, gone } = await pictures();
  for (const broken of [cut, none, huge, gone]) {
    const maps = (await loadMaps(pictureMapsName({ image: sound, normal: broken, widthM: 1, heightM: 1 }), blobs))!;
    expect([maps.base.width, maps.base.height, ...maps.base.texels.subarray(0, 3)]).toEqual([60, 40, 64, 96, 160]);
    expect(maps.surface).toBeUndefined();
    const bare = (await loadMaps(pictureMapsName({ image: broken, widthM: 1, heightM: 1 }), blobs))!;
    expect([...bare.base.texels]).toEqual([255, 255, 255, 255]);
  }
});

it('is found, with its file, its material and what it tells', async () => {
  const { sound, cut } = await pictures();
  const texture = { image: sound, normal: cut, widthM: 1, heightM: 1 };
  const change = testChange({
    materials: [{ id: 'slate', name: 'Slate', colour: [0.5, 0.5, 0.5], texture }],
    elements: [testElement('roof', { parts: [{ mesh: '0'.repeat(64), material: 'slate' }] })],
  });
  const model = applyChange(EMPTY_MODEL, change);
  const stored = new Map([[sound, await blobs.get(sound)], [cut, await blobs.get(cut)]]); // prettier-ignore
  const found = await brokenPictures({ id: 's', name: 'house.glb', model }, (hash) => stored.get(hash));
  expect(found.map(({ words }) => words)).toEqual([
    'The picture of “Slate” in house.glb that tells its relief is cut off, broken or too large; the surface is shown without it.',
  ]);
  expect(found[0]!.elements).toEqual([{ source: 's', element: 'roof' }]);
});
