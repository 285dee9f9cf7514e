import * as v from 'valibot';
import { keptWalkSchema } from '../../camera/walk';
import { cameraSchema } from '../../model/schema';
import { command, id, name } from './define';

/** Views, walks, and following the author's. */
export const VIEW_COMMANDS = [
  command('follow-author', { camera: v.boolean(), time: v.boolean() }, ({ camera, time }, { put }) => ({
    label: 'Following the author',
    changes: [put('follow', { camera, time })],
  })),
  command('keep-view', { id, name, camera: cameraSchema }, (view, { put }) => ({
    label: `View ${view.name} kept`,
    changes: [put(`view/${view.id}`, { name: view.name, ...view.camera })],
  })),
  command('drop-view', { id }, (view, { put }) => ({ label: 'View dropped', changes: [put(`view/${view.id}`, undefined)] })),
  command('keep-walk', { id, walk: keptWalkSchema }, (kept, { put }) => ({
    label: `Walk ${kept.walk.name} kept`,
    changes: [put(`walk/${kept.id}`, kept.walk)],
  })),
  command('drop-walk', { id }, (dropped, { put }) => ({ label: 'Walk dropped', changes: [put(`walk/${dropped.id}`, undefined)] })),
] as const;
