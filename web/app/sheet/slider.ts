import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';

/** A labelled slider with its value in words: `slid` while it is dragged, `set` when it is let go. */
@Component({
  selector: 'dp-slider',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label
      >{{ label() }} <span class="value mono">{{ words() }}</span>
      <input
        #range
        type="range"
        [attr.data-testid]="name()"
        [min]="min()"
        [max]="max()"
        [step]="step()"
        [value]="value()"
        [style.--fill.%]="fill()"
        (input)="slid.emit(range.valueAsNumber)"
        (change)="set.emit(range.valueAsNumber)"
      />
    </label>
  `,
  styles: `
    label {
      display: grid;
      grid-template-columns: minmax(0, 1fr) auto;
      align-items: center;
      font-size: 0.8125rem;
    }
    input {
      grid-column: 1 / -1;
    }
  `,
})
export class Slider {
  readonly label = input.required<string>();
  /** For tests to find it by. */
  readonly name = input.required<string>();
  readonly value = input.required<number>();
  readonly words = input.required<string>();
  readonly min = input(0);
  readonly max = input(1);
  readonly step = input(0.01);
  readonly slid = output<number>();
  readonly set = output<number>();
  protected readonly fill = computed(() => ((this.value() - this.min()) / (this.max() - this.min())) * 100);
}
