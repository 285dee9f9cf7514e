import type { Shown } from '../model/shown';
import { entry, type Entries } from './project';
import { visibilityOf } from './visibility';

/** What is shown of the models, in the decisions of a project. */

const VARIANT = 'variant/' as const;

export function shownNow(entries: Entries): Shown {
  const variants: Shown['variants'] = {};
  for (const key of entries.keys())
    if (key.startsWith(VARIANT)) variants[key.slice(VARIANT.length)] = entry(entries, key as `variant/${string}`)!;
  return { visibility: visibilityOf(entries), variants };
}

/** Entries that have to be otherwise so that just this is shown; undefined: gone. */
export function changesToShow(
  entries: Entries,
  { visibility, variants }: Shown,
): [key: 'visibility' | `variant/${string}`, value: unknown][] {
  const others = [...entries.keys()].filter((key) => key.startsWith(VARIANT) && !(key.slice(VARIANT.length) in variants));
  return [
    ['visibility', visibility],
    ...Object.entries(variants).map(([source, variant]): [`variant/${string}`, unknown] => [`${VARIANT}${source}`, variant]),
    ...others.map((key): [`variant/${string}`, unknown] => [key as `variant/${string}`, undefined]),
  ];
}

/** The decisions with just this shown. */
export function entriesShowing(entries: Entries, shown: Shown): Entries {
  const after = new Map(entries);
  for (const [key, value] of changesToShow(entries, shown)) {
    if (value === undefined) after.delete(key);
    else after.set(key, value);
  }
  return after;
}
