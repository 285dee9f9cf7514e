import * as WebIFC from 'web-ifc';
import { refOf, refsOf, textOf, type Line } from './ifc-line';

/** What properties of certain names say of an element, in their own words. */
export type Said = Partial<Record<'option' | 'phase' | 'until' | 'fluxLm' | 'temperatureK' | 'sources', string>>;

/**
 * Property names that say a phase, the phase in which something goes, or a design option, in the languages that tools write
 * them in. Common practice, no source; only `Status` is the standard's own (PEnum_ElementStatus, ISO 16739-1), and so are those of light
 * (Pset_LampTypeCommon, Pset_LightFixtureTypeCommon).
 */
const MEANINGS: Readonly<Record<string, keyof Said>> = {
  phase: 'phase', 'phase created': 'phase', 'construction phase': 'phase', bauphase: 'phase', phasenstatus: 'phase', 'phase de création': 'phase',
  'phase de construction': 'phase', 'fase de creación': 'phase', fase: 'phase', bouwfase: 'phase', status: 'phase',
  'phase demolished': 'until', 'demolition phase': 'until', abbruchphase: 'until', 'phase de démolition': 'until', sloopfase: 'until',
  'design option': 'option', 'option': 'option', entwurfsvariante: 'option', variante: 'option', variant: 'option', 'opción de diseño': 'option',
  contributedluminousflux: 'fluxLm', colortemperature: 'temperatureK', numberofsources: 'sources',
}; // prettier-ignore

const hasMeaning = (name: string): boolean => Object.hasOwn(MEANINGS, name.toLowerCase());

/** A file that is larger is not searched as text. */
const MOST_TEXT_BYTES = 256 * 1024 * 1024;

/**
 * Lines of a kind of property whose name means something, or may, found in the file's text: thousands that say nothing are
 * then never asked for. Undefined where the text cannot be relied on: the parser knows another number of them.
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

/** What is said of elements, and by sets that belong to types. */
export interface AllSaid {
  elements: Map<number, Said>;
  sets: ReadonlyMap<number, Said>;
}

/** Reads what property sets say; nothing is done where no property of such a name occurs. */
export function readSaid(api: WebIFC.IfcAPI, id: number, bytes: Uint8Array): AllSaid {
  const line = (expressId: number) => api.GetLine(id, expressId, false) as Line;
  const idsOf = (type: number) => {
    const ids = api.GetLineIDsWithType(id, type);
    return Array.from({ length: ids.size() }, (_, i) => ids.get(i));
  };
  const said = new Map<number, Said>();
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
      said.set(property, { [meaning]: textOf(Array.isArray(EnumerationValues) ? EnumerationValues[0] : NominalValue) });
    }
  }
  const elements = new Map<number, Said>();
  const sets = new Map<number, Said>();
  if (said.size === 0) return { elements, sets };
  for (const set of idsOf(WebIFC.IFCPROPERTYSET)) {
    const own = refsOf(line(set)['HasProperties']).flatMap((property) => said.get(property) ?? []);
    if (own.length > 0) sets.set(set, Object.assign({}, ...own) as Said);
  }
  for (const relation of idsOf(WebIFC.IFCRELDEFINESBYPROPERTIES)) {
    const { RelatingPropertyDefinition, RelatedObjects } = line(relation);
    const all = sets.get(refOf(RelatingPropertyDefinition) ?? -1);
    if (all) for (const element of refsOf(RelatedObjects)) elements.set(element, { ...all, ...elements.get(element) });
  }
  return { elements, sets };
}
