import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { isAdjusted } from '../../../core/finish/adjust';
import type { Finish } from '../../../core/finish/finish';

/** A small square of a finish: its map if it has one, else its colour; hatched while nothing is assigned. */
@Component({
  selector: 'dp-swatch',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<span
    class="swatch"
    [class.large]="large()"
    [class.none]="!finish()"
    [style.background-color]="css()"
    [style.background-image]="image()"
    [style.background-blend-mode]="'multiply'"
    [style.filter]="filter()"
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
  readonly finish = input<Finish | undefined>();
  readonly colour = input.required<readonly number[]>();
  readonly large = input(false);

  protected readonly css = computed(() => {
    const rgb = this.finish()?.baseColour ?? this.colour();
    return `rgb(${rgb.map((c) => Math.round(c * 255)).join(' ')})`;
  });
  /** The adjustment, near enough for a swatch: the browser's filters work on coded values, ours on linear ones. */
  protected readonly filter = computed(() => {
    const finish = this.finish();
    if (!finish || !isAdjusted(finish)) return null;
    const { hueDeg, saturation, brightness, contrast } = finish;
    return `hue-rotate(${String(hueDeg)}deg) saturate(${String(saturation)}) brightness(${(brightness ** (1 / 2.2)).toFixed(3)}) contrast(${String(contrast)})`;
  });
  protected readonly image = computed(() => {
    const finish = this.finish();
    if (!finish) return null;
    if (finish.maps !== null && !finish.maps.startsWith('image:')) return `url(/api/maps/${finish.maps}/swatch.png)`;
    if (finish.transmission > 0) return 'linear-gradient(135deg, #cfe3e6 0 45%, #eef6f7 45% 60%, #cfe3e6 60%)';
    return null;
  });
}
