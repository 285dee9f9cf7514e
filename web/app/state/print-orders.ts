import { inject, Injectable, signal } from '@angular/core';
import type { PrintRequest } from '../../../core/render/print';
import { faultOf, json } from './ask';
import { Live } from './live';

/** Tells the server what is to be printed, and what is to become of it. */
@Injectable({ providedIn: 'root' })
export class PrintOrders {
  private readonly live = inject(Live);
  /** Why the last one was refused. */
  readonly fault = signal('');

  order(order: PrintRequest, startAt?: string): Promise<boolean> {
    return this.tell('/api/prints', json(startAt ? { order, startAt } : order));
  }

  deliver(name: string, orders: readonly { order: PrintRequest; fileName: string }[], startAt?: string, tour = false): Promise<boolean> {
    return this.tell('/api/deliveries', json({ name, orders, ...(startAt && { startAt }), ...(tour && { tour }) }));
  }

  act(print: string, action: 'cancel' | 'pause' | 'resume'): Promise<boolean> {
    return this.tell(`/api/prints/${print}/${action}`, json({}));
  }

  move(print: string, before: string | null): Promise<boolean> {
    return this.tell(`/api/prints/${print}/move`, json({ before }));
  }

  annotate(print: string, note: { starred?: boolean; note?: string }): Promise<boolean> {
    return this.tell(`/api/prints/${print}/note`, json(note));
  }

  pauseAll(paused: boolean): Promise<boolean> {
    return this.tell('/api/queue', json({ paused }));
  }

  remove(print: string): Promise<boolean> {
    return this.tell(`/api/prints/${print}`, { method: 'DELETE' });
  }

  link(delivery: string, links: readonly [number, number][]): Promise<boolean> {
    return this.tell(`/api/deliveries/${delivery}/links`, json({ links }));
  }

  removeDelivery(delivery: string): Promise<boolean> {
    return this.tell(`/api/deliveries/${delivery}`, { method: 'DELETE' });
  }

  /** The state that a print was made of is shown again. */
  showAgain(print: string): void {
    this.live.showPrint(print);
  }

  private async tell(url: string, init: RequestInit): Promise<boolean> {
    this.fault.set('');
    const response = await fetch(url, init).catch(() => undefined);
    if (response?.ok) return true;
    this.fault.set((await faultOf(response)) ?? 'The server is out of reach; nothing was ordered.');
    return false;
  }
}
