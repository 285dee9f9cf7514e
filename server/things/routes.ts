import express, { type Express } from 'express';
import { ownThingRead, ownThings as ownThingsAnswer } from '../../core/project/answers';
import { kindsWith } from '../../core/project/kinds';
import { GROUPS, type ThingGroup } from '../../core/setting/thing-kind';
import { FOR_EVER } from '../caching';
import type { Previews } from '../previews/previews';
import type { ProjectStore } from '../project-store';
import { refuse, reply, uploaded } from '../reply';
import { shippedKinds } from './catalogue';
import type { OwnThings } from './own-things';

const MAX_FILE_BYTES = 200 * 1024 * 1024;

/** The library of things: what there is, how each looks, and a person's own. */
export function thingRoutes(
  app: Express,
  { previews, project, ownThings }: { previews: Previews; project: ProjectStore; ownThings: OwnThings },
): void {
  app.get('/api/things', (_, response) => {
    response.json([...shippedKinds().values()]);
  });
  app.get('/api/own-things', async (_, response) => {
    reply(response, ownThingsAnswer, await ownThings.list());
  });
  // A model file as a thing; `group`: where it is found in the library.
  app.post('/api/own-things', express.raw({ type: 'application/octet-stream', limit: MAX_FILE_BYTES }), async (request, response) => {
    const { name, body } = uploaded(request, 'The file');
    const group = GROUPS.includes(request.query['group'] as ThingGroup) ? (request.query['group'] as ThingGroup) : 'furniture';
    const read = await ownThings.read(name, body, group);
    if ('fault' in read) refuse(response, 422, read.fault);
    else reply(response, ownThingRead, read, 201);
  });
  app.post('/api/own-things/:id/bring', async (request, response) => {
    const kind = await ownThings.bring(request.params.id);
    if (kind) reply(response, ownThingRead, { kind, said: '' }, 201);
    else refuse(response, 404, 'This thing is no longer in your library.');
  });
  app.delete('/api/own-things/:id', async (request, response) => {
    if (await ownThings.remove(request.params.id)) response.status(204).end();
    else refuse(response, 404, 'This thing is no longer in your library.');
  });
  // `mark` tells which make of it is meant, so that it may be kept.
  app.get('/api/things/:kind/:form/:picture', async (request, response) => {
    const { kind: id, form, picture } = request.params;
    const isBillboard = picture === 'billboard.png';
    const kind = kindsWith(shippedKinds(), project.entries).get(id);
    const { state, mark } = request.query;
    if (
      (!isBillboard && picture !== 'preview.png') ||
      !kind?.forms.some((one) => one.id === form) ||
      (state !== undefined && !kind.states.includes(state as string))
    ) {
      refuse(response, 404, 'There is no such thing.');
      return;
    }
    const png = await previews.ofThing({
      kind,
      form,
      ...(state !== undefined && { state: state as string }),
      ...(isBillboard && { isBillboard }),
    });
    response.set('Cache-Control', mark ? FOR_EVER : 'no-store').type('png').send(Buffer.from(png)); // prettier-ignore
  });
}
