import { inject, Injectable } from '@angular/core';
import {
  BehaviorSubject,
  combineLatest,
  debounceTime,
  filter,
  map,
  of,
  scan,
  shareReplay,
  startWith,
  switchMap,
  take,
  type Observable,
} from 'rxjs';
import { withCondition } from '../../../core/project/conditions';
import { entry } from '../../../core/project/project';
import { PictureState } from './picture-state';
import { Proofs } from './proofs';
import { SceneState } from './scene-state';
import { cameraOf, viewsOf, type ViewRow } from './views';

const WIDTH = 224;
const SAMPLES = 4;
const SHAPE = 9 / 16;
/** What changes within this is shown together, milliseconds. */
const TOGETHER_MS = 300;
/** Of its samples, that the picture at rest has before this one is made. */
const BEGUN = 0.05;

export interface Beside {
  view: ViewRow;
  /** Width by height. */
  aspect: number;
  /** URL; undefined: the first is being made. */
  picture?: string | undefined;
}

/** One view whose small picture stays in sight while another is worked on: it is made anew whenever something has changed. */
@Injectable({ providedIn: 'root' })
export class ViewBeside {
  private readonly picture = inject(PictureState);
  private readonly scene = inject(SceneState);
  private readonly proofs = inject(Proofs);
  /** Its id. */
  readonly id$ = new BehaviorSubject<string | undefined>(undefined);

  readonly shown$: Observable<Beside | undefined> = this.id$.pipe(
    switchMap((id) => (id === undefined ? of(undefined) : this.live(id))),
    // The last picture stays until the next one is there.
    scan((before: Beside | undefined, now) => now && { ...now, picture: now.picture ?? (before?.view.id === now.view.id ? before.picture : undefined) }, undefined),
    shareReplay({ bufferSize: 1, refCount: true }),
  ); // prettier-ignore

  turn(id: string): void {
    this.id$.next(this.id$.value === id ? undefined : id);
  }

  private live(id: string): Observable<Beside | undefined> {
    return combineLatest([this.scene.entries$, this.scene.sources$, this.scene.scene$]).pipe(
      debounceTime(TOGETHER_MS),
      switchMap(([entries, sources]): Observable<Beside | undefined> => {
        const view = viewsOf(sources, entries).find((row) => row.id === id);
        if (!view) return of(undefined);
        const { width, height } = view.frame ?? { width: 1, height: SHAPE };
        const beside: Beside = { view, aspect: width / height };
        const condition = view.condition === undefined ? undefined : entry(entries, `condition/${view.condition}`);
        const wanted = { id, entries: condition ? withCondition(entries, condition) : entries, camera: cameraOf(view), aspect: beside.aspect };
        // What is looked at comes first.
        const made = this.picture.status$.pipe(
          filter(({ state, progress }) => state === 'finished' || (state === 'refining' && progress >= BEGUN)),
          take(1),
          switchMap(() => this.proofs.make('beside', [wanted], WIDTH, SAMPLES)),
          map(({ picture }): Beside => ({ ...beside, picture })),
        );
        return made.pipe(startWith(beside));
      }),
    );
  } // prettier-ignore
}
