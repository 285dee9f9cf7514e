import * as v from 'valibot';
import { CONDITION_COMMANDS } from './commands/conditions';
import { before, type CommandEffect, type CommandRefusal } from './commands/define';
import { FINISH_COMMANDS } from './commands/finishes';
import { LIGHT_COMMANDS } from './commands/light';
import { LIGHTING_COMMANDS } from './commands/lighting';
import { SETTING_COMMANDS } from './commands/setting';
import { SOURCE_COMMANDS } from './commands/source';
import { VIEW_COMMANDS } from './commands/views';
import type { Entries } from './project';

export type { CommandEffect, CommandRefusal } from './commands/define';

const KINDS = [
  ...SOURCE_COMMANDS,
  ...FINISH_COMMANDS,
  ...LIGHT_COMMANDS,
  ...LIGHTING_COMMANDS,
  ...CONDITION_COMMANDS,
  ...SETTING_COMMANDS,
  ...VIEW_COMMANDS,
] as const;
type Schemas<K extends readonly { schema: unknown }[]> = { [I in keyof K]: K[I]['schema'] };

/** Everything that a person can change in a project. */
export const commandSchema = v.variant('type', KINDS.map(({ schema }) => schema) as unknown as Schemas<typeof KINDS>);
export type Command = v.InferOutput<typeof commandSchema>;

const EFFECTS = new Map<string, unknown>(KINDS.map(({ type, effect }) => [type, effect]));

/** The entry changes a command stands for; `now` is an ISO time. Pure: nothing is applied. */
export function effectOf(entries: Entries, command: Command, now: string): CommandEffect | CommandRefusal {
  const effect = EFFECTS.get(command.type) as (c: Command, project: ReturnType<typeof before>) => CommandEffect | CommandRefusal;
  return effect(command, before(entries, now));
}
