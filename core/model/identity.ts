import { addTo } from '../grouping';
import type { Model } from './model';
import type { ModelElement } from './schema';

/**
 * Gives elements of a re-exported file the ids that they had before, for formats without ids of their own. A path says who an
 * element is; where paths have shifted, its name and its meshes do. `fresh` must hold hashed meshes, as `before` does.
 */
export function keepIds(before: Model, fresh: Model): Model {
  const ids = new Map<string, string>();
  const taken = new Set<string>();
  const give = (element: ModelElement, id: string) => {
    ids.set(element.id, id);
    taken.add(id);
  };
  // Siblings of one name are numbered in turn, so one that is put in or taken out shifts the others: the same thing in the same place first.
  const inPlace = byKey(before, (e) => `${trunkOf(e.id)}|${shapeOf(e)}|${e.transform.map((v) => v.toFixed(4)).join()}`);
  for (const element of fresh.elements.values()) {
    const known = inPlace(`${trunkOf(element.id)}|${shapeOf(element)}|${element.transform.map((v) => v.toFixed(4)).join()}`);
    if (known !== undefined) give(element, known);
  }
  // Then who has its own path still free, unless that was somebody else's place.
  for (const element of fresh.elements.values())
    if (!ids.has(element.id) && before.elements.has(element.id) && !taken.has(element.id)) give(element, element.id);
  // Then who moved to another place of the tree under its name, or was renamed in it.
  const free = new Map([...before.elements].filter(([id]) => !taken.has(id) && !fresh.elements.has(id)));
  const moved = byKey({ ...before, elements: free }, (e) => `${e.name}|${shapeOf(e)}`);
  for (const element of fresh.elements.values()) {
    if (ids.has(element.id)) continue;
    const known = moved(`${element.name}|${shapeOf(element)}`);
    if (known !== undefined && !taken.has(known)) give(element, known);
  }
  for (const element of fresh.elements.values()) {
    if (ids.has(element.id)) continue;
    let id = element.id;
    for (let n = 2; taken.has(id); n++) id = `${element.id.slice(0, 190)}~${String(n)}`;
    give(element, id);
  }
  if ([...ids].every(([own, id]) => own === id)) return fresh;
  const elements = new Map([...fresh.elements.values()].map((e) => [ids.get(e.id)!, { ...e, id: ids.get(e.id)! }]));
  const luminaires = new Map(
    [...fresh.luminaires].map(([id, l]) => [id, l.element === null ? l : { ...l, element: ids.get(l.element) ?? l.element }]),
  );
  return { ...fresh, elements, luminaires };
}

/** Path without the numbers among siblings. */
const trunkOf = (id: string) => id.replace(/[#@~]\d+(?=\/|@|$)/g, '');
const shapeOf = (element: ModelElement) => element.parts.map((p) => p.mesh).join();

/** Ids by a key, each handed out once, in the model's order. */
function byKey(model: Pick<Model, 'elements'>, keyOf: (element: ModelElement) => string): (key: string) => string | undefined {
  const lists = new Map<string, string[]>();
  for (const element of model.elements.values()) {
    const key = keyOf(element);
    addTo(lists, key, element.id);
  }
  for (const list of lists.values()) list.reverse();
  return (key) => lists.get(key)?.pop();
}
