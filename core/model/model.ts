import { LayeredMap } from './layered-map';
import {
  TEXTURE_PICTURES,
  type BasePoint,
  type Camera,
  type Luminaire,
  type ModelChange,
  type ModelElement,
  type Photometry,
  type Presentation,
  type SavedCamera,
  type Site,
  type SourceMaterial,
} from './schema';

/** One source's model as last applied. */
export interface Model {
  readonly elements: ReadonlyMap<string, ModelElement>;
  readonly materials: ReadonlyMap<string, SourceMaterial>;
  readonly luminaires: ReadonlyMap<string, Luminaire>;
  readonly cameras: ReadonlyMap<string, SavedCamera>;
  readonly site?: Site | undefined;
  readonly basePoint?: BasePoint | undefined;
  readonly presentation: Presentation;
  readonly camera?: Camera | undefined;
  readonly time?: string | undefined;
  readonly remarks?: readonly string[] | undefined;
  readonly photometry?: readonly Photometry[] | undefined;
}

export const EMPTY_MODEL: Model = {
  elements: new Map(),
  materials: new Map(),
  luminaires: new Map(),
  cameras: new Map(),
  presentation: { hiddenLayers: [], options: [], option: null, phases: [], phase: null },
};

/** A reference in a change to something that the resulting model would not hold. */
export interface DanglingReference {
  field: string;
  message: string;
}

/** The model after a change; the one given stays as it was. */
export function applyChange(model: Model, change: ModelChange): Model {
  const base = change.reset ? EMPTY_MODEL : model;
  return {
    elements: merge(base.elements, change.elements, change.remove.elements),
    materials: merge(base.materials, change.materials, change.remove.materials),
    luminaires: merge(base.luminaires, change.luminaires, change.remove.luminaires),
    cameras: merge(base.cameras, change.cameras, change.remove.cameras),
    site: change.site ?? base.site,
    basePoint: change.basePoint ?? base.basePoint,
    presentation: change.presentation ?? base.presentation,
    camera: change.camera ?? base.camera,
    time: change.time ?? base.time,
    remarks: change.remarks ?? base.remarks,
    photometry: change.photometry ?? base.photometry,
  };
}

function merge<T extends { id: string }>(
  before: ReadonlyMap<string, T>,
  upsert: readonly T[],
  remove: readonly string[],
): ReadonlyMap<string, T> {
  if (upsert.length === 0 && remove.length === 0) return before;
  return LayeredMap.of(before).with(
    remove,
    upsert.map((item) => [item.id, item]),
  );
}

/** First reference of a change that leads nowhere, or undefined: parts name materials, presentation its options and phases. */
export function findDangling(model: Model, change: ModelChange): DanglingReference | undefined {
  const after = applyChange(model, change);
  for (const [i, element] of change.elements.entries())
    for (const [k, part] of element.parts.entries())
      if (!after.materials.has(part.material))
        return {
          field: `elements.${String(i)}.parts.${String(k)}.material`,
          message: `names a source material that the model does not have: ${part.material.slice(0, 80)}`,
        };
  const gone = new Set(change.remove.materials.filter((id) => !after.materials.has(id)));
  if (gone.size > 0)
    for (const element of after.elements.values())
      for (const part of element.parts)
        if (gone.has(part.material))
          return { field: 'remove.materials', message: `removes a source material still in use: ${part.material.slice(0, 80)}` };
  const files = new Set(after.photometry?.map(({ id }) => id));
  for (const [i, { photometry }] of change.luminaires.entries())
    if (photometry && !files.has(photometry))
      return {
        field: `luminaires.${String(i)}.photometry`,
        message: `names a photometric file that the model does not have: ${photometry.slice(0, 80)}`,
      };
  const p = change.presentation;
  if (p?.option && !p.options.some((o) => o.id === p.option)) return { field: 'presentation.option', message: 'is not among the options' };
  if (p?.phase && !p.phases.some((o) => o.id === p.phase)) return { field: 'presentation.phase', message: 'is not among the phases' };
  return undefined;
}

/** Classes that are never built: they say how a model is made or measured. */
export const NOT_BUILT: ReadonlySet<string> = new Set([
  'OpeningElement',
  'OpeningStandardCase',
  'Space',
  'Grid',
  'Annotation',
  'VirtualElement',
]);

