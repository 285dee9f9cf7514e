import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import type { ThingKind } from '../../core/setting/thing-kind';
import type { ThingKinds } from '../../core/setting/setting-model';
import { THINGS_DIRECTORY } from '../dist-paths';

export const CATALOGUE_FILE = path.join(THINGS_DIRECTORY, 'catalogue.json');

let read: ThingKinds | undefined;

/** Everything of the library that comes with the application; the build makes it. */
export function shippedKinds(): ThingKinds {
  read ??= new Map(existsSync(CATALOGUE_FILE) ? (JSON.parse(readFileSync(CATALOGUE_FILE, 'utf8')) as ThingKind[]).map((kind) => [kind.id, kind]) : []); // prettier-ignore
  return read;
}
