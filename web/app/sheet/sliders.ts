import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { Slider } from './slider';

/** A number that a slider sets: how it is called, between which bounds it is kept, and how it is told. */
export interface Parameter<Field extends string = string> {
  label: string;
  field: Field;
  min: number;
  max: number;
  step: number;
  format: (value: number) => string;
  /** It is shown as what is left to 1. */
  turned?: boolean;
}

/** Fields of a thing that hold a number. */
export type NumbersOf<T> = { [K in keyof T]: T[K] extends number ? K : never }[keyof T] & string;

/** Sliders for some numbers of one thing; what changes is told as a part of it. */
@Component({
  selector: 'dp-sliders',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Slider],
  template: `
    @for (p of parameters(); track p.field) {
      <dp-slider
        [label]="p.label"
        [name]="prefix() + p.field"
        [value]="shown(p)"
        [words]="p.format(shown(p))"
        [min]="p.min"
        [max]="p.max"
        [step]="p.step"
        (slid)="slid.emit(change(p, $event))"
        (set)="set.emit(change(p, $event))"
      />
    }
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class Sliders<T extends object> {
  readonly parameters = input.required<readonly Parameter<NumbersOf<T>>[]>();
  readonly of = input.required<T>();
  /** For tests to find them by: this and the field. */
  readonly prefix = input('');
  readonly slid = output<Partial<T>>();
  readonly set = output<Partial<T>>();

  protected shown({ field, turned }: Parameter<NumbersOf<T>>): number {
    const value = this.of()[field] as number;
    return turned ? 1 - value : value;
  }

  protected change({ field, turned }: Parameter<NumbersOf<T>>, value: number): Partial<T> {
    return { [field]: turned ? 1 - value : value } as Partial<T>;
  }
}
