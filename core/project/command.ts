import * as v from 'valibot';
import { keptWalkSchema } from '../camera/walk';
import { finishSchema, type Finish } from '../finish/finish';
import { laidSchema } from '../finish/laid';
import { rulesSchema } from '../finish/rules';
import { LEAST_KELVIN, MOST_KELVIN, MOST_TINT } from '../image/white-balance';
import { cameraSchema, siteSchema } from '../model/schema';
import {
  assignmentKey,
  entry,
  findFinish,
  noteKey,
  overrideKey,
  type Entries,
  type EntryChange,
  type EntryKey,
  type EntryTypes,
} from './project';
import { placementSchema } from './placement';
import { carriedDecisions } from './replacing';
import { ALL_AS_AT_FIRST, visibilityOf } from './visibility';

const id = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
const date = v.pipe(v.string(), v.isoDate());
const name = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
const metres = v.pipe(v.number(), v.finite(), v.minValue(-1000), v.maxValue(1000));
const groupKeys = v.pipe(v.array(v.pipe(v.string(), v.minLength(1), v.maxLength(30_000))), v.maxLength(200_000));
const pairs = v.pipe(v.array(v.strictTuple([id, id])), v.maxLength(200_000));
const minutes = v.pipe(v.number(), v.minValue(0), v.maxValue(1440));

const whiteSchema = v.strictObject({
  kelvin: v.pipe(v.number(), v.minValue(LEAST_KELVIN), v.maxValue(MOST_KELVIN)),
  tint: v.pipe(v.number(), v.minValue(-MOST_TINT), v.maxValue(MOST_TINT)),
});

const noteSchema = v.strictObject({
  source: id,
  material: id,
  code: v.pipe(v.string(), v.trim(), v.maxLength(40)),
  note: v.pipe(v.string(), v.trim(), v.maxLength(2000)),
});

