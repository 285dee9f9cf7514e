import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Finish } from '../../../core/finish/finish';
import { ColourRow } from '../sheet/colour-row';

type ColourField = { [K in keyof Finish]: NonNullable<Finish[K]> extends readonly [number, number, number] ? K : never }[keyof Finish] &
  `${string}olour`;

/** A colour of a finish; null stands for that of the base. */
export interface FinishColour {
  label: string;
  field: ColourField;
  /** Whether it is seen at all; left out: always. */
  matters?: (finish: Finish) => boolean;
}

/** Those colours of a finish that are seen on it; what changes is told as a part of it. */
@Component({
  selector: 'dp-finish-colours',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ColourRow],
  template: `
    @for (row of rows(); track row.field) {
      <dp-colour-row
        [label]="row.label"
        [name]="row.field"
        [colour]="of()[row.field] ?? of().baseColour"
        (slid)="slid.emit(change(row.field, $event))"
        (set)="set.emit(change(row.field, $event))"
      />
    }
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class FinishColours {
  readonly colours = input.required<readonly FinishColour[]>();
  readonly of = input.required<Finish>();
  readonly slid = output<Partial<Finish>>();
  readonly set = output<Partial<Finish>>();
  protected readonly rows = computed(() => this.colours().filter(({ matters }) => matters?.(this.of()) ?? true));
  protected readonly change = (field: ColourField, colour: [number, number, number]): Partial<Finish> => ({ [field]: colour });
}
