import type { ModelChange } from './schema';

/** One change in several messages, and back. */

const LISTS = ['elements', 'materials', 'luminaires', 'cameras'] as const;

/** Cuts a change into parts of about so many bytes of JSON each; the first one resets, the last one tells what a model has once. */
export function partsOf(change: ModelChange, mostBytes: number): ModelChange[] {
  const { elements, materials, luminaires, cameras, remove, reset, ...once } = change;
  const parts: ModelChange[] = [];
  let part = emptyPart();
  let bytes = 0;
  const roomFor = (item: unknown) => {
    const size = JSON.stringify(item).length + 1;
    if (bytes > 0 && bytes + size > mostBytes) {
      parts.push(part);
      part = emptyPart();
      bytes = 0;
    }
    bytes += size;
  };
  const lists = { elements, materials, luminaires, cameras };
  for (const name of LISTS) {
    for (const item of lists[name]) {
      roomFor(item);
      (part[name] as unknown[]).push(item);
    }
    for (const id of remove[name]) {
      roomFor(id);
      part.remove[name].push(id);
    }
  }
  parts.push({ ...part, ...once });
  parts[0]!.reset = reset;
  return parts;
}

/** Parts as the one change that they are. What a model has once holds as the last part that tells it says. */
export function joinParts(parts: readonly ModelChange[]): ModelChange {
  if (parts.length === 1) return parts[0]!;
  const out = { ...Object.assign({}, ...parts.map(told)), ...emptyPart(), reset: parts[0]!.reset } as ModelChange;
  for (const part of parts)
    for (const name of LISTS) {
      for (const item of part[name]) (out[name] as unknown[]).push(item);
      for (const id of part.remove[name]) out.remove[name].push(id);
    }
  return out;
}

/** Without fields that are there and undefined: they tell nothing. */
const told = (part: ModelChange): Partial<ModelChange> =>
  Object.fromEntries(Object.entries(part).filter(([, value]) => value !== undefined));

const emptyPart = (): ModelChange => ({
  reset: false, elements: [], materials: [], luminaires: [], cameras: [], remove: { elements: [], materials: [], luminaires: [], cameras: [] },
}); // prettier-ignore
