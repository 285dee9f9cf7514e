import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { colourOf, hexOf } from './colour-field';

type Rgb = [number, number, number];

/** A labelled colour with its value: `slid` while it is chosen, `set` when it is. */
@Component({
  selector: 'dp-colour-row',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="wide"
      >{{ label() }}
      <input
        #field
        type="color"
        [attr.data-testid]="name()"
        [value]="hex()"
        (input)="slid.emit(rgb(field.value))"
        (change)="set.emit(rgb(field.value))"
      />
      <span class="value mono">{{ hex() }}</span></label
    >
  `,
  styleUrl: '../stations/finish-card.scss',
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class ColourRow {
  readonly label = input.required<string>();
  /** For tests to find it by. */
  readonly name = input.required<string>();
  /** sRGB 0..1. */
  readonly colour = input.required<readonly number[]>();
  readonly slid = output<Rgb>();
  readonly set = output<Rgb>();
  protected readonly hex = computed(() => hexOf(this.colour()));
  protected readonly rgb = colourOf;
}
