import { Injectable, signal } from '@angular/core';

const KEY = 'diaphane-favourite-finishes';

/** Finishes that a person marks, for all projects in this browser. */
@Injectable({ providedIn: 'root' })
export class Favourites {
  readonly ids = signal<ReadonlySet<string>>(kept());

  turn(finish: string): void {
    const next = new Set(this.ids());
    if (!next.delete(finish)) next.add(finish);
    this.ids.set(next);
    globalThis.localStorage?.setItem(KEY, JSON.stringify([...next]));
  }
}

function kept(): Set<string> {
  try {
    const list: unknown = JSON.parse(globalThis.localStorage?.getItem(KEY) ?? '[]');
    return new Set(Array.isArray(list) ? list.filter((id) => typeof id === 'string') : []);
  } catch {
    return new Set();
  }
}
