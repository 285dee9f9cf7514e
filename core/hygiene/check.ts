import type { Mesh } from '../geometry/mesh';
import type { Model } from '../model/model';
import { shownElements } from '../project/visibility';
import { entry, type Entries } from '../project/project';
import { multiply, translation } from '../geometry/mat4';
import { bodyOf, type Body } from './body';
import { checkCoplanar } from './coplanar';
import type { Finding } from './finding';
import { checkLying } from './lying';
import { checkNaming } from './naming';
import { checkDuplicates, checkExtent, checkSurfaces } from './surface-checks';
import { checkWalls } from './walls';

/** What has been found so far, and how far the checks are: 0 to 1. */
export interface Progress {
  findings: Finding[];
  done: number;
}

/** All checks over what is shown, one after the other, the quick ones first. `sources` are placed; remedies that were taken count. */
export function* checkModel(
  sources: readonly { id: string; name: string; model: Model }[],
  entries: Entries,
  mesh: (key: string) => Mesh | undefined,
): Generator<Progress> {
  for (const [i, { id, model }] of sources.entries())
    yield { findings: checkNaming(id, model, entries), done: (0.1 * (i + 1)) / sources.length };
  const bodies: Body[] = [];
  const names = new Map(sources.map(({ id, name }) => [id, name]));
  for (const { id, model } of sources) {
    const isShown = shownElements(entries, id, model);
    for (const element of model.elements.values()) {
      if (!isShown(element)) continue;
      const by = entry(entries, `nudge/${id}/${element.id}`);
      const turned = entry(entries, `turned/${id}/${element.id}`) === true;
      const placed = by ? { ...element, transform: [...multiply(translation(...by), element.transform)] } : element;
      const body = bodyOf(id, placed, mesh);
      if (body) bodies.push({ ...body, nudged: by, ...(turned ? { indices: body.indices.slice().reverse() } : {}) });
    }
  }
  const steps = [
    (all: readonly Body[]) => checkLying(all, names, entries),
    checkDuplicates,
    checkExtent,
    checkSurfaces,
    (all: readonly Body[]) => checkWalls(all, entry(entries, 'hygiene')?.widestGapM),
    checkCoplanar,
  ];
  for (const [i, step] of steps.entries()) yield { findings: step(bodies), done: 0.2 + (0.8 * (i + 1)) / steps.length };
}
