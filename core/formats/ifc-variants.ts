import * as WebIFC from 'web-ifc';
import type { Model } from '../model/model';
import { refOf, refsOf, textOf, type Line } from './ifc-line';

/** Which option and phase an element belongs to. */
export interface Variant {
  option?: string;
  phase?: string;
  until?: string;
}

/**
 * Property names that say a phase, the phase in which something goes, or a design option, in the languages that tools write
 * them in. Common practice, no source; only `Status` is the standard's own (PEnum_ElementStatus, ISO 16739-1).
 */
const MEANINGS: Readonly<Record<string, keyof Variant>> = {
  phase: 'phase', 'phase created': 'phase', 'construction phase': 'phase', bauphase: 'phase', phasenstatus: 'phase', 'phase de création': 'phase',
  'phase de construction': 'phase', 'fase de creación': 'phase', fase: 'phase', bouwfase: 'phase', status: 'phase',
  'phase demolished': 'until', 'demolition phase': 'until', abbruchphase: 'until', 'phase de démolition': 'until', sloopfase: 'until',
  'design option': 'option', 'option': 'option', entwurfsvariante: 'option', variante: 'option', variant: 'option', 'opción de diseño': 'option',
}; // prettier-ignore

/** Words that mean the time before anything is built. */
const BEFORE = new Set(['existing', 'bestand', 'existant', 'existente', 'esistente', 'bestaand']);
const NEW = 'NEW';
const DEMOLISHED = new Set(['DEMOLISH', 'DEMOLISHED']);
const UNSAID = new Set(['', 'none', 'notknown', 'unset', 'other', 'userdefined', 'main model']);

const hasMeaning = (name: string): boolean => Object.hasOwn(MEANINGS, name.toLowerCase());

/** A file that is larger is not searched as text. */
const MOST_TEXT_BYTES = 256 * 1024 * 1024;

/**
 * Lines of a kind of property whose name means something, or may, found in the file's text: thousands that say nothing of options
 * are then never asked for. Undefined where the text cannot be relied on: the parser knows another number of them.
 */
function tellingLines(text: string, keyword: string, known: number): number[] | undefined {
  const lines: number[] = [];
  let seen = 0;
  for (let at = text.indexOf(keyword); at >= 0; at = text.indexOf(keyword, at + keyword.length)) {
    seen++;
    const open = text.indexOf("'", at);
    if (!/^\s*\(\s*$/.test(text.slice(at + keyword.length, open))) continue;
    const name = text.slice(open + 1, text.indexOf("'", open + 1));
    // A backslash begins a letter beyond ASCII.
    if (!hasMeaning(name) && !name.includes('\\')) continue;
    const line = /#(\d+)\s*=\s*$/.exec(text.slice(Math.max(0, at - 24), at))?.[1];
    if (line === undefined) return undefined;
    lines.push(Number(line));
  }
  return seen === known ? lines : undefined;
}

/** Reads what property sets say of options and phases; nothing is done where no property of such a name occurs. */
export function readVariants(api: WebIFC.IfcAPI, id: number, bytes: Uint8Array): Map<number, Variant> {
  const line = (expressId: number) => api.GetLine(id, expressId, false) as Line;
  const idsOf = (type: number) => {
    const ids = api.GetLineIDsWithType(id, type);
    return Array.from({ length: ids.size() }, (_, i) => ids.get(i));
  };
  const said = new Map<number, Variant>();
  let text: string | undefined;
  for (const [type, keyword] of [
    [WebIFC.IFCPROPERTYSINGLEVALUE, 'IFCPROPERTYSINGLEVALUE'],
    [WebIFC.IFCPROPERTYENUMERATEDVALUE, 'IFCPROPERTYENUMERATEDVALUE'],
  ] as const) {
    const known = api.GetLineIDsWithType(id, type).size();
    if (known === 0) continue;
    text ??= bytes.byteLength <= MOST_TEXT_BYTES ? new TextDecoder('latin1').decode(bytes) : '';
    for (const property of tellingLines(text, keyword, known) ?? idsOf(type)) {
      // The name comes first; a whole line is read only where it is one of the names.
      const name = textOf((api.GetRawLineData(id, property).arguments as unknown[])[0]);
      const meaning = hasMeaning(name) ? MEANINGS[name.toLowerCase()] : undefined;
      if (!meaning) continue;
      const { NominalValue, EnumerationValues } = line(property);
      const value = textOf(Array.isArray(EnumerationValues) ? EnumerationValues[0] : NominalValue).trim();
      if (UNSAID.has(value.toLowerCase())) continue;
      said.set(property, DEMOLISHED.has(value.toUpperCase()) ? { until: NEW } : { [meaning]: value });
    }
  }
  const out = new Map<number, Variant>();
  if (said.size === 0) return out;
  const sets = new Map<number, Variant>();
  for (const set of idsOf(WebIFC.IFCPROPERTYSET)) {
    const own = refsOf(line(set)['HasProperties']).flatMap((property) => said.get(property) ?? []);
    if (own.length > 0) sets.set(set, Object.assign({}, ...own) as Variant);
  }
  for (const relation of idsOf(WebIFC.IFCRELDEFINESBYPROPERTIES)) {
    const { RelatingPropertyDefinition, RelatedObjects } = line(relation);
    const variant = sets.get(refOf(RelatingPropertyDefinition) ?? -1);
    if (variant) for (const element of refsOf(RelatedObjects)) out.set(element, { ...variant, ...out.get(element) });
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