/** Whether an element is shown under a presentation: layer on, in the active option, already built in the active phase and not gone yet. */
export function isShown(element: ModelElement, presentation: Presentation, hidden: ReadonlySet<string>): boolean {
  if (hidden.has(element.layer)) return false;
  if (element.option !== null && presentation.option !== null && element.option !== presentation.option) return false;
  if (presentation.phase === null) return true;
  const time = (phase: string) => presentation.phases.findIndex((p) => p.id === phase);
  const now = time(presentation.phase);
  if (element.until != null && time(element.until) <= now) return false;
  return element.phase === null || time(element.phase) <= now;
}

/** The whole model as one change. */
export function snapshotOf(model: Model): ModelChange {
  return {
    reset: true,
    elements: [...model.elements.values()],
    materials: [...model.materials.values()],
    luminaires: [...model.luminaires.values()],
    cameras: [...model.cameras.values()],
    remove: { elements: [], materials: [], luminaires: [], cameras: [] },
    site: model.site,
    basePoint: model.basePoint,
    presentation: model.presentation,
    camera: model.camera,
    time: model.time,
    remarks: model.remarks && [...model.remarks],
    photometry: model.photometry && [...model.photometry],
  };
}

/** What a change can set, but not take away. */
const LASTING = ['site', 'basePoint', 'camera', 'time'] as const;

/** The change that turns one model into another, comparing by id; a new start where something goes that no change can take away. */
export function differenceOf(before: Model, after: Model): ModelChange {
  if (LASTING.some((part) => before[part] !== undefined && after[part] === undefined)) return snapshotOf(after);
  const elements = compare(before.elements, after.elements);
  const materials = compare(before.materials, after.materials);
  const luminaires = compare(before.luminaires, after.luminaires);
  const cameras = compare(before.cameras, after.cameras);
  return {
    reset: false,
    elements: elements.changed,
    materials: materials.changed,
    luminaires: luminaires.changed,
    cameras: cameras.changed,
    remove: {
      elements: elements.removed,
      materials: materials.removed,
      luminaires: luminaires.removed,
      cameras: cameras.removed,
    },
    site: same(before.site, after.site) ? undefined : after.site,
    basePoint: same(before.basePoint, after.basePoint) ? undefined : after.basePoint,
    presentation: same(before.presentation, after.presentation) ? undefined : after.presentation,
    camera: same(before.camera, after.camera) ? undefined : after.camera,
    time: before.time === after.time ? undefined : after.time,
    remarks: same(before.remarks ?? [], after.remarks ?? []) ? undefined : [...(after.remarks ?? [])],
    photometry: same(before.photometry ?? [], after.photometry ?? []) ? undefined : [...(after.photometry ?? [])],
  };
}

/** How many things a change touches. */
export function countChange(change: ModelChange): number {
  const r = change.remove;
  return (
    change.elements.length +
    change.materials.length +
    change.luminaires.length +
    change.cameras.length +
    r.elements.length +
    r.materials.length +
    r.luminaires.length +
    r.cameras.length +
    (change.site ? 1 : 0) +
    (change.basePoint ? 1 : 0) +
    (change.presentation ? 1 : 0) +
    (change.camera ? 1 : 0) +
    (change.time ? 1 : 0) +
    (change.remarks ? 1 : 0) +
    (change.photometry ? 1 : 0)
  );
}

/** Elements by what a change does to them. */
export interface ElementCounts {
  added: number;
  changed: number;
  removed: number;
}

/** What becomes of the elements of one model in another. */
export function elementCounts(before: Model, after: Model): ElementCounts {
  const counts: ElementCounts = { added: 0, changed: 0, removed: 0 };
  for (const [id, element] of after.elements) {
    const known = before.elements.get(id);
    if (!known) counts.added++;
    else if (!same(known, element)) counts.changed++;
  }
  for (const id of before.elements.keys()) if (!after.elements.has(id)) counts.removed++;
  return counts;
}

function compare<T extends { id: string }>(before: ReadonlyMap<string, T>, after: ReadonlyMap<string, T>) {
  return {
    changed: [...after.values()].filter((item) => !same(before.get(item.id), item)),
    removed: [...before.keys()].filter((id) => !after.has(id)),
  };
}

function same(a: unknown, b: unknown): boolean {
  return a === b || JSON.stringify(a) === JSON.stringify(b);
}

/** Every blob that a change refers to. */
export function blobsOf(change: ModelChange): Set<string> {
  const out = new Set<string>();
  for (const element of change.elements) for (const part of element.parts) out.add(part.mesh);
  for (const { texture } of change.materials) if (texture) for (const picture of picturesOfTexture(texture)) out.add(picture);
  return out;
}

const picturesOfTexture = (texture: NonNullable<SourceMaterial['texture']>): string[] =>
  TEXTURE_PICTURES.map((part) => texture[part]).filter((hash) => hash !== undefined && hash !== null);
