import { strToU8, zipSync } from 'fflate';
import sharp from 'sharp';
import { expect, it } from 'vitest';
import { readMapSet, type ReadMapSet } from './map-set';

const plain = (width: number, height: number, background: string) =>
  sharp({ create: { width, height, channels: 3, background } }).png().toBuffer(); // prettier-ignore

it('a zip of pictures becomes one map set by their names, at its own proportions', async () => {
  const zip = zipSync({
    'oak/oak_Color.png': new Uint8Array(await plain(600, 300, '#a06030')),
    'oak/oak_Roughness.jpg': new Uint8Array(await sharp(await plain(300, 150, '#404040')).jpeg().toBuffer()), // prettier-ignore
    'oak/oak_NormalDX.png': new Uint8Array(await plain(600, 300, '#80c0f0')),
    'oak/sphere preview.png': new Uint8Array(await plain(64, 64, '#fff')),
    'oak/licence.txt': strToU8('made up'),
    '__MACOSX/oak/._oak_Color.png': strToU8('x'),
  });
  const set = (await readMapSet('oak.zip', zip)) as ReadMapSet;
  expect([set.maps.size, set.widthM, set.heightM, set.metalness]).toEqual([512, 1, 0.5, 0]);
  expect([...set.maps.base.subarray(0, 4)]).toEqual([0xa0, 0x60, 0x30, 255]);
  // Green of a DirectX normal is turned round.
  expect([set.maps.surface[0], set.maps.surface[1]]).toEqual([0x80, 255 - 0xc0]);
  expect(Math.abs(set.maps.surface[2]! - 0x40)).toBeLessThan(3);
  expect(set.remark).toBe('Found colour, normals, roughness. The normals are of the DirectX kind and have been turned. Left out: oak/sphere preview.png.'); // prettier-ignore
});

it('what is no map set is refused in a sentence', async () => {
  const fault = async (files: Record<string, Uint8Array>) => ((await readMapSet('a.zip', zipSync(files))) as { fault: string }).fault;
  expect(await fault({ 'a.txt': strToU8('x') })).toContain('a.zip holds no map set');
  const broken = (await plain(300, 300, '#888')).subarray(0, 90);
  expect(await fault({ 'w_color.png': new Uint8Array(broken) })).toBe('a.zip holds a picture that is cut off or broken.');
  expect(((await readMapSet('a.zip', strToU8('PK no zip'))) as { fault: string }).fault).toBe('a.zip is a broken or cut off zip.');
});
