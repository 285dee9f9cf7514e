import type { Model } from '../model/model';
import type { ModelElement } from '../model/schema';
import type { Entries } from './project';
import { groupKeyOf, hiddenAtFirst, shownElements, visibilityOf, type Grouping } from './visibility';

/** A layer, storey or class of one source, with what is in it. */
export interface TreeGroup {
  key: string;
  source: string;
  name: string;
  /** In the order of the model. */
  elements: ModelElement[];
  /** How many of them are shown now. */
  shown: number;
  /** Decided by hand; undefined: as at first. */
  decided: boolean | undefined;
  isolated: boolean;
  /** Why the group is hidden at first. */
  hiddenAtFirst: string | undefined;
}

const NAME_OF: Record<Grouping, (element: ModelElement) => string> = {
  layer: (element) => element.layer,
  storey: (element) => element.storey,
  class: (element) => element.class,
};

/** Elements of a source by layer, storey or class, names in natural order; `search` keeps groups and elements whose name has it. */
export function treeOf(source: string, model: Model, grouping: Grouping, entries: Entries, search = ''): TreeGroup[] {
  const { decisions, isolated } = visibilityOf(entries);
  const isShown = shownElements(entries, source, model);
  const sought = search.trim().toLowerCase();
  const groups = new Map<string, TreeGroup>();
  for (const element of model.elements.values()) {
    const name = NAME_OF[grouping](element);
    let group = groups.get(name);
    if (!group) {
      const key = groupKeyOf(grouping, source, name);
      group = {
        key, source, name, elements: [], shown: 0, decided: decisions[key], isolated: isolated.includes(key),
        hiddenAtFirst: hiddenAtFirst(grouping, name, model.presentation),
      }; // prettier-ignore
      groups.set(name, group);
    }
    if (sought && !name.toLowerCase().includes(sought) && !element.name.toLowerCase().includes(sought)) continue;
    group.elements.push(element);
    if (isShown(element)) group.shown++;
  }
  const order = new Intl.Collator('en', { numeric: true }).compare;
  return [...groups.values()].filter((g) => g.elements.length > 0).sort((a, b) => order(a.name, b.name));
}