/** Everything that a person can change in a project. */
export const commandSchema = v.variant('type', [
  v.strictObject({ type: v.literal('assign-finish'), source: id, material: id, finish: v.nullable(id) }),
  v.strictObject({ type: v.literal('assign-element-finish'), source: id, element: id, finish: v.nullable(id) }),
  /** Finishes for many source materials and elements, as one step. */
  v.strictObject({
    type: v.literal('assign-many'),
    assignments: v.pipe(
      v.array(v.strictObject({ source: id, material: v.optional(id), element: v.optional(id), finish: v.nullable(id) })),
      v.maxLength(200_000),
    ),
    notes: v.optional(v.pipe(v.array(noteSchema), v.maxLength(200_000))),
    name,
  }),
  /** What stands beside a row of the schedule. */
  v.strictObject({ type: v.literal('note-row'), ...noteSchema.entries }),
  v.strictObject({ type: v.literal('set-rules'), rules: rulesSchema }),
  v.strictObject({ type: v.literal('edit-finish'), finish: finishSchema }),
  /** Finishes of the project's own; the first is worn by these from now on. */
  v.strictObject({
    type: v.literal('make-finishes'),
    finishes: v.pipe(v.array(finishSchema), v.minLength(1), v.maxLength(2000)),
    on: v.pipe(v.array(v.strictObject({ source: id, material: id })), v.maxLength(10_000)),
  }),
  v.strictObject({ type: v.literal('reset-finish'), finish: id }),
  v.strictObject({ type: v.literal('set-sun'), date, minutes }),
  v.strictObject({ type: v.literal('choose-site'), site: v.nullable(siteSchema) }),
  v.strictObject({
    type: v.literal('set-exposure'),
    mode: v.picklist(['auto', 'fixed']),
    ev100: v.pipe(v.number(), v.minValue(-10), v.maxValue(24)),
    /** Without one the picture finds its own. */
    white: v.optional(whiteSchema),
  }),
  v.strictObject({ type: v.literal('lay-ground'), ground: v.picklist(['auto', 'always', 'never']) }),
  v.strictObject({ type: v.literal('follow-author'), camera: v.boolean(), time: v.boolean() }),
  v.strictObject({
    type: v.literal('keep-view'),
    id,
    name,
    camera: cameraSchema,
  }),
  v.strictObject({ type: v.literal('drop-view'), id }),
  v.strictObject({ type: v.literal('keep-walk'), id, walk: keptWalkSchema }),
  v.strictObject({ type: v.literal('drop-walk'), id }),
  /** Null: as it comes. */
  v.strictObject({
    type: v.literal('place-source'),
    sources: v.pipe(v.array(id), v.minLength(1)),
    placement: v.nullable(placementSchema),
    name,
  }),
  v.strictObject({ type: v.literal('order-sources'), order: v.array(id) }),
  /** Null: where the model has it. */
  v.strictObject({
    type: v.literal('nudge-element'),
    source: id,
    element: id,
    by: v.nullable(v.strictTuple([metres, metres, metres])),
    name,
  }),
  /** Null: as the finish lays them. */
  v.strictObject({ type: v.literal('lay-maps'), source: id, element: id, laid: v.nullable(laidSchema), name }),
  v.strictObject({ type: v.literal('turn-faces'), source: id, element: id, turned: v.boolean(), name }),
  /** Decisions about elements and source materials go on to others, after a file took the place of another. */
  v.strictObject({ type: v.literal('carry-decisions'), source: id, elements: pairs, materials: pairs, name }),
  /** A gap at a wall's corner that is wider is taken for meant. */
  v.strictObject({ type: v.literal('set-widest-gap'), metres: v.pipe(v.number(), v.minValue(0.002), v.maxValue(0.5)) }),
  v.strictObject({ type: v.literal('excuse-finding'), finding: id, excused: v.boolean() }),
  /** Shows or hides groups of elements by key; null: as at first. */
  v.strictObject({ type: v.literal('show'), keys: groupKeys, shown: v.nullable(v.boolean()), name }),
  v.strictObject({ type: v.literal('isolate'), keys: groupKeys, name }),
  v.strictObject({ type: v.literal('show-as-at-first') }),
  v.strictObject({ type: v.literal('keep-shown'), id, name }),
  v.strictObject({ type: v.literal('use-shown'), id }),
  v.strictObject({ type: v.literal('drop-shown'), id }),
  /** Null: as the author has it. */
  v.strictObject({ type: v.literal('choose-variant'), source: id, option: v.nullable(id), phase: v.nullable(id) }),
]);
export type Command = v.InferOutput<typeof commandSchema>;

export interface CommandEffect {
  /** What the history says was done. */
  label: string;
  changes: EntryChange[];
}

/** What a person may have done wrong, in a sentence. */
export interface CommandRefusal {
  refused: string;
}

