import { Injectable } from '@angular/core';
import { BehaviorSubject } from 'rxjs';
import { blobOf, meshBounds, type Bounds, type Mesh } from '../../../core/geometry/mesh';
import { PlacedArea } from '../../../core/geometry/placed-area';

/** What is known of each mesh that has arrived: its surface, and the box about it. */
@Injectable({ providedIn: 'root' })
export class Areas {
  readonly areas$ = new BehaviorSubject<ReadonlyMap<string, PlacedArea>>(new Map());
  readonly bounds$ = new BehaviorSubject<ReadonlyMap<string, Bounds>>(new Map());

  add(meshes: readonly (readonly [string, Mesh])[]): void {
    const [areas, bounds] = [new Map(this.areas$.value), new Map(this.bounds$.value)];
    for (const [key, mesh] of meshes) {
      areas.set(blobOf(key), new PlacedArea(mesh));
      bounds.set(blobOf(key), meshBounds(mesh.positions));
    }
    this.areas$.next(areas);
    this.bounds$.next(bounds);
  }
}
