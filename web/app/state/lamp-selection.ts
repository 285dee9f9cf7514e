import { inject, Injectable } from '@angular/core';
import { BehaviorSubject, combineLatest, map } from 'rxjs';
import type { PlacedLamp } from '../../../core/lamp/placed-lamp';
import { placedLamps, settled } from '../../../core/project/things';
import { SceneState } from './scene-state';

export interface SelectableLamp {
  id: string;
  lamp: PlacedLamp;
}

/** Which of the lamps that were placed here are chosen, to be moved, turned and edited together. */
@Injectable({ providedIn: 'root' })
export class LampSelection {
  readonly chosen$ = new BehaviorSubject<ReadonlySet<string>>(new Set());
  /** All of them are drawn, not only those that are chosen. */
  readonly showsAll$ = new BehaviorSubject(false);
  readonly lamps$ = combineLatest([inject(SceneState).entries$, inject(SceneState).sources$]).pipe(
    map(([entries, sources]): SelectableLamp[] =>
      placedLamps(entries, sources).map((placed) => ({ id: placed.id, lamp: settled(placed) })),
    ),
  );
  readonly shown$ = combineLatest([this.lamps$, this.chosen$, this.showsAll$]).pipe(
    map(([lamps, chosen, all]) => lamps.filter(({ id }) => all || chosen.has(id))),
  );

  choose(ids: Iterable<string>): void {
    const chosen = new Set(ids);
    const now = this.chosen$.value;
    if (chosen.size !== now.size || [...chosen].some((id) => !now.has(id))) this.chosen$.next(chosen);
  }
}
