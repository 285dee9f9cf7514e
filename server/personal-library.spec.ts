import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { afterAll, expect, it } from 'vitest';
import { ownFinish, type Finish } from '../core/finish/finish';
import { metalShares } from '../core/finish/maps/packed-factors';
import { encodeMaps, generateMaps, KEPT_MAPS } from '../core/finish/maps/generate';
import { BlobStore } from './blobs';
import { PersonalLibrary } from './personal-library';
import { removeFolder, temporaryFolder } from './testing/running-server';

const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});

it('a finish that is kept is found, shown and brought in by another project, and taken out again', async () => {
  const one = new BlobStore(path.join(folder, 'one'));
  const other = new BlobStore(path.join(folder, 'other'));
  const library = new PersonalLibrary(path.join(folder, 'library'));
  expect(await library.list()).toEqual([]);
  const maps = encodeMaps({ ...generateMaps('brick', 256)!, packedFactors: metalShares(new Uint8Array(256 * 256 * 4).fill(90), 0) });
  const own: Finish = {
    ...ownFinish('Quay wall', 'brick', `${KEPT_MAPS}${await one.put(maps)}`, 1.2, 0.9),
    tags: ['photograph'],
    reliefM: 0.004,
  };
  expect(await library.keep([own], one)).toBe(1);
  // The same look under the same name is kept once.
  expect(await library.keep([own, { ...own, id: 'own-again' }], one)).toBe(0);
  expect(await library.keep([{ ...own, name: 'Quay wall, wet', brightness: 0.6 }], one)).toBe(1);
  const items = await new PersonalLibrary(path.join(folder, 'library')).list();
  expect(items.map(({ name, family, tags }) => ({ name, family, tags }))).toEqual([
    { name: 'Quay wall', family: 'brick', tags: ['photograph'] },
    { name: 'Quay wall, wet', family: 'brick', tags: ['photograph'] },
  ]);
  const { finishes } = (await library.bring(items[0]!.id, other)) as { finishes: Finish[] };
  expect(finishes).toEqual([{ ...own, id: finishes[0]!.id }]);
  expect(Buffer.from((await other.get(finishes[0]!.maps!.slice(KEPT_MAPS.length)))!).equals(Buffer.from(maps))).toBe(true);
  expect((await sharp(await library.swatch(items[0]!.id)).metadata()).width).toBe(64);
  expect(await library.remove(items[0]!.id)).toBe(true);
  expect((await library.list()).map((i) => i.name)).toEqual(['Quay wall, wet']);
  expect(await library.bring(items[0]!.id, other)).toEqual({ fault: 'This finish is no longer in your library.' });
});

it('leaves alone what others have put into the folder, and looks nowhere else', async () => {
  const blobs = new BlobStore(path.join(folder, 'one'));
  const place = path.join(folder, 'mixed');
  mkdirSync(place);
  writeFileSync(path.join(place, 'holiday.zip'), 'x');
  writeFileSync(path.join(place, 'abc-123.zip'), 'no zip at all');
  writeFileSync(path.join(folder, 'abc-9.zip'), 'outside');
  const library = new PersonalLibrary(place);
  expect(await library.list()).toEqual([]);
  expect(await library.bring('../abc-9', blobs)).toEqual({ fault: 'This finish is no longer in your library.' });
  expect(await library.remove('../abc-9')).toBe(false);
  expect(await library.bring('abc-123', blobs)).toEqual({ fault: 'My library is a broken or cut off zip.' });
});
