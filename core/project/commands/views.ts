import * as v from 'valibot';
import { keptWalkSchema } from '../../camera/walk';
import { cameraSchema } from '../../model/schema';
import { remarkSchema } from '../remark';
import { fillsSchema, sectionSchema } from '../sections';
import { shownSchema } from '../../model/shown';
import { changesToShow } from '../shown';
import { NO_DRAWING, sameDrawing, styleSchema } from '../style';
import { entry, type Entries, type EntryChange } from '../project';
import { command, id, name, type Before } from './define';

const pixels = v.pipe(v.number(), v.integer(), v.minValue(16), v.maxValue(16_384));

/** What a view holds goes with it to another name, or with it for good; unless another view has its name too. */
function exposureGoes(entries: Entries, id: string, name: string | undefined, put: Before['put']): EntryChange[] {
  const before = entry(entries, `view/${id}`)?.name;
  if (before === undefined || before === name) return [];
  const held = entry(entries, `view-exposure/${before}`);
  const isShared = [...entries].some(
    ([key, view]) => key.startsWith('view/') && key !== `view/${id}` && (view as { name: string }).name === before,
  );
  if (!held || isShared) return [];
  return [put(`view-exposure/${before}`, undefined), ...(name === undefined ? [] : [put(`view-exposure/${name}`, held)])];
}

/** Views, walks, and following the author's. */
export const VIEW_COMMANDS = [
  command('follow-author', { camera: v.boolean(), time: v.boolean() }, ({ camera, time }, { put }) => ({
    label: 'Following the author',
    changes: [put('follow', { camera, time })],
  })),
  command(
    'keep-view',
    {
      id,
      name,
      camera: cameraSchema,
      /** Pixels of its picture. */
      frame: v.optional(v.strictObject({ width: pixels, height: pixels })),
      folder: v.optional(v.pipe(v.string(), v.maxLength(200))),
      condition: v.optional(id),
      sections: v.optional(v.pipe(v.array(id), v.maxLength(32))),
      style: v.optional(styleSchema),
      shown: v.optional(shownSchema),
    },
    ({ id: its, name: called, camera, ...rest }, { entries, put }) => ({
      label: `View ${called} kept`,
      changes: [put(`view/${its}`, { name: called, ...camera, ...rest }), ...exposureGoes(entries, its, called, put)],
    }),
  ),
  command('order-views', { order: v.pipe(v.array(id), v.maxLength(10_000)) }, ({ order }, { put }) => ({
    label: 'Order of views',
    changes: [put('view-order', order)],
  })),
  command('drop-view', { id }, (view, { entries, put }) => ({
    label: 'View dropped',
    changes: [put(`view/${view.id}`, undefined), ...exposureGoes(entries, view.id, undefined, put)],
  })),
  command('show-as-in-view', { shown: shownSchema, name }, ({ shown, name: called }, { entries, put }) => ({
    label: `Shown as in ${called}`,
    changes: changesToShow(entries, shown).map(([key, value]) => put(key, value as never)),
  })),
  command('keep-section', { id, section: sectionSchema }, (kept, { put }) => ({
    label: `Section ${kept.section.name} kept`,
    changes: [put(`section/${kept.id}`, kept.section)],
  })),
  command('drop-section', { id }, (dropped, { put }) => ({
    label: 'Section dropped',
    changes: [put(`section/${dropped.id}`, undefined)],
  })),
  command('set-style', { style: styleSchema }, ({ style: { kind, ...drawing } }, { put }) => ({
    label: `Shown as ${kind}`,
    changes: [
      put('style', kind === 'photograph' ? undefined : kind),
      put('drawing', sameDrawing(drawing, NO_DRAWING) ? undefined : drawing),
    ],
  })),
  command('fill-sections', { fills: fillsSchema }, ({ fills }, { put }) => ({
    label: 'Fills of sections',
    changes: [put('section-fills', fills)],
  })),
  command('keep-remark', { remark: remarkSchema }, ({ remark }, { put }) => ({
    label: `Remark ${remark.status}: ${remark.text.slice(0, 60)}`,
    changes: [put(`remark/${remark.id}`, remark)],
  })),
  command('drop-remark', { id }, (dropped, { put }) => ({ label: 'Remark dropped', changes: [put(`remark/${dropped.id}`, undefined)] })),
  command('keep-walk', { id, walk: keptWalkSchema }, (kept, { put }) => ({
    label: `Walk ${kept.walk.name} kept`,
    changes: [put(`walk/${kept.id}`, kept.walk)],
  })),
  command('drop-walk', { id }, (dropped, { put }) => ({ label: 'Walk dropped', changes: [put(`walk/${dropped.id}`, undefined)] })),
] as const;
