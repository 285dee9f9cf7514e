import { effectOf, type Command, type CommandRefusal } from './command';
import type { Entries, EntryChange } from './project';

/** Two people change one thing at once: of each change counts what it changes, not what it left as it was. */

type Fields = Record<string, unknown>;
const isFields = (value: unknown): value is Fields => typeof value === 'object' && value !== null && !Array.isArray(value);
const alike = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
/** What is large, and is not changed field by field. */
const isWhole = (key: string): boolean => /^(land|photometry|look)\//.test(key);

/** What somebody has before the eyes of the entries that a command changes, by their keys. */
export function seenBy(entries: Entries, command: Command): Record<string, Fields> {
  const effect = effectOf(entries, command, new Date(0).toISOString());
  if ('refused' in effect) return {};
  return Object.fromEntries(
    effect.changes.flatMap(({ key, before, after }) => (isFields(before) && isFields(after) && !isWhole(key) ? [[key, before]] : [])),
  );
}

/** The changes as they are now, where others have changed what was seen. */
export function mergedChanges(changes: readonly EntryChange[], seen: Readonly<Record<string, Fields>>): EntryChange[] | CommandRefusal {
  const merged: EntryChange[] = [];
  for (const change of changes) {
    const { key, before, after } = change;
    const known = Object.hasOwn(seen, key) ? seen[key] : undefined;
    if (!known || !isFields(after) || alike(known, before)) merged.push(change);
    else if (!isFields(before)) return { refused: 'Somebody else has deleted this meanwhile; nothing was changed.' };
    else {
      const isChanged = (field: string) => !alike(known[field], after[field]);
      const others = Object.entries(before).filter(([field]) => !isChanged(field));
      const own = Object.entries(after).filter(([field, value]) => isChanged(field) && value !== undefined);
      merged.push({ key, before, after: Object.fromEntries([...others, ...own]) });
    }
  }
  return merged;
}
