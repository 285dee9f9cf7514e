import { Worker } from 'node:worker_threads';
import type { Progress } from '../../core/hygiene/check';
import { snapshotOf } from '../../core/model/model';
import { placedSources } from '../../core/project/placed-sources';
import { worker } from '../dist-paths';
import type { ProjectStore } from '../project-store';
import type { SourceStore } from '../source-store';
import type { HygieneOrder } from './worker';

/** Checks the project as it is now; `tell` hears of findings as they come. Resolves when all is checked, or with `stop`. */
export function findFindings(project: ProjectStore, sources: SourceStore, blobs: string, tell: (progress: Progress) => void) {
  const order: HygieneOrder = {
    sources: placedSources(sources.models(), project.entries).map(({ id, model }) => ({
      id,
      name: sources.get(id)?.name ?? id,
      change: snapshotOf(model),
    })),
    entries: [...project.entries],
    blobs,
  };
  const thread = new Worker(worker('hygiene-worker'), { workerData: order });
  const done = new Promise<void>((resolve, reject) => {
    thread.on('message', tell);
    thread.on('error', reject);
    thread.on('exit', () => {
      resolve();
    });
  });
  return { done, stop: () => void thread.terminate() };
}
