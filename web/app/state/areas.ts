import { inject, Injectable } from '@angular/core';
import { BehaviorSubject } from 'rxjs';
import { meshArea, type Mesh } from '../../../core/geometry/mesh';
import { SceneState } from './scene-state';

/** Surface area of each mesh that has arrived, in m2. */
@Injectable({ providedIn: 'root' })
export class Areas {
  private readonly scene = inject(SceneState);
  readonly areas$ = new BehaviorSubject<ReadonlyMap<string, number>>(new Map());

  add(meshes: readonly (readonly [string, Mesh])[]): void {
    const areas = new Map(this.areas$.value);
    for (const [hash, mesh] of meshes) areas.set(hash, meshArea(mesh));
    this.areas$.next(areas);
  }

  endPreview(): void {
    if (this.scene.preview$.value) this.scene.preview$.next(undefined);
  }
}
