import { inject, Injectable, signal } from '@angular/core';
import { filter, firstValueFrom, startWith, Subject, switchMap, take, type Subscription } from 'rxjs';
import { withCondition } from '../../../core/project/conditions';
import { entry } from '../../../core/project/project';
import { Live } from './live';
import { PictureState } from './picture-state';
import { Proofs } from './proofs';
import { SceneState } from './scene-state';
import { cameraOf, type ViewRow } from './views';

const WIDTH = 96;
const SAMPLES = 4;
const SHAPE = 9 / 16;
/** Of its samples, that the picture at rest has before others are made. */
const BEGUN = 0.05;

/** Small denoised pictures of views, each made when it is first looked at, and anew when its camera or condition is another. */
@Injectable({ providedIn: 'root' })
export class ViewThumbnails {
  private readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  private readonly proofs = inject(Proofs);
  private readonly picture = inject(PictureState);
  private readonly made = signal<ReadonlyMap<string, string>>(new Map());
  private readonly arrived$ = new Subject<void>();
  private making: Subscription | undefined;

  readonly of = (view: ViewRow): string | undefined => this.made().get(keyOf(view));

  /** Has those made that are not there yet, once there is something to see. */
  async ask(views: readonly ViewRow[]): Promise<void> {
    const missing = views.filter((view) => !this.made().has(keyOf(view)));
    const { instances } = await firstValueFrom(this.scene.scene$);
    if (missing.length === 0 || instances.length === 0) return;
    const entries = this.live.entries$.value;
    const wanted = missing.map((view) => {
      const condition = view.condition === undefined ? undefined : entry(entries, `condition/${view.condition}`);
      const { width, height } = view.frame ?? { width: 1, height: SHAPE };
      return {
        id: keyOf(view),
        entries: condition ? withCondition(entries, condition) : entries,
        camera: cameraOf(view),
        aspect: width / height,
      };
    });
    this.making?.unsubscribe();
    // What is looked at comes first.
    this.making = this.picture.status$
      .pipe(
        filter(({ state, progress }) => state === 'finished' || (state === 'refining' && progress >= BEGUN)),
        take(1),
        switchMap(() => this.proofs.make('views', wanted, WIDTH, SAMPLES)),
      )
      .subscribe(({ id, picture }) => {
        this.made.update((made) => new Map(made).set(id, picture));
        this.arrived$.next();
      });
  }

  /** Waits for the pictures of all of them, by their ids; those that there can be none of are missing. */
  async allOf(views: readonly ViewRow[]): Promise<Map<string, string>> {
    await this.ask(views);
    const { instances } = await firstValueFrom(this.scene.scene$);
    if (instances.length > 0)
      await firstValueFrom(
        this.arrived$.pipe(
          startWith(undefined),
          filter(() => views.every((view) => this.made().has(keyOf(view)))),
        ),
      );
    return new Map(views.flatMap((view): [string, string][] => (this.of(view) ? [[view.id, this.of(view)!]] : [])));
  }

  /** Nobody looks at them any more. */
  stop(): void {
    this.making?.unsubscribe();
    this.making = undefined;
  }
}

const keyOf = (view: ViewRow): string => JSON.stringify([cameraOf(view), view.frame, view.condition]);
