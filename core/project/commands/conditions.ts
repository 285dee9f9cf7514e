import * as v from 'valibot';
import { CONDITION_PARTS, conditionNow, recalled } from '../conditions';
import { entry } from '../project';
import { command, id, name } from './define';

const gone = { refused: 'This condition has been dropped meanwhile.' };

/** Kept states of light. */
export const CONDITION_COMMANDS = [
  /** What is shown now, under a name; in the place of an earlier one with that id. */
  command(
    'keep-condition',
    { id, name, parts: v.pipe(v.array(v.picklist(CONDITION_PARTS)), v.minLength(1, 'must keep something')) },
    ({ id: kept, name: called, parts }, { entries, put }) => ({
      label: `Condition ${called} kept`,
      changes: [put(`condition/${kept}`, conditionNow(entries, called, parts))],
    }),
  ),
  command('recall-condition', { id }, ({ id: kept }, { entries }) => {
    const condition = entry(entries, `condition/${kept}`);
    if (!condition) return gone;
    return { label: `Condition ${condition.name}`, changes: recalled(entries, condition) };
  }),
  command('name-condition', { id, name }, ({ id: kept, name: called }, { entries, put }) => {
    const condition = entry(entries, `condition/${kept}`);
    return condition ? { label: `Condition called ${called}`, changes: [put(`condition/${kept}`, { ...condition, name: called })] } : gone;
  }),
  command('drop-condition', { id }, ({ id: kept }, { put }) => ({
    label: 'Condition dropped',
    changes: [put(`condition/${kept}`, undefined)],
  })),
] as const;
