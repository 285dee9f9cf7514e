import type * as WebIFC from 'web-ifc';

/** Lines of an IFC file as the parser gives them: attributes by name, references as handles. */
export type Line = Record<string, unknown> & { expressID: number };
export interface Handle {
  value: unknown;
}

export const textOf = (value: unknown): string => {
  const inner = (value as Handle | null)?.value;
  return typeof inner === 'string' ? inner : typeof inner === 'number' ? String(inner) : '';
};
export const refOf = (value: unknown): number | undefined => {
  const inner = (value as Handle | null)?.value;
  return typeof inner === 'number' ? inner : undefined;
};
export const numberOf = (value: unknown): number => {
  const inner = (value as Handle | null)?.value;
  return typeof inner === 'number' ? inner : typeof value === 'number' ? value : 0;
};
export const refsOf = (value: unknown): number[] => (Array.isArray(value) ? value.map(refOf).filter((id) => id !== undefined) : []);

/** Reads the lines of an open file. */
export class IfcLines {
  constructor(
    protected readonly api: WebIFC.IfcAPI,
    protected readonly id: number,
  ) {}

  protected line(expressId: number): Line {
    return this.api.GetLine(this.id, expressId, false) as Line;
  }

  protected idsOf(type: number): number[] {
    const ids = this.api.GetLineIDsWithType(this.id, type);
    return Array.from({ length: ids.size() }, (_, i) => ids.get(i));
  }

  protected linesOf(type: number): Line[] {
    return this.idsOf(type).map((id) => this.line(id));
  }
}
