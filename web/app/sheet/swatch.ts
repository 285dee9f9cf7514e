import { ChangeDetectionStrategy, Component, computed, input, signal } from '@angular/core';
import { finishMark, type Finish } from '../../../core/finish/finish';

/** A small square of a finish: its map if it has one, else its colour; hatched while nothing is assigned. */
@Component({
  selector: 'dp-swatch',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `@if (picture(); as address) {
      <img
        class="large swatch"
        loading="lazy"
        alt=""
        draggable="false"
        [src]="address"
        [style.background-color]="css()"
        [style.background-image]="image()"
        (error)="failed.set(address)"
      />
    } @else {
      <span
        class="swatch"
        [class.large]="large()"
        [class.none]="!finish()"
        [style.background-color]="css()"
        [style.background-image]="image()"
      ></span>
    }`,
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
      object-fit: cover;
      margin-bottom: 3px;
    }
    .none {
      background-image: repeating-linear-gradient(45deg, #fff9 0 2px, transparent 2px 6px);
    }
  `,
})
export class Swatch {
  readonly finish = input<Finish | undefined>();
  readonly colour = input.required<readonly number[]>();
  readonly large = input(false);

  /** Address of a picture that could not be had. */
  protected readonly failed = signal('');
  /** The kernel's picture of it, where there is room for one. */
  protected readonly picture = computed(() => {
    const finish = this.finish();
    const address = finish && this.large() ? `/api/finishes/${finish.id}/preview.png?mark=${finishMark(finish)}` : '';
    return address === this.failed() ? '' : address;
  });
  protected readonly css = computed(() => {
    const rgb = this.finish()?.baseColour ?? this.colour();
    return `rgb(${rgb.map((c) => Math.round(c * 255)).join(' ')})`;
  });
  /** A flat picture of it, which also stands in until the other has come. */
  protected readonly image = computed(() => {
    const finish = this.finish();
    return finish && !finish.id.startsWith('source.') ? `url(/api/finishes/${finish.id}/swatch.png?mark=${finishMark(finish)})` : null;
  });
}
