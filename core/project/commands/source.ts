import * as v from 'valibot';
import { placementSchema } from '../placement';
import { entry } from '../project';
import { carriedDecisions } from '../replacing';
import { visibilityOf } from '../visibility';
import { ALL_AS_AT_FIRST } from '../../model/visibility-decisions';
import { command, id, name } from './define';

const metres = v.pipe(v.number(), v.finite(), v.minValue(-1000), v.maxValue(1000));
const groupKeys = v.pipe(v.array(v.pipe(v.string(), v.minLength(1), v.maxLength(30_000))), v.maxLength(200_000));
const pairs = v.pipe(v.array(v.strictTuple([id, id])), v.maxLength(200_000));

/** Where models stand, what of them is shown, and remedies. */
export const SOURCE_COMMANDS = [
  /** Null: as it comes. */
  command(
    'place-source',
    { sources: v.pipe(v.array(id), v.minLength(1)), placement: v.nullable(placementSchema), name },
    ({ sources, placement, name: what }, { put }) => ({
      label: `${what} placed${placement ? '' : ' as it comes'}`,
      changes: sources.map((source) => put(`placement/${source}`, placement ?? undefined)),
    }),
  ),
  command('order-sources', { order: v.array(id) }, ({ order }, { put }) => ({
    label: 'Sources put in order',
    changes: [put('source-order', order)],
  })),
  /** Null: where the model has it. */
  command(
    'nudge-element',
    { source: id, element: id, by: v.nullable(v.strictTuple([metres, metres, metres])), name },
    ({ source, element, by, name: what }, { put }) => ({
      label: by ? `${what} moved by ${(Math.hypot(...by) * 1000).toFixed(0)} mm` : `${what} where the model has it`,
      changes: [put(`nudge/${source}/${element}`, by ?? undefined)],
    }),
  ),
  command('turn-faces', { source: id, element: id, turned: v.boolean(), name }, ({ source, element, turned, name: what }, { put }) => ({
    label: `Faces of ${what} ${turned ? 'turned' : 'as in the model'}`,
    changes: [put(`turned/${source}/${element}`, turned ? true : undefined)],
  })),
  /** Decisions about elements and source materials go on to others, after a file took the place of another. */
  command('carry-decisions', { source: id, elements: pairs, materials: pairs, name }, (carried, { entries }) => ({
    label: `Decisions carried on to ${carried.name}`,
    changes: carriedDecisions(entries, carried),
  })),
  /** A gap at a wall's corner that is wider is taken for meant. */
  command('set-widest-gap', { metres: v.pipe(v.number(), v.minValue(0.002), v.maxValue(0.5)) }, ({ metres: widest }, { put }) => ({
    label: `Gaps up to ${(widest * 1000).toFixed(0)} mm are findings`,
    changes: [put('hygiene', { widestGapM: widest })],
  })),
  command('excuse-finding', { finding: id, excused: v.boolean() }, ({ finding, excused }, { put }) => ({
    label: excused ? 'Finding excused' : 'Finding no longer excused',
    changes: [put(`excused/${finding}`, excused ? true : undefined)],
  })),
  /** Shows or hides groups of elements by key; null: as at first. */
  command('show', { keys: groupKeys, shown: v.nullable(v.boolean()), name }, ({ keys, shown, name: what }, { entries, put }) => {
    const { decisions, isolated } = visibilityOf(entries);
    const after = new Map(Object.entries(decisions));
    for (const key of keys) {
      if (shown === null) after.delete(key);
      else after.set(key, shown);
    }
    return {
      label: `${what} ${shown === null ? 'as at first' : shown ? 'shown' : 'hidden'}`,
      changes: [put('visibility', { decisions: Object.fromEntries(after), isolated })],
    };
  }),
  command('isolate', { keys: groupKeys, name }, ({ keys, name: what }, { entries, put }) => ({
    label: keys.length > 0 ? `Only ${what} shown` : 'All else shown again',
    changes: [put('visibility', { decisions: visibilityOf(entries).decisions, isolated: keys })],
  })),
  command('show-as-at-first', {}, (_, { put }) => ({ label: 'Shown as at first', changes: [put('visibility', ALL_AS_AT_FIRST)] })),
  command('keep-shown', { id, name }, (kept, { entries, put }) => ({
    label: `“${kept.name}” kept`,
    changes: [put(`shown/${kept.id}`, { ...visibilityOf(entries), name: kept.name })],
  })),
  command('use-shown', { id }, (used, { entries, put }) => {
    const kept = entry(entries, `shown/${used.id}`);
    if (!kept) return { refused: 'This set is no longer kept.' };
    return { label: `“${kept.name}” shown`, changes: [put('visibility', { decisions: kept.decisions, isolated: kept.isolated })] };
  }),
  command('drop-shown', { id }, (dropped, { put }) => ({ label: 'Kept set dropped', changes: [put(`shown/${dropped.id}`, undefined)] })),
  /** Null: as the author has it. */
  command('choose-variant', { source: id, option: v.nullable(id), phase: v.nullable(id) }, ({ source, option, phase }, { put }) => {
    const asAuthored = option === null && phase === null;
    return {
      label: asAuthored ? 'Option and phase as the author has them' : 'Option and phase chosen',
      changes: [put(`variant/${source}`, asAuthored ? undefined : { option, phase })],
    };
  }),
] as const;
