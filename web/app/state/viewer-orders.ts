import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import type * as v from 'valibot';
import { viewerLinked, viewerList, viewerOrdered, viewerWeighed } from '../../../core/project/answers';
import { ask, json } from './ask';

export type ViewerWeight = v.InferOutput<typeof viewerWeighed>;
export type ListedViewer = v.InferOutput<typeof viewerList>['viewers'][number];

const LOOK_EVERY_MS = 1000;
/** Rest before what was chosen is weighed. */
const WEIGH_MS = 500;
const UNREACHED = 'The server is out of reach; nothing was changed.';

/** Viewers that are made for clients: orders, files, links. */
@Injectable({ providedIn: 'root' })
export class ViewerOrders {
  readonly list = signal<readonly ListedViewer[]>([]);
  readonly fault = signal('');
  /** Of what is chosen; undefined: it is not known yet. */
  readonly weight = signal<ViewerWeight | undefined>(undefined);
  private timer: ReturnType<typeof setTimeout> | undefined;
  private weighTimer: ReturnType<typeof setTimeout> | undefined;
  private weighed = 0;

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      clearTimeout(this.timer);
      clearTimeout(this.weighTimer);
    });
  }

  /** Reads the list; again and again as long as one is being made. */
  async refresh(): Promise<void> {
    clearTimeout(this.timer);
    const got = await ask(viewerList, '/api/viewers');
    if ('answer' in got) this.list.set(got.answer.viewers);
    if (this.list().some(({ state }) => state === 'waiting' || state === 'baking'))
      this.timer = setTimeout(() => void this.refresh(), LOOK_EVERY_MS);
  }

  /** Asks how large the file of an order would be, once nothing is chosen any more. */
  weigh(order: () => unknown): void {
    clearTimeout(this.weighTimer);
    this.weight.set(undefined);
    const number = ++this.weighed;
    this.weighTimer = setTimeout(() => void this.weighNow(order(), number), WEIGH_MS);
  }

  private async weighNow(order: unknown, number: number): Promise<void> {
    const got = await ask(viewerWeighed, '/api/viewers/weigh', json(order));
    if ('answer' in got && number === this.weighed) this.weight.set(got.answer);
  }

  async order(order: unknown): Promise<boolean> {
    const made = await ask(viewerOrdered, '/api/viewers', json(order));
    this.fault.set('fault' in made ? (made.fault ?? UNREACHED) : '');
    await this.refresh();
    return 'answer' in made;
  }

  /** The address of a new link, which is told only now. */
  async link(
    viewer: string,
    wish: { days: number; password?: string; mayComment: boolean; showsOthers: boolean },
  ): Promise<string | undefined> {
    const made = await ask(viewerLinked, `/api/viewers/${viewer}/links`, json(wish));
    this.fault.set('fault' in made ? (made.fault ?? UNREACHED) : '');
    await this.refresh();
    return 'answer' in made ? `${location.origin}/v/${made.answer.token}` : undefined;
  }

  async remove(viewer: string): Promise<void> {
    await fetch(`/api/viewers/${viewer}`, { method: 'DELETE' }).catch(() => undefined);
    await this.refresh();
  }

  async revoke(link: string): Promise<void> {
    await fetch(`/api/viewer-links/${link}`, { method: 'DELETE' }).catch(() => undefined);
    await this.refresh();
  }
}
