import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { removeFolder, temporaryFolder } from '../server/testing/running-server';
import { stateOf, watchFile } from './watch-file';

const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});

it('a file that changed between being read and being watched is told of; one that did not is not', async () => {
  const [moved, still] = ['moved.obj', 'still.obj'].map((name) => path.join(folder, name)) as [string, string];
  const told: string[] = [];
  for (const file of [moved, still]) writeFileSync(file, 'v 0 0 0\n');
  const known = [moved, still].map(stateOf);
  writeFileSync(moved, 'v 0 0 0\nv 1 0 0\n');
  const ends = [moved, still].map((file, i) => watchFile(file, () => told.push(file), known[i]));
  await expect.poll(() => told).toEqual([moved]);
  writeFileSync(still, 'v 2 0 0\n');
  await expect.poll(() => told).toEqual([moved, still]);
  for (const end of ends) end();
});
