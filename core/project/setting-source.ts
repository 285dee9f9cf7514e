import type { Model } from '../model/model';
import { SETTING, SettingModel, type PlacedSet, type ThingKinds } from '../setting/setting-model';
import { standingIn } from '../setting/stand-in';
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
    sets.push({ id: key.slice('set/'.length), thing, ...placeOf(thing.stands, sources) });
  }
  return sets;
}

/** The models, and what is set about them as one more, the last. */
export function withSetting(
  sources: readonly Source[],
  entries: Entries,
  kinds: ThingKinds,
  maker = new SettingModel(),
): readonly Source[] {
  const rules = (entry(entries, 'stand-ins') ?? []).filter(({ kind }) => kinds.has(kind));
  const stood = sources.map(({ id, model }) => ({ id, ...standingIn(id, model, rules) }));
  const sets = [...placedSets(entries, sources), ...stood.flatMap((source) => source.sets)];
  const setting = maker.modelOf(sets, kinds);
  const models = rules.length === 0 ? sources : stood.map(({ id, model }) => ({ id, model }));
  return setting ? [...models, { id: SETTING, model: setting }] : models;
}
