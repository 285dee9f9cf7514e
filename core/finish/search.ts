import type { Finish } from './finish';

export interface FinishQuery {
  /** Words as typed; one that begins with a minus must not occur. */
  text: string;
  family: Finish['family'] | undefined;
  /** Tags that must be there, and tags that must not. */
  required: ReadonlySet<string>;
  excluded: ReadonlySet<string>;
}

/** Finishes whose name, family or tags have the beginnings of all words asked for, and none of those that are not wanted. */
export function searchFinishes(finishes: readonly Finish[], { text, family, required, excluded }: FinishQuery): Finish[] {
  const words = text.toLowerCase().split(/\s+/).filter((word) => word !== '' && word !== '-'); // prettier-ignore
  return finishes.filter((finish) => {
    if (family && finish.family !== family) return false;
    if (finish.tags.some((tag) => excluded.has(tag))) return false;
    for (const tag of required) if (!finish.tags.includes(tag)) return false;
    const own = `${finish.name} ${finish.family} ${finish.tags.join(' ')}`.toLowerCase().split(/[\s,×]+/);
    const has = (word: string) => own.some((o) => o.startsWith(word));
    return words.every((word) => (word.startsWith('-') ? !has(word.slice(1)) : has(word)));
  });
}

/** Tags with how many finishes have them, the commonest first. */
export function tagCounts(finishes: readonly Finish[]): [tag: string, count: number][] {
  const counts = new Map<string, number>();
  for (const { tags } of finishes) for (const tag of tags) counts.set(tag, (counts.get(tag) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0]));
}
