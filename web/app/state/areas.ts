import { Injectable } from '@angular/core';
import { BehaviorSubject } from 'rxjs';
import { blobOf, meshArea, type Mesh } from '../../../core/geometry/mesh';

/** Surface area of each mesh that has arrived, in m2. */
@Injectable({ providedIn: 'root' })
export class Areas {
  readonly areas$ = new BehaviorSubject<ReadonlyMap<string, number>>(new Map());

  add(meshes: readonly (readonly [string, Mesh])[]): void {
    const areas = new Map(this.areas$.value);
    for (const [key, mesh] of meshes) areas.set(blobOf(key), meshArea(mesh));
    this.areas$.next(areas);
  }
}
