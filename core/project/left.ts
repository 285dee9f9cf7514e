import type { Model } from '../model/model';
import { placedModel } from './placement';
import { entry, type Entries, type EntryChange } from './project';

/** Where elements stood last that are gone from their model, while things stand on them. */

export const leftKey = (source: string, element: string) => `left/${source}/${element}` as const;

/** What of that a change of a source brings; without a model the source is gone. */
export function leftBy(entries: Entries, source: string, before: Model, after: Model | undefined): EntryChange[] {
  const changes = new Map<string, EntryChange>();
  const was = placedModel(before, entry(entries, `placement/${source}`));
  for (const [key, value] of entries) {
    if (!key.startsWith('thing/') && !key.startsWith('set/')) continue;
    const { stands } = value as { stands?: { source: string; element: string } };
    if (stands?.source !== source) continue;
    const left = leftKey(source, stands.element);
    const known = entry(entries, left);
    const stood = was.elements.get(stands.element);
    if (after?.elements.has(stands.element)) {
      if (known) changes.set(left, { key: left, before: known, after: undefined });
    } else if (stood) changes.set(left, { key: left, before: known, after: [...stood.transform] });
  }
  return [...changes.values()];
}
