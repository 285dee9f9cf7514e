import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { Blades } from '../../../core/living/blades';
import type { Finish } from '../../../core/finish/finish';
import type { Waves } from '../../../core/finish/waves';
import { Slider } from '../sheet/slider';
import { colourOf, hexOf } from './colour-field';

const FIRST_WAVES: Waves = { heightM: 0.05, lengthM: 1.5, towardsDeg: 0 };
const FIRST_BLADES: Blades = { lengthM: 0.08, perM2: 3000, widthM: 0.003, colour: [0.33, 0.45, 0.17], irregularity: 0.5 };

interface Control<T> {
  label: string;
  field: { [K in keyof T]: T[K] extends number ? K : never }[keyof T] & string;
  /** Of the value shown to the value kept. */
  unit: string;
  scale: number;
  min: number;
  max: number;
  step: number;
}
const WAVE_CONTROLS: readonly Control<Waves>[] = [
  { label: 'Height', field: 'heightM', unit: 'mm', scale: 1000, min: 0, max: 400, step: 1 },
  { label: 'Crest to crest', field: 'lengthM', unit: 'm', scale: 1, min: 0.1, max: 12, step: 0.1 },
  { label: 'Wind blows towards', field: 'towardsDeg', unit: '°', scale: 1, min: -180, max: 180, step: 1 },
];
const BLADE_CONTROLS: readonly Control<Blades>[] = [
  { label: 'Length', field: 'lengthM', unit: 'mm', scale: 1000, min: 15, max: 400, step: 1 },
  { label: 'Width', field: 'widthM', unit: 'mm', scale: 1000, min: 1, max: 12, step: 0.5 },
  { label: 'Density', field: 'perM2', unit: 'a m²', scale: 1, min: 200, max: 8000, step: 100 },
  { label: 'Irregularity', field: 'irregularity', unit: '%', scale: 100, min: 0, max: 100, step: 1 },
];

/** Waves that run over a finish, and blades that grow on it. */
@Component({
  selector: 'dp-finish-living',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Slider],
  template: `
    <h4>Water and grass</h4>
    <label class="wide check"
      ><input
        #waving
        type="checkbox"
        class="form-check-input"
        data-testid="waves"
        [checked]="finish().waves !== null"
        (change)="set.emit({ waves: waving.checked ? firstWaves : null })"
      />
      Waves on level faces</label
    >
    @if (finish().waves; as waves) {
      @for (c of waveControls; track c.field) {
        <dp-slider
          [label]="c.label"
          [name]="'waves-' + c.field"
          [value]="waves[c.field] * c.scale"
          [words]="words(c, waves[c.field])"
          [min]="c.min"
          [max]="c.max"
          [step]="c.step"
          (slid)="slid.emit(waved(waves, c, $event))"
          (set)="set.emit(waved(waves, c, $event))"
        />
      }
    }
    <label class="wide check"
      ><input
        #growing
        type="checkbox"
        class="form-check-input"
        data-testid="blades"
        [checked]="finish().blades !== null"
        (change)="set.emit({ blades: growing.checked ? firstBlades : null })"
      />
      Blades of grass</label
    >
    @if (finish().blades; as blades) {
      @for (c of bladeControls; track c.field) {
        <dp-slider
          [label]="c.label"
          [name]="'blades-' + c.field"
          [value]="blades[c.field] * c.scale"
          [words]="words(c, blades[c.field])"
          [min]="c.min"
          [max]="c.max"
          [step]="c.step"
          (set)="set.emit(grown(blades, c, $event))"
        />
      }
      <label class="wide"
        >Colour of the blades
        <input
          #green
          type="color"
          data-testid="blade-colour"
          [value]="hexOf(blades.colour)"
          (change)="set.emit({ blades: coloured(blades, green.value) })"
        />
        <span class="value mono">{{ hexOf(blades.colour) }}</span></label
      >
    }
  `,
  styleUrl: './finish-card.scss',
})
export class FinishLivingCard {
  /** As it is shown now, drags included. */
  readonly finish = input.required<Finish>();
  readonly slid = output<Partial<Finish>>();
  readonly set = output<Partial<Finish>>();

  protected readonly waveControls = WAVE_CONTROLS;
  protected readonly bladeControls = BLADE_CONTROLS;
  protected readonly firstWaves = FIRST_WAVES;
  protected readonly firstBlades = FIRST_BLADES;
  protected readonly hexOf = hexOf;

  protected words({ scale, unit, step }: Pick<Control<Waves>, 'scale' | 'unit' | 'step'>, value: number): string {
    return `${(value * scale).toFixed(step < 1 ? 1 : 0)}${unit === '°' ? '' : ' '}${unit}`;
  }

  protected waved(waves: Waves, { field, scale }: Control<Waves>, value: number): Partial<Finish> {
    return { waves: { ...waves, [field]: value / scale } };
  }

  protected grown(blades: Blades, { field, scale }: Control<Blades>, value: number): Partial<Finish> {
    return { blades: { ...blades, [field]: value / scale } };
  }

  protected coloured(blades: Blades, hex: string): Blades {
    return { ...blades, colour: colourOf(hex) };
  }
}
