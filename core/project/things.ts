import { IDENTITY, invert, multiply, transformPoint, type Mat4 } from '../geometry/mat4';
import { movedFrame } from '../lamp/frame';
import type { PlacedLamp } from '../lamp/placed-lamp';
import type { Model } from '../model/model';
import { leftKey } from './left';
import { entry, type Entries } from './project';

/** Things that were placed in the project, rather than in a model. */

export const thingKey = (id: string) => `thing/${id}` as const;

export interface PlacedThing<T> {
  id: string;
  thing: T;
  /** From where it was placed to where it is now: what it stands on may have moved. */
  at: Mat4;
  /** What it stood on is gone; it stays where that was last. */
  isLeft: boolean;
}

export function placedLamps(entries: Entries, sources: readonly { id: string; model: Model }[]): PlacedThing<PlacedLamp>[] {
  const lamps: PlacedThing<PlacedLamp>[] = [];
  for (const key of entries.keys()) {
    if (!key.startsWith('thing/')) continue;
    const thing = entry(entries, key as `thing/${string}`)!;
    lamps.push({ id: key.slice('thing/'.length), thing, ...placeOf(thing.stands, sources, entries) });
  }
  return lamps;
}

/** The lamp as it lies now, as if it had been placed so. */
export function settled({ thing, at }: PlacedThing<PlacedLamp>): PlacedLamp {
  if (at === IDENTITY) return thing;
  const { direction, turnDeg } = movedFrame(at, thing.direction, thing.turnDeg);
  const stands = thing.stands && { ...thing.stands, transform: [...multiply(at, thing.stands.transform)] };
  return { ...thing, position: [...transformPoint(at, thing.position)], direction: [...direction], turnDeg, ...(stands && { stands }) };
}

/** From where something was placed to where it is now, by what it stands on. */
export function placeOf(
  stands: PlacedLamp['stands'],
  sources: readonly { id: string; model: Model }[],
  entries: Entries,
): { at: Mat4; isLeft: boolean } {
  if (!stands) return { at: IDENTITY, isLeft: false };
  const now = sources.find(({ id }) => id === stands.source)?.model.elements.get(stands.element)?.transform;
  if (now?.every((v, i) => v === stands.transform[i])) return { at: IDENTITY, isLeft: false };
  const back = invert(stands.transform);
  const last = now ?? entry(entries, leftKey(stands.source, stands.element));
  return { at: last && back ? multiply(last, back) : IDENTITY, isLeft: !now };
}
