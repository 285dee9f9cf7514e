import * as v from 'valibot';
import { standInSchema } from '../../setting/stand-in';
import { thingKindSchema } from '../../setting/thing-kind';
import { setThingSchema } from '../../setting/set-thing';
import { landMaterial, landSchema } from '../../setting/land';
import { SETTING } from '../../setting/setting-model';
import { assignmentKey } from '../project';
import { command, id, name } from './define';

const GROUND_WORDS = { auto: 'Plain ground where the model has none', always: 'Plain ground laid', never: 'No plain ground' } as const;

/** What stands around the building. */
export const SETTING_COMMANDS = [
  command('lay-ground', { ground: v.picklist(['auto', 'always', 'never']) }, ({ ground }, { put }) => ({
    label: GROUND_WORDS[ground],
    changes: [put('ground', ground)],
  })),
  /** Null: taken away. */
  command(
    'set-things',
    { sets: v.pipe(v.array(v.strictObject({ id, thing: v.nullable(setThingSchema) })), v.minLength(1), v.maxLength(2000)), name },
    ({ sets, name: what }, { put }) => ({ label: what, changes: sets.map(({ id: set, thing }) => put(`set/${set}`, thing ?? undefined)) }),
  ),
  /** A thing of one's own comes into the project. */
  command('bring-kind', { kind: thingKindSchema }, ({ kind }, { put }) => ({
    label: `${kind.name} in the library`,
    changes: [put(`kind/${kind.id}`, kind)],
  })),
  /** Null: taken away. `sets`: what stands on it, where it stands now. */
  command(
    'lay-land',
    {
      lands: v.pipe(v.array(v.strictObject({ id, land: v.nullable(landSchema) })), v.minLength(1), v.maxLength(100)),
      sets: v.pipe(v.array(v.strictObject({ id, thing: setThingSchema })), v.maxLength(2000)),
      name,
    },
    ({ lands, sets, name: what }, { entries, put, now }) => {
      const finishes = new Set(lands.flatMap(({ land }) => land?.parts.map(({ finish }) => finish) ?? []));
      const keys = [...finishes].map((finish) => ({ finish, key: assignmentKey(SETTING, landMaterial(finish)) }));
      return {
        label: what,
        changes: [
          ...lands.map(({ id: its, land }) => put(`land/${its}`, land ?? undefined)),
          ...sets.map(({ id: set, thing }) => put(`set/${set}`, thing)),
          // What covers it may be given another finish in the schedule, which then stays.
          ...keys.filter(({ key }) => !entries.has(key)).map(({ key, finish }) => put(key, { finish, at: now })),
        ],
      };
    },
  ),
  command('set-stand-ins', { standIns: v.pipe(v.array(standInSchema), v.maxLength(200)), name }, ({ standIns, name: what }, { put }) => ({
    label: what,
    changes: [put('stand-ins', standIns.length > 0 ? standIns : undefined)],
  })),
] as const;
