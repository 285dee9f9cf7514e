import { ChangeDetectionStrategy, Component, effect, ElementRef, inject, signal, viewChild } from '@angular/core';
import { PrintSettings } from '../state/print-settings';
import { Icon } from './icon';

const LEAST = 0.02;

/** The part of the picture that is to be printed alone, drawn over it with the pointer. */
@Component({
  selector: 'dp-region-marker',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    @if (settings.showsRegion() && (settings.marksRegion() || settings.region())) {
      <div
        #film
        class="film"
        [class.marks]="settings.marksRegion()"
        tabindex="-1"
        data-testid="region-marker"
        (pointerdown)="begin($event)"
        (pointermove)="draw($event)"
        (pointerup)="end($event)"
        (keydown.escape)="settings.marksRegion.set(false)"
      >
        @if (settings.region(); as r) {
          <div
            class="region"
            data-testid="region"
            [style.left.%]="r.left * 100"
            [style.top.%]="r.top * 100"
            [style.width.%]="r.width * 100"
            [style.height.%]="r.height * 100"
          >
            @if (!settings.marksRegion()) {
              <button
                type="button"
                class="plain"
                aria-label="Print the whole picture again"
                (pointerdown)="$event.stopPropagation()"
                (click)="settings.region.set(undefined)"
              >
                <dp-icon name="close" />
              </button>
            }
          </div>
        } @else {
          <p>Drag over the part that is to be printed.</p>
        }
      </div>
    }
  `,
  styles: `
    .film {
      position: absolute;
      inset: 0;
      z-index: 4;
      pointer-events: none;
      outline: none;
      overflow: hidden;
    }
    .marks {
      pointer-events: auto;
      cursor: crosshair;
      touch-action: none;
    }
    .region {
      position: absolute;
      border: 1px solid #fffdf8;
      box-shadow:
        0 0 0 1px #22303a,
        0 0 0 4000px rgb(34 48 58 / 38%);
    }
    button {
      position: absolute;
      top: 4px;
      right: 4px;
      pointer-events: auto;
      background: var(--paper-raised);
      padding: 0 4px;
    }
    p {
      position: absolute;
      left: 50%;
      top: 12px;
      transform: translateX(-50%);
      margin: 0;
      padding: 2px 10px;
      background: var(--paper-raised);
    }
  `,
})
export class RegionMarker {
  protected readonly settings = inject(PrintSettings);
  private readonly film = viewChild<ElementRef<HTMLElement>>('film');
  private readonly from = signal<{ x: number; y: number } | undefined>(undefined);

  constructor() {
    effect(() => {
      if (this.settings.marksRegion()) this.film()?.nativeElement.focus();
    });
  }

  protected begin(event: PointerEvent): void {
    if (!this.settings.marksRegion()) return;
    // The picture beneath would turn.
    event.stopPropagation();
    this.film()!.nativeElement.setPointerCapture(event.pointerId);
    this.settings.region.set(undefined);
    this.from.set(this.at(event));
  }

  protected draw(event: PointerEvent): void {
    const from = this.from();
    if (!from) return;
    event.stopPropagation();
    const to = this.at(event);
    const [left, top] = [Math.min(from.x, to.x), Math.min(from.y, to.y)];
    this.settings.region.set({ left, top, width: Math.abs(to.x - from.x), height: Math.abs(to.y - from.y) });
  }

  protected end(event: PointerEvent): void {
    if (!this.from()) return;
    event.stopPropagation();
    this.from.set(undefined);
    const region = this.settings.region();
    // A click alone marks nothing.
    if (!region || region.width < LEAST || region.height < LEAST) this.settings.region.set(undefined);
    else this.settings.marksRegion.set(false);
  }

  private at({ clientX, clientY }: PointerEvent): { x: number; y: number } {
    const { left, top, width, height } = this.film()!.nativeElement.getBoundingClientRect();
    const share = (v: number) => Math.min(1, Math.max(0, v));
    return { x: share((clientX - left) / width), y: share((clientY - top) / height) };
  }
}
