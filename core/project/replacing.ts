import { addTo } from '../grouping';
import type { Model } from '../model/model';
import type { ModelElement } from '../model/schema';
import type { EntryChange, Entries } from './project';

/** Which things of one model stand for which of another. */
export interface Matches {
  /** How many have the same id in both. */
  kept: number;
  /** Old id, new id: of another id but the same name. */
  byName: [from: string, to: string][];
  /** Ids that nothing stands for any more. */
  gone: string[];
  /** How many are new. */
  added: number;
}

export interface ModelMatches {
  elements: Matches;
  materials: Matches;
}

/**
 * Matches a model with the one that is to take its place: by id first, then by name. Among elements of one name, those of the
 * same class that stand nearest to each other belong together.
 */
export function matchModels(before: Model, after: Model): ModelMatches {
  return {
    elements: match(before.elements, after.elements, (e) => e.name.trim().toLowerCase(), nearness),
    materials: match(before.materials, after.materials, (m) => m.name.trim().toLowerCase(), () => 0),
  }; // prettier-ignore
}

const OTHER_CLASS_M = 1e6;

const nearness = (a: ModelElement, b: ModelElement): number =>
  Math.hypot(...[12, 13, 14].map((k) => a.transform[k]! - b.transform[k]!)) + (a.class === b.class ? 0 : OTHER_CLASS_M);

function match<T extends { id: string }>(
  before: ReadonlyMap<string, T>,
  after: ReadonlyMap<string, T>,
  nameOf: (thing: T) => string,
  apart: (a: T, b: T) => number,
): Matches {
  const left = [...before.values()].filter(({ id }) => !after.has(id));
  const free = new Map<string, T[]>();
  for (const thing of after.values()) {
    const name = nameOf(thing);
    if (before.has(thing.id) || name === '') continue;
    addTo(free, name, thing);
  }
  const byName: Matches['byName'] = [];
  const gone: string[] = [];
  for (const old of left) {
    const candidates = free.get(nameOf(old));
    if (!candidates?.length) {
      gone.push(old.id);
      continue;
    }
    let best = 0;
    // A long list of namesakes is taken in its order; looking for the nearest would be slow and mean little.
    if (candidates.length <= MOST_NAMESAKES)
      for (let i = 1; i < candidates.length; i++) if (apart(old, candidates[i]!) < apart(old, candidates[best]!)) best = i;
    byName.push([old.id, candidates.splice(best, 1)[0]!.id]);
  }
  const kept = before.size - left.length;
  return { kept, byName, gone, added: after.size - kept - byName.length };
}

const MOST_NAMESAKES = 500;

/** Kinds of entries by what they are about: kind/source/id. */
const ABOUT_ELEMENTS = ['element', 'nudge', 'turned', 'laid', 'left'];
const ABOUT_MATERIALS = ['assign', 'note'];
/** Kinds of entries that name elements within: what stands on one, is taken over from some, or is said of one. */
const NAMING_ELEMENTS = /^(thing|set|land|remark)\//;

interface Naming {
  stands?: { source: string; element: string } | undefined;
  instead?: readonly { source: string; element: string }[] | undefined;
  element?: { source: string; id: string } | undefined;
}

/** Elements of a source that a value names. */
function namedIn(key: string, value: unknown, source: string): string[] {
  if (!NAMING_ELEMENTS.test(key)) return [];
  const { stands, instead = [], element } = value as Naming;
  return [...(stands ? [stands] : []), ...instead, ...(element ? [{ source: element.source, element: element.id }] : [])].flatMap(
    (named) => (named.source === source ? [named.element] : []),
  );
}

/** The value with elements of a source under other ids; undefined: it names none of them. */
function renamedWithin(key: string, value: unknown, source: string, toOf: ReadonlyMap<string, string>): Naming | undefined {
  if (!namedIn(key, value, source).some((id) => toOf.has(id))) return undefined;
  const named = value as Naming;
  const to = <T extends { source: string; element: string }>(one: T): T =>
    one.source === source ? { ...one, element: toOf.get(one.element) ?? one.element } : one;
  const { stands, instead, element } = named;
  return {
    ...named,
    ...(stands && { stands: to(stands) }),
    ...(instead && { instead: instead.map(to) }),
    ...(element && { element: element.source === source ? { ...element, id: toOf.get(element.id) ?? element.id } : element }),
  };
}

export interface Carrying {
  source: string;
  /** Old id, new id. */
  elements: readonly (readonly [string, string])[];
  materials: readonly (readonly [string, string])[];
}

/** What follows when decisions about some elements and source materials become decisions about others. */
export function carriedDecisions(entries: Entries, { source, elements, materials }: Carrying): EntryChange[] {
  const changes: EntryChange[] = [];
  const carry = (kinds: readonly string[], pairs: Carrying['elements']) => {
    for (const [from, to] of pairs)
      for (const kind of kinds) {
        const [old, now] = [`${kind}/${source}/${from}`, `${kind}/${source}/${to}`];
        const value = entries.get(old);
        if (value === undefined || entries.has(now)) continue;
        changes.push({ key: old, before: value, after: undefined }, { key: now, before: undefined, after: value });
      }
  };
  carry(ABOUT_ELEMENTS, elements);
  carry(ABOUT_MATERIALS, materials);
  const toOf = new Map(elements.map(([from, to]) => [`element/${source}/${from}`, `element/${source}/${to}`]));
  const ids = new Map(elements);
  for (const [key, value] of entries) {
    const within = renamedWithin(key, value, source, ids);
    if (within) changes.push({ key, before: value, after: within });
    if (key !== 'visibility' && !key.startsWith('shown/')) continue;
    const after = renamedGroups(value as KeptVisibility, toOf);
    if (after) changes.push({ key, before: value, after });
  }
  return changes;
}

interface KeptVisibility {
  decisions: Record<string, boolean>;
  isolated: string[];
}

/** What is shown, with elements under other keys; undefined: none of them is named. */
function renamedGroups<T extends KeptVisibility>(shown: T, toOf: ReadonlyMap<string, string>): T | undefined {
  const named = [...Object.keys(shown.decisions), ...shown.isolated].some((key) => toOf.has(key));
  if (!named) return undefined;
  return {
    ...shown,
    decisions: Object.fromEntries(Object.entries(shown.decisions).map(([key, on]) => [toOf.get(key) ?? key, on])),
    isolated: shown.isolated.map((key) => toOf.get(key) ?? key),
  };
}

/** How many decisions about single things of a source stay, are carried on, and have nothing that they are about any more. */
export function weighDecisions(entries: Entries, source: string, { elements, materials }: ModelMatches) {
  const pairs = [
    { kinds: ABOUT_ELEMENTS, carried: new Set(elements.byName.map(([from]) => from)), gone: new Set(elements.gone) },
    { kinds: ABOUT_MATERIALS, carried: new Set(materials.byName.map(([from]) => from)), gone: new Set(materials.gone) },
  ];
  const weight = { stay: 0, carried: 0, sleep: [] as string[] };
  for (const [key, value] of entries) {
    for (const id of namedIn(key, value, source))
      if (pairs[0]!.carried.has(id)) weight.carried++;
      else if (pairs[0]!.gone.has(id)) weight.sleep.push(id);
      else weight.stay++;
    for (const { kinds, carried, gone } of pairs) {
      const kind = kinds.find((k) => key.startsWith(`${k}/${source}/`));
      if (kind === undefined) continue;
      const id = key.slice(kind.length + source.length + 2);
      if (carried.has(id)) weight.carried++;
      else if (gone.has(id)) weight.sleep.push(id);
      else weight.stay++;
    }
  }
  return weight;
}
