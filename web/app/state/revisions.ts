import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { BehaviorSubject, combineLatest, map, shareReplay } from 'rxjs';
import type { RevisionRow } from '../../../core/project/live';
import { applyChange, differenceOf, EMPTY_MODEL, type Model } from '../../../core/model/model';
import { Live } from './live';
import { PictureState, type MarkKind } from './picture-state';
import { earlierModel, revisionList } from '../../../core/project/answers';
import { ask } from './ask';

/** An earlier state of one source that is looked at, on this page only. */
export interface EarlierModel {
  source: string;
  revision: number;
  model: Model;
  /** Shown in place of the present one, or laid over it to compare. */
  as: 'shown' | 'compared';
}

/** The present models with the earlier one in its place; to compare, with what has been removed since among the rest. */
export function withEarlier(models: ReadonlyMap<string, Model>, earlier: EarlierModel | undefined): ReadonlyMap<string, Model> {
  if (!earlier) return models;
  const out = new Map(models);
  const present = models.get(earlier.source);
  if (earlier.as === 'shown' || !present) return out.set(earlier.source, earlier.model);
  const gone = [...earlier.model.elements].filter(([id]) => !present.elements.has(id));
  return out.set(earlier.source, {
    ...present,
    elements: new Map([...present.elements, ...gone]),
    materials: new Map([...earlier.model.materials, ...present.materials]),
  });
}

/** What the present model has otherwise than an earlier one. */
export function differences(earlier: EarlierModel, present: Model): Map<string, MarkKind> {
  const { elements, remove } = differenceOf(earlier.model, present);
  const marked = new Map<string, MarkKind>();
  for (const { id } of elements) marked.set(`${earlier.source}/${id}`, earlier.model.elements.has(id) ? 'changed' : 'added');
  for (const id of remove.elements) marked.set(`${earlier.source}/${id}`, 'removed');
  return marked;
}

/** Earlier revisions of the sources. */
@Injectable({ providedIn: 'root' })
export class Revisions {
  private readonly picture = inject(PictureState);
  readonly earlier$ = new BehaviorSubject<EarlierModel | undefined>(undefined);
  /** Models as they are looked at. */
  readonly models$ = combineLatest([inject(Live).models$, this.earlier$]).pipe(
    map(([models, earlier]) => withEarlier(models, earlier)),
    shareReplay(1),
  );

  constructor() {
    combineLatest([inject(Live).models$, this.earlier$])
      .pipe(takeUntilDestroyed())
      .subscribe(([models, earlier]) => {
        if (earlier?.as === 'compared') this.picture.marked$.next(differences(earlier, models.get(earlier.source) ?? EMPTY_MODEL));
      });
  }

  async list(source: string): Promise<RevisionRow[]> {
    const asked = await ask(revisionList, `/api/sources/${encodeURIComponent(source)}/revisions`);
    if (!('answer' in asked)) throw new Error('not there');
    return asked.answer;
  }

  async look(source: string, revision: number, as: EarlierModel['as']): Promise<void> {
    const asked = await ask(earlierModel, `/api/sources/${encodeURIComponent(source)}/revisions/${String(revision)}`);
    if (!('answer' in asked)) throw new Error('not there');
    const model = applyChange(EMPTY_MODEL, asked.answer);
    this.picture.marked$.next(new Map());
    this.earlier$.next({ source, revision, model, as });
  }

  present(): void {
    this.earlier$.next(undefined);
    this.picture.marked$.next(new Map());
  }
}
