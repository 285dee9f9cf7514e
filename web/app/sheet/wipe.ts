import { ChangeDetectionStrategy, Component, effect, ElementRef, inject, signal, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { LightTable } from '../state/light-table';
import { Icon } from './icon';

const STEP = 0.02;

/** Two pictures over each other; the line between them is dragged or moved by arrow keys. */
@Component({
  selector: 'dp-wipe',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    @if (comparison(); as c) {
      <section data-testid="wipe" (keydown.escape)="close()">
        <div #film class="film" [class]="way()" (pointerdown)="drag($event)" (pointermove)="move($event)">
          <img [src]="c.right.picture" [alt]="c.right.name" draggable="false" />
          <img
            [src]="c.left.picture"
            [alt]="c.left.name"
            draggable="false"
            [style.clip-path]="way() === 'wipe' ? 'inset(0 ' + (1 - at()) * 100 + '% 0 0)' : null"
          />
          <div
            [hidden]="way() !== 'wipe'"
            #line
            class="line"
            role="slider"
            tabindex="0"
            aria-label="Line between the two pictures"
            aria-valuemin="0"
            aria-valuemax="100"
            [attr.aria-valuenow]="percent()"
            [style.left.%]="at() * 100"
            (keydown)="keyDown($event)"
          ></div>
          <span class="name left">{{ c.left.name }}</span>
          <span class="name right">{{ c.right.name }}</span>
          <span class="ways">
            @for (other of ways; track other) {
              <button type="button" class="plain" [attr.aria-pressed]="way() === other" (click)="way.set(other)">{{ other }}</button>
            }
          </span>
          <button type="button" class="plain shut" aria-label="Close the comparison" (click)="close()"><dp-icon name="close" /></button>
        </div>
      </section>
    }
  `,
  styles: `
    section {
      position: absolute;
      inset: 0;
      z-index: 6;
      display: grid;
      place-items: center;
      background: var(--mat);
    }
    .film {
      position: relative;
      max-width: 100%;
      touch-action: none;
      cursor: ew-resize;
      line-height: 0;
    }
    img {
      max-width: 100%;
      max-height: 100%;
      width: 100%;
      display: block;
    }
    img + img {
      position: absolute;
      inset: 0;
    }
    .line {
      position: absolute;
      top: 0;
      bottom: 0;
      width: 2px;
      margin-left: -1px;
      background: #fffdf8;
      outline-offset: 3px;
    }
    .name,
    .shut {
      position: absolute;
      bottom: 8px;
      padding: 2px 8px;
      line-height: 1.5;
      background: var(--paper-raised);
      font-size: 0.8125rem;
    }
    .beside {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 4px;
    }
    .beside img + img {
      position: static;
      order: -1;
    }
    .difference img + img {
      mix-blend-mode: difference;
    }
    .ways {
      position: absolute;
      left: 50%;
      bottom: 8px;
      transform: translateX(-50%);
      display: flex;
      gap: 12px;
      padding: 2px 10px;
      line-height: 1.5;
      background: var(--paper-raised);
      font-size: 0.8125rem;
    }
    .ways [aria-pressed='true'] {
      font-weight: 600;
      border-bottom: 2px solid var(--ink);
    }
    .left {
      left: 8px;
    }
    .right {
      right: 8px;
    }
    .shut {
      top: 8px;
      bottom: auto;
      right: 8px;
    }
    section .film {
      width: 100%;
    }
  `,
})
export class Wipe {
  private readonly table = inject(LightTable);
  private readonly film = viewChild<ElementRef<HTMLElement>>('film');
  private readonly line = viewChild<ElementRef<HTMLElement>>('line');
  protected readonly comparison = toSignal(this.table.comparison$);
  protected readonly at = signal(0.5);
  /** Over each other with a line between, beside each other, or what differs alone. */
  protected readonly ways = ['wipe', 'beside', 'difference'] as const;
  protected readonly way = signal<(typeof this.ways)[number]>('wipe');
  protected readonly percent = () => Math.round(this.at() * 100);

  constructor() {
    effect(() => {
      this.line()?.nativeElement.focus();
    });
  }

  protected drag(event: PointerEvent): void {
    if ((event.target as HTMLElement).closest('button')) return;
    this.film()!.nativeElement.setPointerCapture(event.pointerId);
    this.put(event);
  }

  protected move(event: PointerEvent): void {
    if (event.buttons & 1) this.put(event);
  }

  protected keyDown(event: KeyboardEvent): void {
    const by = { ArrowLeft: -STEP, ArrowRight: STEP, Home: -1, End: 1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    this.at.update((at) => Math.min(1, Math.max(0, at + by)));
  }

  protected close(): void {
    this.table.comparison$.next(undefined);
  }

  private put({ clientX }: PointerEvent): void {
    const { left, width } = this.film()!.nativeElement.getBoundingClientRect();
    this.at.set(Math.min(1, Math.max(0, (clientX - left) / width)));
  }
}
