import { Injectable } from '@angular/core';
import { BehaviorSubject } from 'rxjs';
import type { ThingKinds } from '../../../core/setting/setting-model';
import type { ThingKind } from '../../../core/setting/thing-kind';

/** The library of things, from the server. */
@Injectable({ providedIn: 'root' })
export class ThingLibrary {
  readonly kinds$ = new BehaviorSubject<ThingKinds>(new Map());

  constructor() {
    void this.load();
  }

  private async load(): Promise<void> {
    const response = await fetch('/api/things').catch(() => undefined);
    if (response?.ok) this.kinds$.next(new Map(((await response.json()) as ThingKind[]).map((kind) => [kind.id, kind])));
  }
}
