import type { Express } from 'express';
import { FOR_EVER } from '../caching';
import type { Previews } from '../previews/previews';
import { refuse } from '../reply';
import { shippedKinds } from './catalogue';

/** The library of things: what there is, and how each looks. */
export function thingRoutes(app: Express, { previews }: { previews: Previews }): void {
  app.get('/api/things', (_, response) => {
    response.json([...shippedKinds().values()]);
  });
  // `mark` tells which make of it is meant, so that it may be kept.
  app.get('/api/things/:kind/:form/preview.png', async (request, response) => {
    const { kind: id, form } = request.params;
    const kind = shippedKinds().get(id);
    const { state, mark } = request.query;
    if (!kind?.forms.some((one) => one.id === form) || (state !== undefined && !kind.states.includes(state as string))) {
      refuse(response, 404, 'There is no such thing.');
      return;
    }
    const png = await previews.ofThing({ kind, form, ...(state !== undefined && { state: state as string }) });
    response.set('Cache-Control', mark ? FOR_EVER : 'no-store').type('png').send(Buffer.from(png)); // prettier-ignore
  });
}
