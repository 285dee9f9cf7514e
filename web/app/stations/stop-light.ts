import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import type { KeptWalk } from '../../../core/camera/walk';
import { clock } from '../../../core/project/clock';
import { conditionsOf } from '../../../core/project/conditions';
import { Live } from '../state/live';
import { SceneState } from '../state/scene-state';

type KeptStop = KeptWalk['stops'][number];
type Told = Pick<KeptStop, 'condition' | 'minutes' | 'option' | 'shown'>;

/** What a walk is seen under from one of its stops on. */
@Component({
  selector: 'dp-stop-light',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="field" data-testid="stop-light">
      <label [attr.for]="'light-' + number()">From here</label>
      <select
        class="form-select form-select-sm"
        [id]="'light-' + number()"
        [attr.aria-label]="'Condition from stop ' + number()"
        (change)="tell({ condition: text($event) || undefined })"
      >
        <option value="">light as before</option>
        @for (condition of conditions(); track condition.id) {
          <option [value]="condition.id" [selected]="condition.id === stop().condition">{{ condition.name }}</option>
        }
        @if (isGone()) {
          <option [value]="stop().condition" selected>a condition that was dropped</option>
        }
      </select>
      <label [attr.for]="'time-' + number()">Time of day</label>
      <span
        ><input
          class="form-control form-control-sm mono d-inline-block time"
          type="time"
          [id]="'time-' + number()"
          [attr.aria-label]="'Time of day at stop ' + number()"
          [value]="time()"
          (change)="tell({ minutes: minutesOf(text($event)) })"
        />
        @if (stop().minutes === undefined) {
          <span class="quiet ms-2">as the light has it</span>
        } @else {
          <button type="button" class="link ms-2" (click)="tell({ minutes: undefined })">as the light has it</button>
        }
      </span>
      @if (options().length > 0) {
        <label [attr.for]="'option-' + number()">Option</label>
        <select
          class="form-select form-select-sm"
          [id]="'option-' + number()"
          [attr.aria-label]="'Option from stop ' + number()"
          (change)="tell({ option: optionOf(text($event)) })"
        >
          <option value="">as before</option>
          @for (option of options(); track option.key) {
            <option [value]="option.key" [selected]="option.key === chosenOption()">{{ option.name }}</option>
          }
        </select>
      }
      @if (stop().shown) {
        <span>Shows</span>
        <span
          >layers and options of its view
          <button type="button" class="link ms-2" data-testid="stop-shown-drop" (click)="tell({ shown: undefined })">
            as before
          </button></span
        >
      }
    </div>
    <p class="quiet mb-1">Between two stops that tell a time, the sun runs from the one to the other.</p>
  `,
  styleUrl: './station.scss',
  styles: `
    :host {
      display: block;
      height: auto;
      padding: 4px 0 6px 1.2em;
    }
    .time {
      width: 96px;
    }
    p {
      font-size: 0.8125rem;
    }
  `,
})
export class StopLight {
  readonly stop = input.required<KeptStop>();
  /** From 1. */
  readonly number = input.required<number>();
  readonly changed = output<Told>();
  protected readonly conditions = toSignal(inject(Live).entries$.pipe(map(conditionsOf)), { initialValue: [] });
  private readonly sources = toSignal(inject(SceneState).sources$, { initialValue: [] });
  protected readonly options = computed(() =>
    this.sources().flatMap(({ id: source, model: { presentation } }) =>
      presentation.options.length < 2
        ? []
        : presentation.options.map(({ id: option, name }) => ({ key: JSON.stringify([source, option]), name, source, option })),
    ),
  );
  protected readonly chosenOption = computed(() => {
    const { option } = this.stop();
    return option && JSON.stringify([option.source, option.option]);
  });
  protected readonly isGone = computed(() => {
    const { condition } = this.stop();
    return condition !== undefined && !this.conditions().some(({ id }) => id === condition);
  });
  protected readonly time = computed(() => {
    const { minutes } = this.stop();
    return minutes === undefined ? '' : clock(minutes);
  });

  protected tell(told: Partial<Told>): void {
    const { condition, minutes, option } = { ...this.stop(), ...told };
    this.changed.emit({ condition, minutes, option });
  }

  protected text(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }

  /** Of a time as an input has it, 18:40. */
  protected minutesOf(time: string): number | undefined {
    const [hours, minutes] = time.split(':').map(Number);
    return hours === undefined || minutes === undefined ? undefined : hours * 60 + minutes;
  }

  protected optionOf(key: string): Told['option'] {
    const chosen = this.options().find((option) => option.key === key);
    return chosen && { source: chosen.source, option: chosen.option };
  }
}
