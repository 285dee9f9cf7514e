import { Injectable, signal } from '@angular/core';
import { exhaustMap, map, takeWhile, timer, type Observable } from 'rxjs';
import { previewProgress } from '../../../core/project/answers';
import { ask } from './ask';

const ASK_EVERY_MS = 2000;

/**
 * Addresses of finish previews that can be shown. They are asked for one at a time: the server may take a second or two to
 * render one, and a browser keeps few connections, which the picture needs too.
 */
@Injectable({ providedIn: 'root' })
export class PreviewQueue {
  readonly ready = signal<ReadonlySet<string>>(new Set());
  /** How many of the shipped finishes have theirs, while the server still makes them beforehand; ends with the last. */
  readonly progress$: Observable<{ made: number; of: number }> = timer(0, ASK_EVERY_MS).pipe(
    exhaustMap(() => ask(previewProgress, '/api/previews')),
    map((asked) => ('answer' in asked ? asked.answer : { made: 0, of: 0 })),
    takeWhile(({ made, of }) => made < of, true),
  ); // prettier-ignore
  private readonly waiting = new Set<string>();
  private readonly failed = new Set<string>();
  private busy = false;

  ask(address: string): void {
    if (this.ready().has(address) || this.failed.has(address)) return;
    this.waiting.add(address);
    void this.work();
  }

  /** It is no longer looked at. */
  forget(address: string): void {
    this.waiting.delete(address);
  }

  private async work(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    for (let [address] = this.waiting; address !== undefined; [address] = this.waiting) {
      this.waiting.delete(address);
      const known = await fetch(address).then(async (response) => response.ok && (await response.blob()).size > 0, () => false); // prettier-ignore
      if (known) this.ready.update((ready) => new Set([...ready, address]));
      else this.failed.add(address);
    }
    this.busy = false;
  }
}
