import * as v from 'valibot';
import { standInSchema } from '../../setting/stand-in';
import { setThingSchema } from '../../setting/set-thing';
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
  command('set-stand-ins', { standIns: v.pipe(v.array(standInSchema), v.maxLength(200)), name }, ({ standIns, name: what }, { put }) => ({
    label: what,
    changes: [put('stand-ins', standIns.length > 0 ? standIns : undefined)],
  })),
] as const;
