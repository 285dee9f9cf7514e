/** What is looked for in a library: a finish by its family, a thing by its group. */
export interface Findable {
  name: string;
  family: string;
  tags: readonly string[];
}

export interface LibraryQuery {
  /** Words as typed; one that begins with a minus must not occur. */
  text: string;
  family: string | undefined;
  /** Tags that must be there, and tags that must not. */
  required: ReadonlySet<string>;
  excluded: ReadonlySet<string>;
}

/** Those whose name, family or tags have the beginnings of all words asked for, and none of those that are not wanted. */
export function searchLibrary<T extends Findable>(items: readonly T[], { text, family, required, excluded }: LibraryQuery): T[] {
  const words = text.toLowerCase().split(/\s+/).filter((word) => word !== '' && word !== '-'); // prettier-ignore
  return items.filter((item) => {
    if (family && item.family !== family) return false;
    if (item.tags.some((tag) => excluded.has(tag))) return false;
    for (const tag of required) if (!item.tags.includes(tag)) return false;
    const own = `${item.name} ${item.family} ${item.tags.join(' ')}`.toLowerCase().split(/[\s,×]+/);
    const has = (word: string) => own.some((o) => o.startsWith(word));
    return words.every((word) => (word.startsWith('-') ? !has(word.slice(1)) : has(word)));
  });
}

/** Tags with how many have them, the commonest first. */
export function tagCounts(items: readonly Pick<Findable, 'tags'>[]): [tag: string, count: number][] {
  const counts = new Map<string, number>();
  for (const { tags } of items) for (const tag of tags) counts.set(tag, (counts.get(tag) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0]));
}
