import * as v from 'valibot';
import { entry, type Entries, type EntryChange, type EntryKey, type EntryTypes } from '../project';

/** A kind of command: what it may hold, what it does, and what the history says of it. */

export interface CommandEffect {
  /** What the history says was done. */
  label: string;
  changes: EntryChange[];
}

/** What a person may have done wrong, in a sentence. */
export interface CommandRefusal {
  refused: string;
}

/** The project as a command finds it. */
export interface Before {
  entries: Entries;
  /** ISO time. */
  now: string;
  put: <K extends EntryKey>(key: K, after: EntryTypes[K] | undefined) => EntryChange;
}

export function before(entries: Entries, now: string): Before {
  return { entries, now, put: (key, after) => ({ key, before: entry(entries, key), after }) };
}

type Effect<S extends v.GenericSchema> = (command: v.InferOutput<S>, project: Before) => CommandEffect | CommandRefusal;

/** Ties fields and effect of a type of command together. The effect is pure: nothing is applied. */
export function command<T extends string, F extends v.ObjectEntries>(
  type: T,
  fields: F,
  effect: Effect<v.StrictObjectSchema<{ type: v.LiteralSchema<T, undefined> } & F, undefined>>,
) {
  return { type, schema: v.strictObject({ type: v.literal(type), ...fields }), effect };
}

export const id = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
export const name = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
