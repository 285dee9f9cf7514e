import type { Model } from '../../../core/model/model';
import type { Camera } from '../../../core/model/schema';
import { entry, type Entries } from '../../../core/project/project';

export interface ViewRow extends Camera {
  id: string;
  name: string;
  /** Kept here; else a camera that the model brings. */
  kept: boolean;
}

/** All views of a project: those of its models, then those kept here. */
export const viewsOf = (sources: readonly { model: Model }[], entries: Entries): ViewRow[] => [
  ...sources.flatMap(({ model }) => [...model.cameras.values()].map((camera) => ({ ...camera, kept: false }))),
  ...[...entries.keys()]
    .filter((key) => key.startsWith('view/'))
    .map((key) => ({ id: key.slice(5), kept: true, ...entry(entries, key as `view/${string}`)! })),
];
