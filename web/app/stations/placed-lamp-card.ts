import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { colourOf, fluxOfPower, powerIn, spreadOf, type LampForm, type LampPower, type PlacedLamp } from '../../../core/lamp/placed-lamp';
import { textOf, type PlacedLampNow } from '../../../core/project/lighting';
import { readLength } from '../../../core/length';
import { colourOf as fromHex, hexOf } from '../sheet/colour-field';
import { LampPlacing } from '../state/lamp-placing';
import { Live } from '../state/live';

interface Field {
  name: string;
  words: string;
  value: number;
  min: number;
  max: number;
  set: (lamp: PlacedLamp, value: number) => PlacedLamp;
}

const UNITS: readonly { unit: LampPower['unit']; words: string }[] = [
  { unit: 'lm', words: 'lm' },
  { unit: 'cd', words: 'cd on its axis' },
  { unit: 'lx', words: 'lx at a distance' },
  { unit: 'W', words: 'W' },
];
const FORM_WORDS: Readonly<Record<string, string>> = {
  radiusM: 'Radius, m', beamDeg: 'Beam, °', fieldDeg: 'Field, °', lengthM: 'Length, m', widthM: 'Width, m',
}; // prettier-ignore

/** Lamps that were placed here: one, or all of a type together. */
@Component({
  selector: 'dp-placed-lamp-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NgTemplateOutlet],
  template: `
    <ng-container [ngTemplateOutlet]="numbers" [ngTemplateOutletContext]="{ fields: power() }" />
    <label
      >Unit
      <select #unit class="form-select form-select-sm" data-testid="lamp-unit" (change)="setUnit(unit.value)">
        @for (u of units; track u.unit) {
          <option [value]="u.unit" [selected]="u.unit === first().power.unit">{{ u.words }}</option>
        }
      </select></label
    >
    <label class="whole"
      >Colour
      <span class="d-flex gap-2">
        <input
          #kelvin
          type="number"
          min="1000"
          max="20000"
          step="100"
          class="form-control form-control-sm mono"
          aria-label="Colour temperature, K"
          placeholder="K"
          data-testid="lamp-kelvin"
          [value]="kelvinNow()"
          (change)="setKelvin(kelvin.valueAsNumber)"
        />
        <input
          #rgb
          type="color"
          class="form-control form-control-sm form-control-color"
          aria-label="Colour instead"
          [value]="hex()"
          (change)="setColour(rgb.value)"
        /> </span
    ></label>
    <ng-container [ngTemplateOutlet]="numbers" [ngTemplateOutletContext]="{ fields: rest() }" />
    @if (lamps().length === 1) {
      <label
        >Name
        <input
          #called
          type="text"
          maxlength="200"
          data-testid="lamp-name"
          class="form-control form-control-sm"
          [value]="first().name"
          (change)="rename(called.value)"
      /></label>
    }
    @if (lamps()[0]?.isLeft) {
      <p class="quiet mb-0">What it stood on is no longer there.</p>
    }
    <div class="acts">
      @if (lamps().length === 1) {
        <button type="button" class="link" data-testid="aim-lamp" (click)="act('aim')">aim</button>
        <button type="button" class="link" (click)="act('move')">move</button>
        <button type="button" class="link" (click)="copy()">copy</button>
      }
      <button type="button" class="link" data-testid="remove-lamp" (click)="remove()">
        {{ lamps().length === 1 ? 'take away' : 'take all away' }}
      </button>
    </div>
    <ng-template #numbers let-fields="fields">
      @for (field of fields; track field.name) {
        <label
          >{{ field.words }}
          <input
            #number
            type="text"
            inputmode="decimal"
            class="form-control form-control-sm mono"
            [attr.data-testid]="'lamp-' + field.name"
            [value]="shown(field.value)"
            (keydown)="step($event, field, number)"
            (change)="type(field, number)"
        /></label>
      }
    </ng-template>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 6px 12px;
      margin-top: 6px;
    }
    label {
      display: grid;
      grid-template-columns: 62px minmax(0, 1fr);
      align-items: center;
      gap: 6px;
    }
    .whole {
      grid-column: 1 / -1;
    }
    .acts,
    p {
      grid-column: 1 / -1;
      display: flex;
      gap: 14px;
    }
    .form-control-color {
      width: 34px;
      flex: none;
      padding: 2px;
    }
  `,
})
export class PlacedLampCard {
  readonly lamps = input.required<readonly PlacedLampNow[]>();
  private readonly live = inject(Live);
  private readonly placing = inject(LampPlacing);
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  protected readonly units = UNITS;
  protected readonly first = computed(() => this.lamps()[0]!.lamp);
  protected readonly power = computed(() => powerFields(this.first().power));
  protected readonly rest = computed((): Field[] => [...formFields(this.first().form), ...this.places()]);
  protected readonly kelvinNow = computed(() => { const { colour } = this.first(); return 'kelvin' in colour ? colour.kelvin : ''; }); // prettier-ignore
  protected readonly hex = computed(() => {
    const { colour } = this.first();
    if ('rgb' in colour) return hexOf(colour.rgb);
    const linear = colourOf(this.first());
    const most = Math.max(...linear);
    return hexOf(linear.map((c) => (c / most) ** (1 / 2.2)));
  });

