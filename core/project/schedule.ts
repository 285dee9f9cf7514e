import { meanScale } from '../geometry/mat4';
import type { Model } from '../model/model';
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

/** The finish schedule of one source; `areasM2` holds the surface area of each mesh that has arrived. */
export function scheduleRows(source: string, model: Model, areasM2: ReadonlyMap<string, number>, entries: Entries): ScheduleRow[] {
  const elements = new Map<string, Set<string>>();
  const areas = new Map<string, number>();
  for (const element of model.elements.values()) {
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
