import * as v from 'valibot';
import { finishSchema } from '../finish/finish';
import { cameraSchema, siteSchema } from '../model/schema';
import { assignmentKey, entry, findFinish, overrideKey, type Entries, type EntryChange, type EntryKey, type EntryTypes } from './project';

const id = v.pipe(v.string(), v.minLength(1), v.maxLength(200));
const date = v.pipe(v.string(), v.isoDate());
const minutes = v.pipe(v.number(), v.minValue(0), v.maxValue(1440));

/** Everything that a person can change in a project. */
export const commandSchema = v.variant('type', [
  v.strictObject({ type: v.literal('assign-finish'), source: id, material: id, finish: v.nullable(id) }),
  v.strictObject({ type: v.literal('assign-element-finish'), source: id, element: id, finish: v.nullable(id) }),
  v.strictObject({ type: v.literal('edit-finish'), finish: finishSchema }),
  v.strictObject({ type: v.literal('reset-finish'), finish: id }),
  v.strictObject({ type: v.literal('set-sun'), date, minutes }),
  v.strictObject({ type: v.literal('choose-site'), site: v.nullable(siteSchema) }),
  v.strictObject({
    type: v.literal('set-exposure'),
    mode: v.picklist(['auto', 'fixed']),
    ev100: v.pipe(v.number(), v.minValue(-10), v.maxValue(24)),
  }),
  v.strictObject({ type: v.literal('follow-author'), camera: v.boolean(), time: v.boolean() }),
  v.strictObject({
    type: v.literal('keep-view'),
    id,
    name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
    camera: cameraSchema,
  }),
  v.strictObject({ type: v.literal('drop-view'), id }),
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
    case 'edit-finish':
      return {
        label: `${command.finish.name} edited`,
        changes: [put(`finish/${command.finish.id}`, command.finish)],
      };
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
        label: command.mode === 'auto' ? 'Exposure automatic' : `Exposure EV ${command.ev100.toFixed(1)}`,
        changes: [put('exposure', { mode: command.mode, ev100: command.ev100 })],
      };
    case 'follow-author':
      return {
        label: 'Following the author',
        changes: [put('follow', { camera: command.camera, time: command.time })],
      };
    case 'keep-view':
      return { label: `View ${command.name} kept`, changes: [put(`view/${command.id}`, { name: command.name, ...command.camera })] };
    case 'drop-view':
      return { label: 'View dropped', changes: [put(`view/${command.id}`, undefined)] };
  }
}

/** Minutes of the day as 24-hour clock time. */
export function clock(minutesOfDay: number): string {
  const m = Math.round(minutesOfDay) % 1440;
  return `${String(Math.floor(m / 60)).padStart(2, '0')}:${String(m % 60).padStart(2, '0')}`;
}
