import type express from 'express';
import { decodeMesh } from '../core/geometry/mesh';
import { PlacedArea } from '../core/geometry/placed-area';
import type { Model } from '../core/model/model';
import { scheduleRows } from '../core/project/schedule';
import { FIRST_VIEW, viewSchedule } from '../core/project/schedule-view';
import type { BlobStore } from './blobs';
import type { ProjectStore } from './project-store';
import type { SourceStore } from './source-store';

interface ScheduleContext {
  projectName: string;
  project: ProjectStore;
  sources: SourceStore;
  blobs: BlobStore;
}

export function scheduleRoutes(app: express.Express, context: ScheduleContext): void {
  app.get('/api/schedule.pdf', async (_, response) => {
    const { project, sources, projectName } = context;
    const areas = await areasOf(
      sources.models().map((s) => s.model),
      context.blobs,
    );
    const rows = sources.models().flatMap(({ id, model }) => scheduleRows(id, model, areas, project.entries));
    if (rows.length === 0) {
      response.status(409).json({ message: 'There is no schedule yet: link a model first.' });
      return;
    }
    const names = new Map(sources.summaries().map(({ id, name }) => [id, name]));
    const ordered = viewSchedule(rows, { ...FIRST_VIEW, sort: 'code' })[0]!.rows;
    // What writes PDF takes half a second to load.
    const { schedulePdf } = await import('./schedule-pdf');
    const pdf = await schedulePdf(projectName, new Date().toISOString().slice(0, 10), ordered, (id) => names.get(id) ?? id, context.blobs);
    response.type('pdf').attachment('finish schedule.pdf').send(pdf);
  });
}

async function areasOf(models: readonly Model[], blobs: BlobStore): Promise<ReadonlyMap<string, PlacedArea>> {
  const areas = new Map<string, PlacedArea>();
  for (const model of models)
    for (const element of model.elements.values())
      for (const { mesh: hash } of element.parts) {
        if (areas.has(hash)) continue;
        const bytes = await blobs.get(hash);
        const mesh = bytes && decodeMesh(bytes);
        if (mesh && typeof mesh !== 'string') areas.set(hash, new PlacedArea(mesh));
      }
  return areas;
}
