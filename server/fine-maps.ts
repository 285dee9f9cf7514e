import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { writeWholeSync } from './whole-file';
import { decodeMaps, encodeMaps, generateMaps, isMapSet, mapSetOf } from '../core/finish/maps/generate';
import type { MapSet } from '../core/finish/maps/texture-image';
import { FINE_MAP_SIZE } from '../core/scene/fine-maps';
import { mapsFile } from './dist-paths';

/** A shipped map set at the size for close views: made when it is first needed (seconds), and kept in a folder for all projects. */
export function fineMaps(name: string, folder: string): MapSet {
  const file = path.join(folder, `${name}-${markOfShipped(name)}.maps`);
  const kept = existsSync(file) ? readFileSync(file) : undefined;
  if (kept && isMapSet(kept)) return mapSetOf(decodeMaps(kept));
  const maps = generateMaps(name, FINE_MAP_SIZE)!;
  try {
    mkdirSync(folder, { recursive: true });
    writeWholeSync(file, encodeMaps(maps));
  } catch (error) {
    console.error('maps are not kept:', error);
  }
  return mapSetOf(maps);
}

/** Tells the painting of one version from that of another. */
function markOfShipped(name: string): string {
  const shipped = readFileSync(mapsFile(name));
  return createHash('sha256').update(shipped).digest('hex').slice(0, 16);
}
