import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, ElementRef, inject, input, signal } from '@angular/core';
import { finishMark, type Finish } from '../../../core/finish/finish';
import { PreviewQueue } from '../state/previews';

/** A small square of a finish as it lies flat, or a large one with the light kernel's picture of it; hatched while nothing is assigned. */
@Component({
  selector: 'dp-swatch',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<span
    class="swatch"
    [class.large]="large()"
    [class.none]="!finish()"
    [style.background-color]="css()"
    [style.background-image]="image()"
  ></span>`,
  styles: `
    :host {
      display: block;
    }
    .swatch {
      display: block;
      width: 24px;
      height: 24px;
      border: 1px solid #0003;
      border-radius: 2px;
      background-size: cover;
    }
    .large {
      width: 100%;
      height: auto;
      aspect-ratio: 1.25;
      margin-bottom: 3px;
    }
    .none {
      background-image: repeating-linear-gradient(45deg, #fff9 0 2px, transparent 2px 6px);
    }
  `,
})
export class Swatch {
  private readonly previews = inject(PreviewQueue);
  readonly finish = input<Finish | undefined>();
  readonly colour = input.required<readonly number[]>();
  readonly large = input(false);

  private readonly seen = signal(false);
  protected readonly css = computed(() => {
    const rgb = this.finish()?.baseColour ?? this.colour();
    return `rgb(${rgb.map((c) => Math.round(c * 255)).join(' ')})`;
  });
  private readonly preview = computed(() => {
    const finish = this.finish();
    return finish && this.large() ? addressOf(finish, 'preview') : undefined;
  });
  protected readonly image = computed(() => {
    const finish = this.finish();
    const preview = this.preview();
    if (preview !== undefined && this.previews.ready().has(preview)) return `url(${preview})`;
    return finish && !finish.id.startsWith('source.') ? `url(${addressOf(finish, 'swatch')})` : null;
  });

  constructor() {
    const observer = new IntersectionObserver((entries) => {
      this.seen.set(entries.at(-1)!.isIntersecting);
    });
    observer.observe(inject<ElementRef<HTMLElement>>(ElementRef).nativeElement);
    effect((onCleanup) => {
      const preview = this.preview();
      if (preview === undefined || !this.seen()) return;
      this.previews.ask(preview);
      onCleanup(() => {
        this.previews.forget(preview);
      });
    });
    inject(DestroyRef).onDestroy(() => {
      observer.disconnect();
    });
  }
}

const addressOf = (finish: Finish, kind: 'preview' | 'swatch') => `/api/finishes/${finish.id}/${kind}.png?mark=${finishMark(finish)}`;
