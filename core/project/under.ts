import type { Under } from '../camera/walk-light';
import { withCondition } from './conditions';
import { entriesShowing } from './shown';
import { DEFAULT_SUN, entry, type Entries } from './project';

/** The time of day that a kept condition brings, minutes; none where its sun is set by hand. */
export function timeOfCondition(entries: Entries, id: string): number | undefined {
  const sun = entry(entries, `condition/${id}`)?.sun?.sun;
  return sun?.byHand ? undefined : sun?.minutes;
}

/** What is decided, with that shown, seen under a condition, with an option, at a time of day. Undefined: the condition is not kept any more. */
export function entriesUnder(entries: Entries, { shown, condition, option, minutes }: Under): Entries | undefined {
  let now = shown ? entriesShowing(entries, shown) : entries;
  if (condition !== undefined) {
    const kept = entry(entries, `condition/${condition}`);
    if (!kept) return undefined;
    now = withCondition(now, kept);
  }
  if (option) {
    const key = `variant/${option.source}` as const;
    now = new Map(now).set(key, { phase: null, ...entry(now, key), option: option.option });
  }
  if (minutes === undefined) return now;
  const { date } = entry(now, 'sun') ?? DEFAULT_SUN;
  return new Map(now).set('sun', { date, minutes });
}
