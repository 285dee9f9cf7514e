import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { Blades } from '../../../core/living/blades';
import type { Finish } from '../../../core/finish/finish';
import type { Waves } from '../../../core/finish/waves';
import { ColourRow } from '../sheet/colour-row';
import { Sliders, type NumbersOf, type Parameter } from '../sheet/sliders';

const FIRST_WAVES: Waves = { heightM: 0.05, lengthM: 1.5, towardsDeg: 0, windMs: 3 };
const FIRST_BLADES: Blades = { lengthM: 0.08, perM2: 3000, widthM: 0.003, colour: [0.33, 0.45, 0.17], irregularity: 0.5 };

const millimetres = (v: number) => `${(v * 1000).toFixed(v < 0.01 ? 1 : 0)} mm`;
const WAVES: readonly Parameter<NumbersOf<Waves>>[] = [
  { label: 'Height', field: 'heightM', min: 0, max: 0.4, step: 0.001, format: millimetres },
  { label: 'Crest to crest', field: 'lengthM', min: 0.1, max: 12, step: 0.1, format: (v) => `${v.toFixed(1)} m` },
  { label: 'Wind blows towards', field: 'towardsDeg', min: -180, max: 180, step: 1, format: (v) => `${v.toFixed(0)}°` },
  { label: 'Wind', field: 'windMs', min: 0, max: 20, step: 0.5, format: (v) => `${v.toFixed(1)} m/s` },
];
const BLADES: readonly Parameter<NumbersOf<Blades>>[] = [
  { label: 'Length', field: 'lengthM', min: 0.015, max: 0.4, step: 0.001, format: millimetres },
  { label: 'Width', field: 'widthM', min: 0.001, max: 0.012, step: 0.0005, format: millimetres },
  { label: 'Density', field: 'perM2', min: 200, max: 8000, step: 100, format: (v) => `${v.toFixed(0)} a m²` },
  { label: 'Irregularity', field: 'irregularity', min: 0, max: 1, step: 0.01, format: (v) => `${(v * 100).toFixed(0)} %` },
];

/** Waves that run over a finish, and blades that grow on it. */
@Component({
  selector: 'dp-finish-living',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ColourRow, Sliders],
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
      <dp-sliders
        prefix="waves-"
        [parameters]="waveParameters"
        [of]="waves"
        (slid)="slid.emit({ waves: with(waves, $event) })"
        (set)="set.emit({ waves: with(waves, $event) })"
      />
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
      <dp-sliders prefix="blades-" [parameters]="bladeParameters" [of]="blades" (set)="set.emit({ blades: with(blades, $event) })" />
      <dp-colour-row
        label="Colour of the blades"
        name="blade-colour"
        [colour]="blades.colour"
        (set)="set.emit({ blades: with(blades, { colour: $event }) })"
      />
    }
  `,
  styleUrl: './finish-card.scss',
})
export class FinishLivingCard {
  /** As it is shown now, drags included. */
  readonly finish = input.required<Finish>();
  readonly slid = output<Partial<Finish>>();
  readonly set = output<Partial<Finish>>();

  protected readonly waveParameters = WAVES;
  protected readonly bladeParameters = BLADES;
  protected readonly firstWaves = FIRST_WAVES;
  protected readonly firstBlades = FIRST_BLADES;

  protected with<T extends object>(now: T, change: Partial<T>): T {
    return { ...now, ...change };
  }
}
