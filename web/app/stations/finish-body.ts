import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Finish, FinishBody } from '../../../core/finish/finish';
import { Sliders, type NumbersOf, type Parameter } from '../sheet/sliders';
import { colourOf, hexOf } from '../sheet/colour-field';
import { FinishColours, type FinishColour } from './finish-colours';

const BODIES: readonly { body: FinishBody; words: string }[] = [
  { body: 'sheet', words: 'a sheet without thickness' },
  { body: 'pane', words: 'a pane, crossed straight' },
  { body: 'solid', words: 'solid, it refracts' },
];
const plain = (v: number) => v.toFixed(2);
const share = (label: string, field: NumbersOf<Finish>): Parameter<NumbersOf<Finish>> => ({
  label,
  field,
  min: 0,
  max: 1,
  step: 0.01,
  format: plain,
});
/** Inside a scattering body; the print shows it, and the picture at rest. */
const WANDER: Parameter<NumbersOf<Finish>> = {
  label: 'Wanders inside',
  field: 'subsurfaceM',
  min: 0,
  max: 0.02,
  step: 0.0001,
  format: (v) => (v > 0 ? `${(v * 1000).toFixed(1)} mm` : 'no'),
};
const SHARES = [
  share('Opacity', 'opacity'),
  share('Transmission', 'transmission'),
  share('Scattered through', 'diffuseTransmission'),
  WANDER,
];
const INDEX = [{ ...share('Index', 'ior'), min: 1, max: 2.5 }];
/** Only a solid bends light. */
const BENDING = [...INDEX, { ...share('Spreads colours', 'dispersion'), max: 2 }];
/** Absorption of a clear body is told by the light left after so far. */
const FIRST_DISTANCE_M = 0.1;

const INSIDE: readonly FinishColour[] = [
  { label: 'Colour scattered through', field: 'diffuseTransmissionColour', matters: (f) => f.diffuseTransmission > 0 },
  { label: 'How far each colour goes', field: 'subsurfaceColour', matters: (f) => f.subsurfaceM > 0 },
];
const GIVEN: readonly FinishColour[] = [{ label: 'Colour of its light', field: 'emissionColour', matters: (f) => f.emissionCdM2 > 0 }];

/** What a finish lets through, and what light it gives. */
@Component({
  selector: 'dp-finish-body',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FinishColours, Sliders],
  template: `
    <h4>Light through it</h4>
    <dp-sliders [parameters]="shares" [of]="finish()" (slid)="slid.emit($event)" (set)="set.emit($event)" />
    <dp-finish-colours [colours]="INSIDE" [of]="finish()" (slid)="slid.emit($event)" (set)="set.emit($event)" />
    @if (finish().transmission > 0) {
      <dp-sliders
        [parameters]="finish().body === 'solid' ? bending : index"
        [of]="finish()"
        (slid)="slid.emit($event)"
        (set)="set.emit($event)"
      />
      <label class="wide"
        >Body
        <select #body class="form-select form-select-sm" data-testid="body" (change)="set.emit({ body: bodyOf(body.value) })">
          @for (b of bodies; track b.body) {
            <option [value]="b.body" [selected]="b.body === finish().body">{{ b.words }}</option>
          }
        </select></label
      >
      @if (finish().body !== 'sheet') {
        <div class="wide pair">
          <label class="check"
            ><input
              #tinted
              type="checkbox"
              class="form-check-input"
              data-testid="tinted"
              [checked]="finish().attenuationDistanceM !== null"
              (change)="set.emit({ attenuationDistanceM: tinted.checked ? firstDistance : null })"
            />
            Tinted</label
          >
          @if (finish().attenuationDistanceM !== null) {
            <input
              #tint
              type="color"
              aria-label="Colour of the light that is left"
              data-testid="tint"
              [value]="tintHex()"
              (input)="slid.emit({ attenuationColour: colourOf(tint.value) })"
              (change)="set.emit({ attenuationColour: colourOf(tint.value) })"
            />
            <span>after</span>
            <input
              #depth
              type="number"
              class="size mono"
              min="0.1"
              step="1"
              aria-label="after so many millimetres"
              data-testid="tint-depth"
              [value]="(finish().attenuationDistanceM! * 1000).toFixed(1)"
              (change)="setDepth(depth.valueAsNumber)"
            />
            <span class="value">mm</span>
          }
        </div>
      }
    }
    <label class="wide"
      >Gives light
      <span class="value"
        ><input
          #glow
          type="number"
          class="size mono"
          min="0"
          step="100"
          data-testid="emission"
          [value]="finish().emissionCdM2.toFixed(0)"
          (change)="setEmission(glow.valueAsNumber)"
        />
        cd/m²</span
      ></label
    >
    <dp-finish-colours [colours]="GIVEN" [of]="finish()" (slid)="slid.emit($event)" (set)="set.emit($event)" />
  `,
  styleUrl: './finish-card.scss',
})
export class FinishBodyCard {
  /** As it is shown now, drags included. */
  readonly finish = input.required<Finish>();
  readonly slid = output<Partial<Finish>>();
  readonly set = output<Partial<Finish>>();

  protected readonly INSIDE = INSIDE;
  protected readonly GIVEN = GIVEN;
  protected readonly shares = SHARES;
  protected readonly index = INDEX;
  protected readonly bending = BENDING;
  protected readonly bodies = BODIES;
  protected readonly firstDistance = FIRST_DISTANCE_M;
  protected readonly colourOf = colourOf;
  protected readonly tintHex = computed(() => hexOf(this.finish().attenuationColour));

  protected bodyOf(value: string): FinishBody {
    return BODIES.find((b) => b.body === value)?.body ?? 'sheet';
  }

  protected setDepth(millimetres: number): void {
    if (millimetres >= 0.1 && millimetres <= 1e6) this.set.emit({ attenuationDistanceM: millimetres / 1000 });
  }

  protected setEmission(cdM2: number): void {
    if (cdM2 >= 0 && cdM2 <= 1e9) this.set.emit({ emissionCdM2: cdM2 });
  }
}
