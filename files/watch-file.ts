import { statSync, watch, type FSWatcher } from 'node:fs';
import path from 'node:path';

/** A file is told of once it has been the same for so long. */
const SETTLE_MS = 400;
const POLL_MS = 2000;

/**
 * Tells when a file has changed and come to rest, or is gone. Its folder is watched, because tools replace files rather than write
 * into them; and the file itself is looked at now and then, because network drives tell nothing and a folder may be replaced as a
 * whole. `known` is the state that it was read in, taken before it was read, so that nothing is missed in between. Returns what
 * ends it.
 */
export function watchFile(file: string, changed: () => void, known = stateOf(file)): () => void {
  let timer: NodeJS.Timeout | undefined;
  let told = known;
  let seen = told;
  const look = () => {
    clearTimeout(timer);
    timer = setTimeout(() => {
      const now = stateOf(file);
      // Still being written: it is looked at again until it rests.
      if (now !== seen) {
        seen = now;
        look();
      } else if (now !== told) {
        told = now;
        changed();
      }
    }, SETTLE_MS);
  };
  const poll = setInterval(() => {
    if (stateOf(file) !== told) look();
  }, POLL_MS);
  let watcher: FSWatcher | undefined;
  try {
    watcher = watch(path.dirname(file), (_, name) => {
      if (name === null || name === path.basename(file)) look();
    });
    // The polling goes on.
    watcher.on('error', () => watcher?.close());
  } catch {
    // A drive that cannot be watched is polled.
  }
  return () => {
    clearTimeout(timer);
    clearInterval(poll);
    watcher?.close();
  };
}

/** Tells one state of a file from another; empty: it is not there. */
export function stateOf(file: string): string {
  try {
    const { mtimeMs, size, ino } = statSync(file);
    return [mtimeMs, size, ino].join(' ');
  } catch {
    return '';
  }
}