/** The entry changes a command stands for; `now` is an ISO time. Pure: nothing is applied. */
export function effectOf(entries: Entries, command: Command, now: string): CommandEffect | CommandRefusal {
  const put = <K extends EntryKey>(key: K, after: EntryTypes[K] | undefined): EntryChange => ({
    key,
    before: entry(entries, key),
    after,
  });
  const noted = ({ source, material, code, note }: v.InferOutput<typeof noteSchema>) =>
    put(noteKey(source, material), code === '' && note === '' ? undefined : { code, note });
  switch (command.type) {
    case 'assign-finish':
    case 'assign-element-finish': {
      const finish = command.finish === null ? undefined : findFinish(entries, command.finish);
      if (command.finish !== null && !finish) return { refused: `There is no finish “${command.finish}” in this project.` };
      const key =
        command.type === 'assign-finish' ? assignmentKey(command.source, command.material) : overrideKey(command.source, command.element);
      const target = command.type === 'assign-finish' ? command.material : 'one element';
      return {
        label: finish ? `${finish.name} on ${target.slice(0, 60)}` : `Finish taken off ${target.slice(0, 60)}`,
        changes: [put(key, finish && { finish: finish.id, at: now })],
      };
    }
    case 'assign-many': {
      const unknown = command.assignments.find((a) => a.finish !== null && !findFinish(entries, a.finish));
      if (unknown) return { refused: `There is no finish “${unknown.finish!}” in this project.` };
      const { assignments, notes = [] } = command;
      const count = (n: number, word: string) => (n === 0 ? [] : [`${String(n)} ${word}${n === 1 ? '' : 's'}`]);
      return {
        label: `${command.name}: ${[...count(assignments.length, 'assignment'), ...count(notes.length, 'note')].join(', ')}`,
        changes: [
          ...assignments.flatMap(({ source, material, element, finish }) => {
            const value = finish === null ? undefined : { finish, at: now };
            return [
              ...(material === undefined ? [] : [put(assignmentKey(source, material), value)]),
              ...(element === undefined ? [] : [put(overrideKey(source, element), value)]),
            ];
          }),
          ...notes.map(noted),
        ],
      };
    }
    case 'note-row':
      return { label: `${command.material.slice(0, 60)} noted`, changes: [noted(command)] };
    case 'set-rules': {
      const unknown = command.rules.find((rule) => !findFinish(entries, rule.finish));
      if (unknown) return { refused: `There is no finish “${unknown.finish}” in this project.` };
      return {
        label: `${String(command.rules.length)} finish ${command.rules.length === 1 ? 'rule' : 'rules'}`,
        changes: [put('rules', command.rules.length > 0 ? command.rules : undefined)],
      };
    }
    case 'edit-finish':
      return {
        label: `${command.finish.name} edited`,
        changes: [put(`finish/${command.finish.id}`, command.finish)],
      };
    case 'make-finishes': {
      const { finishes, on } = command;
      const known = finishes.find(({ id }) => findFinish(entries, id));
      if (known) return { refused: `There is a finish “${known.id}” already.` };
      const [first] = finishes as [Finish, ...Finish[]];
      return {
        label: finishes.length === 1 ? `${first.name} made` : `${String(finishes.length)} finishes brought in`,
        changes: [
          ...finishes.map((finish) => put(`finish/${finish.id}`, finish)),
          ...on.map(({ source, material }) => put(assignmentKey(source, material), { finish: first.id, at: now })),
        ],
      };
    }
    case 'reset-finish':
      return { label: 'Finish as shipped', changes: [put(`finish/${command.finish}`, undefined)] };
    case 'set-sun': {
      const minutes = Math.min(1439, Math.round(command.minutes));
      return { label: `Sun at ${command.date} ${clock(minutes)}`, changes: [put('sun', { date: command.date, minutes })] };
    }
    case 'choose-site':
      return {
        label: command.site ? `Site ${command.site.name}` : 'Site from the model',
        changes: [put('site', command.site ? { ...command.site, chosen: true } : undefined)],
      };
    case 'set-exposure':
      return {
        label: exposureWords(command, entry(entries, 'exposure')),
        changes: [put('exposure', { mode: command.mode, ev100: command.ev100, ...(command.white && { white: command.white }) })],
      };
    case 'lay-ground':
      return { label: GROUND_WORDS[command.ground], changes: [put('ground', command.ground)] };
    case 'follow-author':
      return {
        label: 'Following the author',
        changes: [put('follow', { camera: command.camera, time: command.time })],
      };
    case 'keep-view':
      return { label: `View ${command.name} kept`, changes: [put(`view/${command.id}`, { name: command.name, ...command.camera })] };
    case 'drop-view':
      return { label: 'View dropped', changes: [put(`view/${command.id}`, undefined)] };
    case 'keep-walk':
      return { label: `Walk ${command.walk.name} kept`, changes: [put(`walk/${command.id}`, command.walk)] };
    case 'drop-walk':
      return { label: 'Walk dropped', changes: [put(`walk/${command.id}`, undefined)] };
    case 'nudge-element':
      return {
        label: command.by
          ? `${command.name} moved by ${(Math.hypot(...command.by) * 1000).toFixed(0)} mm`
          : `${command.name} where the model has it`,
        changes: [put(`nudge/${command.source}/${command.element}`, command.by ?? undefined)],
      };
    case 'lay-maps':
      return {
        label: `Maps on ${command.name.slice(0, 60)} ${command.laid ? 'laid' : 'as the finish lays them'}`,
        changes: [put(`laid/${command.source}/${command.element}`, command.laid ?? undefined)],
      };
    case 'turn-faces':
      return {
        label: `Faces of ${command.name} ${command.turned ? 'turned' : 'as in the model'}`,
        changes: [put(`turned/${command.source}/${command.element}`, command.turned ? true : undefined)],
      };
    case 'carry-decisions':
      return { label: `Decisions carried on to ${command.name}`, changes: carriedDecisions(entries, command) };
    case 'set-widest-gap':
      return {
        label: `Gaps up to ${(command.metres * 1000).toFixed(0)} mm are findings`,
        changes: [put('hygiene', { widestGapM: command.metres })],
      };
    case 'excuse-finding':
      return {
        label: command.excused ? 'Finding excused' : 'Finding no longer excused',
        changes: [put(`excused/${command.finding}`, command.excused ? true : undefined)],
      };
    case 'place-source':
      return {
        label: `${command.name} placed${command.placement ? '' : ' as it comes'}`,
        changes: command.sources.map((source) => put(`placement/${source}`, command.placement ?? undefined)),
      };
    case 'order-sources':
      return { label: 'Sources put in order', changes: [put('source-order', command.order)] };
    case 'show': {
      const { decisions, isolated } = visibilityOf(entries);
      const after = new Map(Object.entries(decisions));
      for (const key of command.keys) {
        if (command.shown === null) after.delete(key);
        else after.set(key, command.shown);
      }
      return {
        label: `${command.name} ${command.shown === null ? 'as at first' : command.shown ? 'shown' : 'hidden'}`,
        changes: [put('visibility', { decisions: Object.fromEntries(after), isolated })],
      };
    }
    case 'isolate':
      return {
        label: command.keys.length > 0 ? `Only ${command.name} shown` : 'All else shown again',
        changes: [put('visibility', { decisions: visibilityOf(entries).decisions, isolated: command.keys })],
      };
    case 'show-as-at-first':
      return { label: 'Shown as at first', changes: [put('visibility', ALL_AS_AT_FIRST)] };
    case 'keep-shown':
      return {
        label: `“${command.name}” kept`,
        changes: [put(`shown/${command.id}`, { ...visibilityOf(entries), name: command.name })],
      };
    case 'use-shown': {
      const kept = entry(entries, `shown/${command.id}`);
      if (!kept) return { refused: 'This set is no longer kept.' };
      return { label: `“${kept.name}” shown`, changes: [put('visibility', { decisions: kept.decisions, isolated: kept.isolated })] };
    }
    case 'drop-shown':
      return { label: 'Kept set dropped', changes: [put(`shown/${command.id}`, undefined)] };
    case 'choose-variant': {
      const { source, option, phase } = command;
      return {
        label: option === null && phase === null ? 'Option and phase as the author has them' : 'Option and phase chosen',
        changes: [put(`variant/${source}`, option === null && phase === null ? undefined : { option, phase })],
      };
    }
  }
}

/** Minutes of the day as 24-hour clock time. */
export function clock(minutesOfDay: number): string {
  const m = Math.round(minutesOfDay) % 1440;
  return `${String(Math.floor(m / 60)).padStart(2, '0')}:${String(m % 60).padStart(2, '0')}`;
}

const GROUND_WORDS = { auto: 'Plain ground where the model has none', always: 'Plain ground laid', never: 'No plain ground' } as const;

/** What an exposure changes of the one before. */
function exposureWords({ mode, ev100, white }: EntryTypes['exposure'], before: EntryTypes['exposure'] | undefined): string {
  if (JSON.stringify(white) !== JSON.stringify(before?.white))
    return white ? `White ${white.kelvin.toFixed(0)} K, tint ${white.tint.toFixed(0)}` : 'White automatic';
  return mode === 'auto' ? 'Exposure automatic' : `Exposure EV ${ev100.toFixed(1)}`;
}
