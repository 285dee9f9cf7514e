import type { KeptWalk } from '../../../core/camera/walk';
import { entry, type Entries } from '../../../core/project/project';

const PREFIX = 'walk/';

/** The walks of a project, by name. */
export const keptWalks = (entries: Entries): { id: string; walk: KeptWalk }[] =>
  [...entries.keys()]
    .filter((key) => key.startsWith(PREFIX))
    .map((key) => ({ id: key.slice(PREFIX.length), walk: entry(entries, key as `walk/${string}`)! }))
    .sort((a, b) => a.walk.name.localeCompare(b.walk.name, 'en', { numeric: true }));
