import type { Model } from '../model/model';
import type { Said } from './ifc-said';

/** Which option and phase an element belongs to. */
export interface Variant {
  option?: string;
  phase?: string;
  until?: string;
}

/** Words that mean the time before anything is built. */
const BEFORE = new Set(['existing', 'bestand', 'existant', 'existente', 'esistente', 'bestaand']);
const NEW = 'NEW';
const DEMOLISHED = new Set(['DEMOLISH', 'DEMOLISHED']);
const UNSAID = new Set(['', 'none', 'notknown', 'unset', 'other', 'userdefined', 'main model']);

/** What property sets say of an element's option and phases. */
export function variantOf(said: Said): Variant {
  const out: Variant = {};
  for (const kind of ['option', 'phase', 'until'] as const) {
    const value = said[kind]?.trim() ?? '';
    if (UNSAID.has(value.toLowerCase())) continue;
    if (DEMOLISHED.has(value.toUpperCase())) out.until = NEW;
    else out[kind] = value;
  }
  return out;
}

/**
 * Options and phases of a file: phases in the order of time as far as their names tell, the last one active; the first option
 * active. One phase alone, or one option, is nothing to choose from.
 */
export function presentationOf(variants: Iterable<Variant>): Pick<Model['presentation'], 'options' | 'option' | 'phases' | 'phase'> {
  const options = new Set<string>();
  const phases = new Set<string>();
  for (const { option, phase, until } of variants) {
    if (option !== undefined) options.add(option);
    if (phase !== undefined) phases.add(phase);
    if (until !== undefined) phases.add(until);
  }
  const order = new Intl.Collator('en', { numeric: true }).compare;
  const time = (name: string) => (BEFORE.has(name.toLowerCase()) ? 0 : name === NEW ? 2 : 1);
  const several = (names: Set<string>) => (names.size > 1 ? [...names] : []);
  const inTime = several(phases).sort((a, b) => time(a) - time(b) || order(a, b));
  const named = (names: string[]) => names.map((name) => ({ id: name.slice(0, 200), name: name.slice(0, 200) }));
  const byName = several(options).sort(order);
  return { options: named(byName), option: byName[0] ?? null, phases: named(inTime), phase: inTime.at(-1) ?? null };
}
