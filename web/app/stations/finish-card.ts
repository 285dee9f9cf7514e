import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, input, signal } from '@angular/core';
import { FINISHES } from '../../../core/finish/library';
import type { Finish } from '../../../core/finish/finish';
import { Live } from '../state/live';
import { SceneState } from '../state/scene-state';

interface Slider {
  label: string;
  field: 'roughness' | 'metalness' | 'opacity' | 'transmission' | 'normalScale' | 'rotationDeg';
  min: number;
  max: number;
  step: number;
  format: (value: number) => string;
}

const plain = (v: number) => v.toFixed(2);
const SLIDERS: readonly Slider[] = [
  { label: 'Roughness', field: 'roughness', min: 0, max: 1, step: 0.01, format: plain },
  { label: 'Metalness', field: 'metalness', min: 0, max: 1, step: 0.01, format: plain },
  { label: 'Opacity', field: 'opacity', min: 0, max: 1, step: 0.01, format: plain },
  { label: 'Transmission', field: 'transmission', min: 0, max: 1, step: 0.01, format: plain },
  { label: 'Relief', field: 'normalScale', min: 0, max: 2, step: 0.05, format: plain },
  { label: 'Rotation', field: 'rotationDeg', min: -180, max: 180, step: 1, format: (v) => `${v.toFixed(0)}°` },
];
const hex = (rgb: readonly number[]) =>
  `#${rgb
    .map((c) =>
      Math.round(c * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

/** The parameters of a finish, edited at once in the picture and kept when a control is let go. */
@Component({
  selector: 'dp-finish-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="grid">
      <label class="wide"
        >Base colour
        <input
          type="color"
          data-testid="base-colour"
          [value]="hex()"
          (input)="preview(colourOf($event))"
          (change)="edit(colourOf($event))"
        />
        <span class="value mono">{{ hex() }}</span></label
      >
      @for (s of sliders; track s.field) {
        <label
          >{{ s.label }} <span class="value mono">{{ s.format(shown()[s.field]) }}</span>
          <input
            type="range"
            [attr.data-testid]="s.field"
            [min]="s.min"
            [max]="s.max"
            [step]="s.step"
            [value]="shown()[s.field]"
            [style.--fill.%]="fill(s)"
            (input)="preview(valueOf(s, $event))"
            (change)="edit(valueOf(s, $event))"
          />
        </label>
      }
      @if (finish().maps) {
        <label
          >Width
          <span class="value"
            ><input
              type="number"
              class="size mono"
              step="10"
              min="10"
              [value]="(shown().widthM * 1000).toFixed(0)"
              (change)="setSize('widthM', $event)"
            />
            mm</span
          ></label
        >
        <label
          >Height
          <span class="value"
            ><input
              type="number"
              class="size mono"
              step="10"
              min="10"
              [value]="(shown().heightM * 1000).toFixed(0)"
              (change)="setSize('heightM', $event)"
            />
            mm</span
          ></label
        >
      }
    </div>
    @if (edited()) {
      <button type="button" class="link" (click)="live.run({ type: 'reset-finish', finish: finish().id })">As shipped</button>
    }
  `,
  styles: `
    .grid {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 6px 18px;
      margin-bottom: 6px;
    }
    label {
      display: grid;
      grid-template-columns: minmax(0, 1fr) auto;
      align-items: center;
      font-size: 0.8125rem;
    }
    input[type='range'] {
      grid-column: 1 / -1;
    }
    .wide {
      grid-column: 1 / -1;
      grid-template-columns: minmax(0, 1fr) auto auto;
    }
    input[type='color'] {
      width: 34px;
      height: 20px;
      padding: 0;
      margin: 0 8px 0 0;
      border: 1px solid var(--rule);
      background: none;
    }
    .size {
      width: 66px;
      border: 1px solid var(--rule);
      background: var(--paper-raised);
      padding: 0 4px;
      text-align: right;
    }
  `,
})
export class FinishCard {
  protected readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  readonly finish = input.required<Finish>();
  /** What a control that is being dragged would change. */
  private readonly dragged = signal<Partial<Finish>>({});
  protected readonly shown = computed((): Finish => ({ ...this.finish(), ...this.dragged() }));
  protected readonly hex = computed(() => hex(this.shown().baseColour));
  protected readonly sliders = SLIDERS;
  /** Differs from the shipped finish of the same id. */
  protected readonly edited = computed(() => FINISHES.some((f) => f.id === this.finish().id && f !== this.finish()));

  protected fill({ field, min, max }: Slider): number {
    return ((this.shown()[field] - min) / (max - min)) * 100;
  }

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.endPreview();
    });
  }

  protected valueOf({ field }: Slider, event: Event): Partial<Finish> {
    return { [field]: Number((event.target as HTMLInputElement).value) };
  }

  protected colourOf(event: Event): Partial<Finish> {
    const text = (event.target as HTMLInputElement).value;
    return { baseColour: [1, 3, 5].map((i) => parseInt(text.slice(i, i + 2), 16) / 255) as [number, number, number] };
  }

  protected preview(change: Partial<Finish>): void {
    this.dragged.set(change);
    this.scene.finishPreview$.next(this.shown());
  }

  protected setSize(field: 'widthM' | 'heightM', event: Event): void {
    const millimetres = Number((event.target as HTMLInputElement).value);
    if (millimetres >= 1 && millimetres <= 1e6) this.edit({ [field]: millimetres / 1000 });
  }

  protected edit(change: Partial<Finish>): void {
    this.live.run({ type: 'edit-finish', finish: { ...this.finish(), ...change } });
    this.endPreview();
  }

  private endPreview(): void {
    this.dragged.set({});
    if (this.scene.finishPreview$.value) this.scene.finishPreview$.next(undefined);
  }
}
