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
