import * as v from 'valibot';
import { finishSchema, type Finish } from '../../finish/finish';
import { uvOverrideSchema } from '../../finish/uv-override';
import { rulesSchema } from '../../finish/rules';
import { assignmentKey, findFinish, noteKey, overrideKey, type Entries } from '../project';
import { command, id, name, type Before } from './define';

const noteSchema = v.strictObject({
  source: id,
  material: id,
  code: v.pipe(v.string(), v.trim(), v.maxLength(40)),
  note: v.pipe(v.string(), v.trim(), v.maxLength(2000)),
});

const noted = ({ put }: Before, { source, material, code, note }: v.InferOutput<typeof noteSchema>) =>
  put(noteKey(source, material), code === '' && note === '' ? undefined : { code, note });

const unknownFinish = (finish: string) => ({ refused: `There is no finish “${finish}” in this project.` });
const missing = (entries: Entries, finish: string | null): boolean => finish !== null && !findFinish(entries, finish);
const assignedLabel = (entries: Entries, finish: string | null, target: string): string =>
  finish === null ? `Finish taken off ${target.slice(0, 60)}` : `${findFinish(entries, finish)!.name} on ${target.slice(0, 60)}`;

/** Finishes, what carries them, and how they lie. */
export const FINISH_COMMANDS = [
  command('assign-finish', { source: id, material: id, finish: v.nullable(id) }, ({ source, material, finish }, { entries, put, now }) =>
    missing(entries, finish)
      ? unknownFinish(finish!)
      : {
          label: assignedLabel(entries, finish, material),
          changes: [put(assignmentKey(source, material), finish === null ? undefined : { finish, at: now })],
        },
  ),
  command(
    'assign-element-finish',
    { source: id, element: id, finish: v.nullable(id) },
    ({ source, element, finish }, { entries, put, now }) =>
      missing(entries, finish)
        ? unknownFinish(finish!)
        : {
            label: assignedLabel(entries, finish, 'one element'),
            changes: [put(overrideKey(source, element), finish === null ? undefined : { finish, at: now })],
          },
  ),
  /** Finishes for many source materials and elements, as one step. */
  command(
    'assign-many',
    {
      assignments: v.pipe(
        v.array(v.strictObject({ source: id, material: v.optional(id), element: v.optional(id), finish: v.nullable(id) })),
        v.maxLength(200_000),
      ),
      notes: v.optional(v.pipe(v.array(noteSchema), v.maxLength(200_000))),
      name,
    },
    ({ assignments, notes = [], name: what }, project) => {
      const { entries, put, now } = project;
      const unknown = assignments.find(({ finish }) => missing(entries, finish));
      if (unknown) return unknownFinish(unknown.finish!);
      const count = (n: number, word: string) => (n === 0 ? [] : [`${String(n)} ${word}${n === 1 ? '' : 's'}`]);
      return {
        label: `${what}: ${[...count(assignments.length, 'assignment'), ...count(notes.length, 'note')].join(', ')}`,
        changes: [
          ...assignments.flatMap(({ source, material, element, finish }) => {
            const value = finish === null ? undefined : { finish, at: now };
            return [
              ...(material === undefined ? [] : [put(assignmentKey(source, material), value)]),
              ...(element === undefined ? [] : [put(overrideKey(source, element), value)]),
            ];
          }),
          ...notes.map((note) => noted(project, note)),
        ],
      };
    },
  ),
  /** What stands beside a row of the schedule. */
  command('note-row', noteSchema.entries, (note, project) => ({
    label: `${note.material.slice(0, 60)} noted`,
    changes: [noted(project, note)],
  })),
  command('set-rules', { rules: rulesSchema }, ({ rules }, { entries, put }) => {
    const unknown = rules.find((rule) => !findFinish(entries, rule.finish));
    if (unknown) return unknownFinish(unknown.finish);
    return {
      label: `${String(rules.length)} finish ${rules.length === 1 ? 'rule' : 'rules'}`,
      changes: [put('rules', rules.length > 0 ? rules : undefined)],
    };
  }),
  command('edit-finish', { finish: finishSchema }, ({ finish }, { put }) => ({
    label: `${finish.name} edited`,
    changes: [put(`finish/${finish.id}`, finish)],
  })),
  /** Finishes of the project's own; the first is assigned to these from now on. */
  command(
    'make-finishes',
    {
      finishes: v.pipe(v.array(finishSchema), v.minLength(1), v.maxLength(2000)),
      on: v.pipe(v.array(v.strictObject({ source: id, material: id })), v.maxLength(10_000)),
    },
    ({ finishes, on }, { entries, put, now }) => {
      const known = finishes.find((finish) => findFinish(entries, finish.id));
      if (known) return { refused: `There is a finish “${known.id}” already.` };
      const [first] = finishes as [Finish, ...Finish[]];
      return {
        label: finishes.length === 1 ? `${first.name} made` : `${String(finishes.length)} finishes brought in`,
        changes: [
          ...finishes.map((finish) => put(`finish/${finish.id}`, finish)),
          ...on.map(({ source, material }) => put(assignmentKey(source, material), { finish: first.id, at: now })),
        ],
      };
    },
  ),
  command('reset-finish', { finish: id }, ({ finish }, { put }) => ({
    label: 'Finish as shipped',
    changes: [put(`finish/${finish}`, undefined)],
  })),
  /** Null: as the finish lays them. */
  command('lay-maps', { source: id, element: id, laid: v.nullable(uvOverrideSchema), name }, (lay, { put }) => ({
    label: `Maps on ${lay.name.slice(0, 60)} ${lay.laid ? 'laid' : 'as the finish lays them'}`,
    changes: [put(`laid/${lay.source}/${lay.element}`, lay.laid ?? undefined)],
  })),
] as const;
