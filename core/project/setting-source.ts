import { LayeredMap } from '../model/layered-map';
import type { Model } from '../model/model';
import type { ModelElement } from '../model/schema';
import { SETTING, SettingModel, type PlacedLand, type PlacedSet, type ThingKinds } from '../setting/setting-model';
import { meshesToPlace, standingIn, type BoundsOf } from '../setting/stand-in';
import { entry, type Entries } from './project';
import { placeOf } from './things';

interface Source {
  id: string;
  model: Model;
}

/** All that is set, where it is now. */
export function placedSets(entries: Entries, sources: readonly Source[]): (PlacedSet & { isLeft: boolean })[] {
  const sets: (PlacedSet & { isLeft: boolean })[] = [];
  for (const key of entries.keys()) {
    if (!key.startsWith('set/')) continue;
    const thing = entry(entries, key as `set/${string}`)!;
    sets.push({ id: key.slice('set/'.length), thing, ...placeOf(thing.stands, sources, entries) });
  }
  return sets;
}

export const laidLands = (entries: Entries): PlacedLand[] =>
  [...entries.keys()]
    .filter((key) => key.startsWith('land/'))
    .map((key) => ({ id: key.slice('land/'.length), land: entry(entries, key as `land/${string}`)! }));

const emptied = new WeakMap<ModelElement, ModelElement>();

/** Models without the shapes that a terrain has taken the place of. */
function withoutTaken(sources: readonly Source[], lands: readonly PlacedLand[]): readonly Source[] {
  const taken = lands.flatMap(({ land }) => (land.kind === 'terrain' ? land.instead : []));
  if (taken.length === 0) return sources;
  return sources.map(({ id, model }) => {
    const gone = taken.flatMap(({ source, element }): [string, ModelElement][] => {
      const found = source === id ? model.elements.get(element) : undefined;
      if (!found) return [];
      const empty = emptied.get(found) ?? { ...found, parts: [] };
      emptied.set(found, empty);
      return [[element, empty]];
    });
    return gone.length === 0 ? { id, model } : { id, model: { ...model, elements: LayeredMap.of(model.elements).with([], gone) } };
  });
}

/** Meshes whose boxes are to be known, so that things stand for all elements that they are to stand for. */
export const meshesToKnow = (sources: readonly Source[], entries: Entries): Set<string> =>
  meshesToPlace(
    sources.map(({ model }) => model),
    entry(entries, 'stand-ins') ?? [],
  );

/** The models, and what is set about them as one more, the last. */
export function withSetting(
  sources: readonly Source[],
  entries: Entries,
  kinds: ThingKinds,
  maker = new SettingModel(),
  boundsOf?: BoundsOf,
): readonly Source[] {
  const rules = (entry(entries, 'stand-ins') ?? []).filter(({ kind }) => kinds.has(kind));
  const lands = laidLands(entries);
  const bare = withoutTaken(sources, lands);
  const stood = bare.map(({ id, model }) => ({ id, ...standingIn(id, model, rules, boundsOf) }));
  const sets = [...placedSets(entries, sources), ...stood.flatMap((source) => source.sets)];
  const setting = maker.modelOf(sets, kinds, lands);
  const models = rules.length === 0 ? bare : stood.map(({ id, model }) => ({ id, model }));
  return setting ? [...models, { id: SETTING, model: setting }] : models;
}
