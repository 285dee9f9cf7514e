import { Injectable } from '@angular/core';
import { BehaviorSubject } from 'rxjs';
import type { TrialKind } from '../../../core/scene/trials';

/** Two pictures that are laid over each other. */
export interface Comparison {
  left: { name: string; picture: string };
  right: { name: string; picture: string };
}

/** What is laid over the picture to choose from or to compare. */
@Injectable({ providedIn: 'root' })
export class LightTable {
  readonly contactSheet$ = new BehaviorSubject<TrialKind | undefined>(undefined);
  readonly comparison$ = new BehaviorSubject<Comparison | undefined>(undefined);
  /** Seconds in which the picture passes over to a condition that is recalled. */
  readonly blendSeconds$ = new BehaviorSubject<number>(1.5);
}
