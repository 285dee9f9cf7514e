import type express from 'express';
import path from 'node:path';
import * as v from 'valibot';
import { deliveryOrdered, printOrdered } from '../core/project/answers';
import { fileNames } from '../core/render/naming';
import { printOrderSchema } from '../core/render/print';
import { complain } from './complain';
import type { ProjectStore } from './project-store';
import { DELIVERY_ZIP } from './prints/delivery-files';
import type { PrintQueue } from './prints/queue';
import { PRINT_FILES } from './prints/records';
import type { BlobStore } from './blobs';
import { boundsNow } from './mesh-bounds';
import { specOf } from './prints/spec';
import { refuse, reply } from './reply';
import type { SourceStore } from './source-store';

interface PrintContext {
  prints: PrintQueue;
  project: ProjectStore;
  sources: SourceStore;
  blobs: BlobStore;
}

const MOST_AT_ONCE = 400;
/** Kept in one form, so that times are compared as text: of whatever zone, with a T or a blank before the hour. */
const when = v.optional(
  v.pipe(
    v.string(),
    v.isoTimestamp(),
    v.transform((text) => new Date(text.replace(' ', 'T'))),
    v.check((date) => Number.isFinite(date.getTime()), 'is no time'),
    v.transform((date) => date.toISOString()),
  ),
);
const name = v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(200));
const deliverySchema = v.strictObject({
  name,
  startAt: when,
  /** Its all-round pictures are linked. */
  tour: v.optional(v.boolean()),
  orders: v.pipe(v.array(v.strictObject({ order: printOrderSchema, fileName: name })), v.minLength(1), v.maxLength(MOST_AT_ONCE)),
});
const point = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(MOST_AT_ONCE));
const linksSchema = v.strictObject({ links: v.pipe(v.array(v.strictTuple([point, point])), v.maxLength(10_000)) });
const laterSchema = v.strictObject({ order: printOrderSchema, startAt: when });
const noteSchema = v.strictObject({ starred: v.optional(v.boolean()), note: v.optional(v.pipe(v.string(), v.maxLength(2000))) });
const moveSchema = v.strictObject({ before: v.nullable(v.string()) });
const pauseSchema = v.strictObject({ paused: v.boolean() });

/** Orders of pictures, the queue that they wait in, and their files. */
export function printRoutes(app: express.Express, { prints, project, sources, blobs }: PrintContext): void {
  app.post('/api/prints', async (request, response) => {
    // An order alone, or with the time that it is to begin at.
    const isLater = typeof request.body === 'object' && request.body !== null && 'order' in request.body;
    const asked = isLater ? v.safeParse(laterSchema, request.body) : v.safeParse(printOrderSchema, request.body);
    if (!asked.success) {
      complain(response, asked.issues);
      return;
    }
    const { order, startAt } = 'order' in asked.output ? asked.output : { order: asked.output, startAt: undefined };
    const spec = specOf(order, project, sources, await boundsNow(project, sources, blobs));
    if (typeof spec === 'string') refuse(response, 409, spec);
    else reply(response, printOrdered, { id: await prints.order(spec, { ...(startAt && { startAt }) }) }, 201);
  });
  app.post('/api/deliveries', async (request, response) => {
    const asked = v.safeParse(deliverySchema, request.body);
    if (!asked.success) {
      complain(response, asked.issues);
      return;
    }
    const specs: Parameters<PrintQueue['deliver']>[1][number][] = [];
    // What the page has called them is taken as a pattern without parts: no name leads out of the folder, and each is there once.
    const names = fileNames('{view}', asked.output.orders.map((wanted) => ({ view: wanted.fileName }))); // prettier-ignore
    const boundsOf = await boundsNow(project, sources, blobs);
    for (const [i, { order }] of asked.output.orders.entries()) {
      const spec = specOf(order, project, sources, boundsOf);
      if (typeof spec === 'string') {
        refuse(response, 409, spec);
        return;
      }
      specs.push({ spec, fileName: names[i]! });
    }
    reply(
      response,
      deliveryOrdered,
      await prints.deliver({ name: asked.output.name, tour: asked.output.tour }, specs, asked.output.startAt),
      201,
    );
  });
  app.post('/api/deliveries/:delivery/links', async (request, response) => {
    const asked = v.safeParse(linksSchema, request.body);
    if (!asked.success) {
      complain(response, asked.issues);
      return;
    }
    await prints.link(request.params.delivery, asked.output.links);
    response.status(204).end();
  });
  app.delete('/api/deliveries/:delivery', async (request, response) => {
    await prints.removeDelivery(request.params.delivery);
    response.status(204).end();
  });
  app.get('/api/deliveries/:delivery/delivery.zip', async (request, response) => {
    const folder = await prints.deliveries.folderOf(request.params.delivery);
    if (folder) response.download(path.join(folder, DELIVERY_ZIP), `${path.basename(folder)}.zip`);
    else refuse(response, 404, 'This delivery is not put together yet.');
  });
  const onPrint = <S extends v.GenericSchema>(action: string, schema: S, act: (id: string, body: v.InferOutput<S>) => Promise<void>) =>
    app.post(`/api/prints/:print/${action}`, async (request, response) => {
      const body = v.safeParse(schema, request.body ?? {});
      if (!body.success) {
        complain(response, body.issues);
        return;
      }
      await act(request.params.print, body.output);
      response.status(204).end();
    });
  const nothing = v.object({});
  onPrint('cancel', nothing, (id) => prints.stop(id, 'cancelled'));
  onPrint('pause', nothing, (id) => prints.stop(id, 'paused'));
  onPrint('resume', nothing, (id) => prints.resume(id));
  onPrint('note', noteSchema, (id, { starred, note }) => prints.annotate(id, { ...(starred !== undefined && { starred }), ...(note !== undefined && { note }) })); // prettier-ignore
  onPrint('move', moveSchema, (id, { before }) => prints.move(id, before));
  app.post('/api/queue', async (request, response) => {
    const asked = v.safeParse(pauseSchema, request.body);
    if (!asked.success) {
      complain(response, asked.issues);
      return;
    }
    await prints.pause(asked.output.paused);
    response.status(204).end();
  });
  app.delete('/api/prints/:print', async (request, response) => {
    await prints.remove(request.params.print);
    response.status(204).end();
  });
  app.get('/api/prints/:print/:file', async (request, response) => {
    const asked = request.params.file;
    const name = asked.startsWith('picture.') ? 'picture' : PRINT_FILES.find((known) => known === asked);
    const file = name && (await prints.records.findFile(request.params.print, name));
    if (!file) refuse(response, 404, 'There is no such picture.');
    else response.sendFile(file);
  });
}
