import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import path from 'node:path';

/** Hash over the names and contents of all files at some places, but for those that are left out. */
export function fingerprint(places, isLeftOut = () => false) {
  const hash = createHash('sha256');
  const visit = (place) => {
    if (!existsSync(place) || isLeftOut(place)) return;
    if (statSync(place).isDirectory()) for (const name of readdirSync(place).sort()) visit(path.join(place, name));
    else hash.update(place).update(readFileSync(place));
  };
  places.forEach(visit);
  return hash.digest('hex');
}
