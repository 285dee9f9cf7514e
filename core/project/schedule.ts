import { meanScale } from '../geometry/mat4';
import { isShown, type Model } from '../model/model';
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

/** The finish schedule of one source, of the option and phase that are looked at, whatever is hidden; `areasM2` holds the surface area of each mesh that has arrived. */
export function scheduleRows(source: string, model: Model, areasM2: ReadonlyMap<string, number>, entries: Entries): ScheduleRow[] {
  const elements = new Map<string, Set<string>>();
  const areas = new Map<string, number>();
  const presentation = shownPresentation(entries, source, model);
  for (const element of model.elements.values()) {
    if (!isShown(element, presentation, NOTHING)) continue;
    const scale = meanScale(element.transform) ** 2;
    for (const { material, mesh } of element.parts) {
      elements.set(material, (elements.get(material) ?? new Set()).add(element.id));
      areas.set(material, (areas.get(material) ?? 0) + (areasM2.get(mesh) ?? 0) * scale);
    }
  }
  return [...model.materials.values()].map((material) => ({
    key: `${source}/${material.id}`,
    source,
    material: material.id,
    name: material.name,
    colour: material.colour,
    elements: elements.get(material.id)?.size ?? 0,
    areaM2: areas.get(material.id) ?? 0,
    choice: chooseFinish(entries, source, material),
    ...(entry(entries, noteKey(source, material.id)) ?? { code: '', note: '' }),
  }));
}
