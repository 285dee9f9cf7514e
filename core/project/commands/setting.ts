import * as v from 'valibot';
import { command } from './define';

const GROUND_WORDS = { auto: 'Plain ground where the model has none', always: 'Plain ground laid', never: 'No plain ground' } as const;

/** What stands around the building. */
export const SETTING_COMMANDS = [
  command('lay-ground', { ground: v.picklist(['auto', 'always', 'never']) }, ({ ground }, { put }) => ({
    label: GROUND_WORDS[ground],
    changes: [put('ground', ground)],
  })),
] as const;
