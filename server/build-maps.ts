import { existsSync, mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { fileURLToPath } from 'node:url';
import { encodeMaps, generateMaps, MAP_NAMES, smallMaps } from '../core/finish/maps/generate';
import { MAPS_DIRECTORY, mapsFile } from './dist-paths';

/** Build step: generates the map sets that are not there yet, on two threads. */

function write(name: string): void {
  if (existsSync(mapsFile(name)) && existsSync(mapsFile(name, 'small'))) return;
  const maps = generateMaps(name)!;
  writeWhole(mapsFile(name), encodeMaps(maps));
  writeWhole(mapsFile(name, 'small'), encodeMaps(smallMaps(maps)));
}

function writeWhole(file: string, bytes: Uint8Array): void {
  writeFileSync(`${file}.part`, bytes);
  renameSync(`${file}.part`, file);
}

if (isMainThread) {
  mkdirSync(MAPS_DIRECTORY, { recursive: true });
  const halves = [0, 1].map((k) => MAP_NAMES.filter((_, i) => i % 2 === k));
  await Promise.all(
    halves.map(
      (names) =>
        new Promise<void>((resolve, reject) => {
          const thread = new Worker(fileURLToPath(import.meta.url), { workerData: names });
          thread.on('error', reject);
          thread.on('exit', () => {
            resolve();
          });
        }),
    ),
  );
} else {
  for (const name of workerData as string[]) write(name);
  parentPort?.close();
}
