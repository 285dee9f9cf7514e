import { inject, Injectable } from '@angular/core';
import type { Model } from '../../../core/model/model';
import type { Camera } from '../../../core/model/schema';
import { entry, type Entries, type EntryTypes } from '../../../core/project/project';
import type { Shown } from '../../../core/model/shown';
import { changesToShow } from '../../../core/project/shown';
import type { Style } from '../../../core/project/style';
import { Live } from './live';
import { PictureState } from './picture-state';

export interface ViewRow extends Camera {
  id: string;
  name: string;
  /** Kept here; else a camera that the model brings. */
  kept: boolean;
  /** Pixels of its picture; without: as the others. */
  frame?: { width: number; height: number } | undefined;
  folder?: string | undefined;
  condition?: string | undefined;
  sections?: string[] | undefined;
  style?: Style | undefined;
  shown?: Shown | undefined;
}

/** What is seen in a view, without what else belongs to it. */
export function cameraOf({ position, target, focalMm, upright, parallelM, aperture, nearM }: Camera): Camera {
  return {
    position,
    target,
    focalMm,
    ...(upright && { upright }),
    ...(parallelM !== undefined && { parallelM }),
    ...(aperture && { aperture }),
    ...(nearM !== undefined && { nearM }),
  };
}

/** The view of a name that is kept here. */
export function keptViewNamed(entries: Entries, name: string): EntryTypes[`view/${string}`] | undefined {
  for (const key of entries.keys()) {
    if (!key.startsWith('view/')) continue;
    const view = entry(entries, key as `view/${string}`);
    if (view?.name === name) return view;
  }
  return undefined;
}

/** All views of a project as they are ordered; those that are in no order follow, those of its models before those kept here. */
export function viewsOf(sources: readonly { model: Model }[], entries: Entries): ViewRow[] {
  const rows: ViewRow[] = [
    ...sources.flatMap(({ model }) => [...model.cameras.values()].map((camera) => ({ ...camera, kept: false }))),
    ...[...entries.keys()]
      .filter((key) => key.startsWith('view/'))
      .map((key) => ({ id: key.slice(5), kept: true, ...entry(entries, key as `view/${string}`)! })),
  ];
  const order = entry(entries, 'view-order') ?? [];
  const rank = new Map(order.map((id, i) => [id, i]));
  return rows.sort((a, b) => (rank.get(a.id) ?? order.length) - (rank.get(b.id) ?? order.length));
}

const isShown = (entries: Entries, shown: Shown): boolean => changesToShow(entries, shown).every(([key, value]) => JSON.stringify(entries.get(key)) === JSON.stringify(value)); // prettier-ignore

/** Goes to views with all that they hold: the shape of their picture, sections, style, what is shown, and condition. */
@Injectable({ providedIn: 'root' })
export class ViewGoer {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);

  go(row: ViewRow): void {
    if (row.frame) this.picture.frame$.next(row.frame);
    this.picture.sections$.next(row.sections ?? []);
    this.picture.goTo$.next({ camera: cameraOf(row), name: row.name });
    if (row.shown && !isShown(this.live.entries$.value, row.shown))
      this.live.run({ type: 'show-as-in-view', shown: row.shown, name: row.name });
    if (row.style) this.live.run({ type: 'set-style', style: row.style });
    if (row.condition !== undefined) this.live.run({ type: 'recall-condition', id: row.condition });
  }
}
