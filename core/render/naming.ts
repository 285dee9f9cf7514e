/** Names of files that are handed over, by a pattern with parts in braces. */

export const NAME_PARTS = ['number', 'view', 'condition', 'option', 'style', 'project', 'date', 'width', 'height'] as const;
export type NamePart = (typeof NAME_PARTS)[number];
export const DEFAULT_PATTERN = '{number} {view} {condition} {option} {style}';
const LONGEST = 120;

/** Parts in braces that a pattern names and that there are not. */
export const unknownParts = (pattern: string): string[] =>
  [...pattern.matchAll(/\{([^{}]*)\}/g)].map((found) => found[1]!).filter((part) => !(NAME_PARTS as readonly string[]).includes(part));

/** Without ending. What no file system takes is left out, as are parts that say nothing and the gaps about them. */
export function fileName(pattern: string, parts: Partial<Record<NamePart, string>>): string {
  const filled = pattern.replace(/\{([^{}]*)\}/g, (_, part: string) => parts[part as NamePart] ?? '');
  const clean = filled
    .replace(/[\p{C}<>:"/\\|?*]/gu, ' ')
    .replace(/\s+/g, ' ')
    .replace(/([-_,]) ?(?=[-_,])/g, '')
    .replace(/^[\s.,_-]+|[\s.,_-]+$/g, '');
  return clean.slice(0, LONGEST).trim() || 'picture';
}

/** Names by a pattern, each once: what would be there twice gets a number. */
export function fileNames(pattern: string, all: readonly Partial<Record<NamePart, string>>[]): string[] {
  const taken = new Set<string>();
  return all.map((parts) => {
    const wanted = fileName(pattern, parts);
    let name = wanted;
    for (let i = 2; taken.has(name.toLowerCase()); i++) name = `${wanted} (${String(i)})`;
    taken.add(name.toLowerCase());
    return name;
  });
}
