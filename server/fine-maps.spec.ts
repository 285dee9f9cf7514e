import { readdirSync, statSync, truncateSync } from 'node:fs';
import path from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { halved } from '../core/finish/maps/texture-budget';
import { loadMaps } from './scene-assets';
import { BlobStore } from './blobs';
import { fineMaps } from './fine-maps';
import { removeFolder, temporaryFolder } from './testing/running-server';

const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});

it('a map set for close views is the shipped one at twice the size, made once and kept; a cut one is made again', async () => {
  const cache = path.join(folder, 'maps');
  const fine = fineMaps('twill', cache);
  const shipped = (await loadMaps('twill', new BlobStore(path.join(folder, 'blobs'))))!;
  expect(fine.base.width).toBe(2048);
  const again = halved(fine.base, true).texels;
  let apart = 0;
  for (let i = 0; i < again.length; i++) apart += Math.abs(again[i]! - shipped.base.texels[i]!);
  expect(apart / again.length).toBeLessThan(6);
  const [file] = readdirSync(cache).map((name) => path.join(cache, name)) as [string];
  const made = statSync(file).mtimeMs;
  expect(Buffer.compare(fineMaps('twill', cache).base.texels, fine.base.texels)).toBe(0);
  expect(statSync(file).mtimeMs).toBe(made);
  truncateSync(file, 1000);
  expect(fineMaps('twill', cache).base.width).toBe(2048);
  expect(statSync(file).size).toBeGreaterThan(1000);
});
