import path from 'node:path';
import { afterAll, expect, it, vi } from 'vitest';
import { SCREEN_WHITE } from '../../core/image/white-balance';
import type { PrintSpec } from '../../core/render/print';
import { openProjectDatabase } from '../database/open';
import { removeFolder, temporaryFolder } from '../testing/running-server';
import { PrintRecords } from './records';

const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});

it('the list of prints reads each frozen scene once, however often it is told', async () => {
  const db = await openProjectDatabase(path.join(folder, 'project.sqlite'));
  const records = new PrintRecords(db, path.join(folder, 'prints'));
  const order = { name: 'Gate', camera: { position: [6, -7, 3], target: [0, 0, 1], focalMm: 35 }, width: 80, height: 45, quality: 'proof', seed: 7, denoise: false, ev100: 13, timeS: 0, white: SCREEN_WHITE }; // prettier-ignore
  const spec = { order, metadata: {}, scene: { instances: [], lamps: [] } } as unknown as PrintSpec;
  for (const id of ['a', 'b'])
    await db
      .insertInto('print')
      .values({
        id,
        spec: JSON.stringify(spec),
        state: 'finished',
        samples_done: 32,
        created_at: `2026-11-2${id === 'a' ? '1' : '2'}`,
        finished_at: null,
        fault: null,
      }) // prettier-ignore
      .execute();
  const parse = vi.spyOn(JSON, 'parse');
  for (let i = 0; i < 5; i++) expect((await records.list(() => undefined)).map(({ id, name }) => [id, name])).toEqual([['b', 'Gate'], ['a', 'Gate']]); // prettier-ignore
  expect(parse.mock.calls.filter(([text]) => text.includes('"scene"'))).toHaveLength(2);
  parse.mockRestore();
  await db.destroy();
});
