import type { PlacedArea } from '../geometry/placed-area';
import { isShown, type Model } from '../model/model';
import { placedModel } from './placement';
import { shownPresentation } from './visibility';
import { chooseFinish, entry, noteKey, type Entries, type FinishChoice } from './project';

/** One source material in the finish schedule. */
export interface ScheduleRow {
  key: string;
  source: string;
  material: string;
  name: string;
  /** The model's own, sRGB. */
  colour: readonly number[];
  /** Elements that have a part of it. */
  elements: number;
  areaM2: number;
  choice: FinishChoice;
  /** The person's own, empty at first. */
  code: string;
  note: string;
}

const NOTHING: ReadonlySet<string> = new Set();

/** The finish schedule of one source, of the option and phase that are looked at, whatever is hidden; `areas` knows the surface of each mesh that has arrived. */
export function scheduleRows(source: string, model: Model, areas: ReadonlyMap<string, PlacedArea>, entries: Entries): ScheduleRow[] {
  const elements = new Map<string, Set<string>>();
  const areasM2 = new Map<string, number>();
  const presentation = shownPresentation(entries, source, model);
  // True sizes: as a source is placed, so large are its surfaces.
  for (const element of placedModel(model, entry(entries, `placement/${source}`)).elements.values()) {
    if (!isShown(element, presentation, NOTHING)) continue;
    for (const { material, mesh } of element.parts) {
      elements.set(material, (elements.get(material) ?? new Set()).add(element.id));
      areasM2.set(material, (areasM2.get(material) ?? 0) + (areas.get(mesh)?.under(element.transform) ?? 0));
    }
  }
  return [...model.materials.values()].map((material) => ({
    key: `${source}/${material.id}`,
    source,
    material: material.id,
    name: material.name,
    colour: material.colour,
    elements: elements.get(material.id)?.size ?? 0,
    areaM2: areasM2.get(material.id) ?? 0,
    choice: chooseFinish(entries, source, material),
    ...(entry(entries, noteKey(source, material.id)) ?? { code: '', note: '' }),
  }));
}
