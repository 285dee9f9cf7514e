import type { ThingForm, ThingKind } from './thing-kind';

/** What a member consists of tells what it is: its kind, form and state. */
export interface KnownThing {
  kind: ThingKind;
  form: ThingForm;
  state?: string | undefined;
}

const keyOf = (meshes: readonly string[]): string => [...meshes].sort().join(' ');

/** Finds a thing by the meshes that it consists of. */
export function thingsByMeshes(kinds: Iterable<ThingKind>): (meshes: readonly string[]) => KnownThing | undefined {
  const known = new Map<string, KnownThing>();
  for (const kind of kinds)
    for (const form of kind.forms)
      for (const state of kind.states.length > 0 ? kind.states : [undefined]) {
        const shown = form.parts.filter((part) => !part.in || part.in.includes(state ?? ''));
        known.set(keyOf(shown.map(({ mesh }) => mesh)), { kind, form, state });
      }
  return (meshes) => known.get(keyOf(meshes));
}
