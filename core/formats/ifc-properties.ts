import * as WebIFC from 'web-ifc';
import { IfcLines, refOf, refsOf, textOf, type Handle, type Line } from './ifc-line';

/** What a file says of an element beside its shape. */
export interface ElementProperties {
  /** Property sets and quantities, those of its type after its own. */
  groups: { name: string; rows: [name: string, value: string][] }[];
  classifications: { system: string; code: string; name: string }[];
}

/** Properties by GlobalId, as ISO 16739-1 relates them. Elements that say nothing are left out. */
export function readIfcProperties(api: WebIFC.IfcAPI, bytes: Uint8Array): Record<string, ElementProperties> {
  const id = api.OpenModel(bytes, { COORDINATE_TO_ORIGIN: false });
  try {
    return new PropertyReader(api, id).read();
  } finally {
    api.CloseModel(id);
  }
}

class PropertyReader extends IfcLines {
  private readonly out = new Map<number, ElementProperties>();
  private readonly groups = new Map<number, ElementProperties['groups'][number] | undefined>();

  read(): Record<string, ElementProperties> {
    for (const relation of this.linesOf(WebIFC.IFCRELDEFINESBYPROPERTIES)) {
      const group = this.groupOf(refOf(relation['RelatingPropertyDefinition']));
      if (group) for (const element of refsOf(relation['RelatedObjects'])) this.of(element).groups.push(group);
    }
    for (const relation of this.linesOf(WebIFC.IFCRELDEFINESBYTYPE)) {
      const type = refOf(relation['RelatingType']);
      const groups = type === undefined ? [] : refsOf(this.line(type)['HasPropertySets']).map((set) => this.groupOf(set));
      for (const element of refsOf(relation['RelatedObjects']))
        for (const group of groups) if (group) this.of(element).groups.push({ ...group, name: `${group.name} (type)` });
    }
    for (const relation of this.linesOf(WebIFC.IFCRELASSOCIATESCLASSIFICATION)) {
      const reference = refOf(relation['RelatingClassification']);
      if (reference === undefined) continue;
      const line = this.line(reference);
      const source = refOf(line['ReferencedSource']);
      const classification = {
        system: source === undefined ? '' : textOf(this.line(source)['Name']),
        code: textOf(line['Identification']) || textOf(line['ItemReference']),
        name: textOf(line['Name']),
      };
      for (const element of refsOf(relation['RelatedObjects'])) this.of(element).classifications.push(classification);
    }
    for (const relation of this.linesOf(WebIFC.IFCRELAGGREGATES)) this.passOn(relation);
    return Object.fromEntries([...this.out].map(([element, properties]) => [this.idOf(element), properties]));
  }

  /** As the model's elements are known. */
  private idOf(element: number): string {
    return textOf(this.line(element)['GlobalId']) || `#${String(element)}`;
  }

  /** What is said of a whole is said of its parts: a stair's flights, a curtain wall's panels. */
  private passOn(relation: Line): void {
    const whole = refOf(relation['RelatingObject']);
    const said = whole === undefined ? undefined : this.out.get(whole);
    if (!said || !isProduct(this.line(whole!))) return;
    const name = textOf(this.line(whole!)['Name']) || 'the whole';
    for (const part of refsOf(relation['RelatedObjects'])) {
      const own = this.of(part);
      for (const group of said.groups) {
        const passed = { ...group, name: group.name.endsWith(')') ? group.name : `${group.name} (of ${name})` };
        if (!own.groups.some((known) => known.name === passed.name)) own.groups.push(passed);
      }
      for (const known of said.classifications)
        if (!own.classifications.some((c) => c.code === known.code && c.system === known.system)) own.classifications.push(known);
    }
  }

  private of(element: number): ElementProperties {
    let known = this.out.get(element);
    if (!known) this.out.set(element, (known = { groups: [], classifications: [] }));
    return known;
  }

  private groupOf(expressId: number | undefined): ElementProperties['groups'][number] | undefined {
    if (expressId === undefined) return undefined;
    if (!this.groups.has(expressId)) {
      const line = this.line(expressId);
      const members = [...refsOf(line['HasProperties']), ...refsOf(line['Quantities'])];
      const rows = members.flatMap((member) => this.rowsOf(member, '', 0));
      this.groups.set(expressId, rows.length > 0 ? { name: textOf(line['Name']), rows } : undefined);
    }
    return this.groups.get(expressId);
  }

  private rowsOf(expressId: number, before: string, depth: number): [string, string][] {
    const line = this.line(expressId);
    const name = before + textOf(line['Name']);
    // Complex properties hold others.
    const inner = refsOf(line['HasProperties']);
    if (inner.length > 0 && depth < 4) return inner.flatMap((member) => this.rowsOf(member, `${name}, `, depth + 1));
    const value = valueWords(line);
    return value === '' ? [] : [[name, value]];
  }
}

/** Whether a line is of something that is built: storeys and buildings are wholes too, and say nothing of what stands in them. */
const isProduct = (line: Line): boolean => 'Tag' in line;

/** The value of a single, enumerated, listed or bounded property, or of a quantity. */
function valueWords(line: Line): string {
  const words = (value: unknown): string => {
    if (Array.isArray(value)) return value.map(words).filter(Boolean).join(', ');
    const inner = (value as Handle | null)?.value;
    if (typeof inner === 'number') return String(Number(inner.toPrecision(9)));
    if (typeof inner === 'boolean') return inner ? 'yes' : 'no';
    return inner === 'T' || inner === '.T.' ? 'yes' : inner === 'F' || inner === '.F.' ? 'no' : typeof inner === 'string' ? inner : '';
  };
  const plain = [
    'NominalValue',
    'EnumerationValues',
    'ListValues',
    'LengthValue',
    'AreaValue',
    'VolumeValue',
    'CountValue',
    'WeightValue',
    'TimeValue',
  ];
  for (const attribute of plain) if (line[attribute] != null) return words(line[attribute]);
  const [low, high] = [words(line['LowerBoundValue']), words(line['UpperBoundValue'])];
  return low || high ? `${low || '…'} to ${high || '…'}` : '';
}