  protected readonly shown = (value: number): string => String(Math.round(value * 1000) / 1000);

  /** As it is typed, lengths with their unit; what is no number is taken back. */
  protected type(field: Field, input: HTMLInputElement): void {
    const value = field.words.endsWith(', m') ? readLength(input.value) : Number(input.value.replace(',', '.'));
    if (value !== undefined && value >= field.min && value <= field.max) this.set(field, value);
    else input.value = this.shown(field.value);
  }

  /** Arrow keys step, with Shift ten times as far. */
  protected step(event: KeyboardEvent, field: Field, input: HTMLInputElement): void {
    const up = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (up === undefined) return;
    event.preventDefault();
    const one = (field.words.endsWith(', m') ? 0.05 : field.words.startsWith('Power') ? 10 : 1) * (event.shiftKey ? 10 : 1);
    input.value = this.shown(field.value + up * one);
    this.type(field, input);
  }

  protected set(field: Field, value: number): void {
    if (value >= field.min && value <= field.max) this.edit((lamp) => field.set(lamp, value), field.words.replace(/,.*/, '').toLowerCase());
  }

  protected setUnit(value: string): void {
    const { unit } = UNITS.find((u) => u.unit === value)!;
    this.edit((lamp) => {
      const spread = spreadOf(lamp.form, textOf(this.entries(), lamp.form));
      return { ...lamp, power: powerIn(unit, fluxOfPower(lamp.power, spread), spread, lamp.power) };
    }, 'unit');
  }

  protected setKelvin(kelvin: number): void {
    if (kelvin >= 1000 && kelvin <= 20000) this.edit((lamp) => ({ ...lamp, colour: { kelvin } }), 'colour');
  }

  protected setColour(hex: string): void {
    this.edit((lamp) => ({ ...lamp, colour: { rgb: fromHex(hex) } }), 'colour');
  }

  protected rename(name: string): void {
    if (name.trim()) this.edit((lamp) => ({ ...lamp, name: name.trim() }), 'name');
  }

  protected act(act: 'aim' | 'move'): void {
    const { id, lamp } = this.lamps()[0]!;
    this.placing.act(id, act, lamp);
  }

  protected copy(): void {
    const { position, ...rest } = this.first();
    this.placing.put(
      [{ id: crypto.randomUUID(), lamp: { ...rest, position: [position[0] + 0.5, position[1], position[2]] } }],
      `${rest.name} copied`,
    );
  }

  protected remove(): void {
    const name = this.lamps().length === 1 ? this.first().name : `${String(this.lamps().length)} × ${this.first().type}`;
    this.placing.put(this.lamps().map(({ id }) => ({ id, lamp: null })), `${name} taken away`); // prettier-ignore
  }

  /** Of one alone: where it is and how it is turned. */
  private places(): Field[] {
    if (this.lamps().length > 1) return [];
    const at = (axis: 0 | 1 | 2): Field => ({
      name: 'xyz'[axis]!,
      words: `${'xyz'[axis]!}, m`,
      value: this.first().position[axis],
      min: -1e6,
      max: 1e6,
      set: (lamp, value) => ({ ...lamp, position: lamp.position.map((v, k) => (k === axis ? value : v)) as [number, number, number] }),
    });
    return [
      at(0),
      at(1),
      at(2),
      {
        name: 'turn',
        words: 'Turned, °',
        value: this.first().turnDeg,
        min: -360,
        max: 360,
        set: (lamp, turnDeg) => ({ ...lamp, turnDeg }),
      },
    ];
  }

  private edit(change: (lamp: PlacedLamp) => PlacedLamp, what: string): void {
    const name = this.lamps().length === 1 ? this.first().name : this.first().type;
    this.placing.put(this.lamps().map(({ id, lamp }) => ({ id, lamp: change(lamp) })), `${name}: ${what}`); // prettier-ignore
  }
}

function powerFields(power: LampPower): Field[] {
  const of = (name: 'value' | 'atM' | 'lmPerW', words: string, min: number, max: number): Field => ({
    name, words, min, max, value: (power as Partial<Record<typeof name, number>>)[name]!, set: (lamp, value) => ({ ...lamp, power: { ...lamp.power, [name]: value } }),
  }); // prettier-ignore
  const value = of('value', `Power, ${power.unit}`, 0, 1e7);
  if (power.unit === 'lx') return [value, of('atM', 'at, m', 0.01, 50)];
  return power.unit === 'W' ? [value, of('lmPerW', 'lm/W', 0.1, 300)] : [value];
}

const formFields = (form: LampForm): Field[] =>
  Object.entries(form).flatMap(([key, value]) =>
    typeof value === 'number'
      ? [{
          name: key, words: FORM_WORDS[key]!, value, ...(key.endsWith('Deg') ? { min: 1, max: 178 } : { min: 0.001, max: 50 }),
          set: (lamp: PlacedLamp, to: number) => ({ ...lamp, form: { ...lamp.form, [key]: to } }),
        }]
      : [],
  ); // prettier-ignore
