import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, input, signal } from '@angular/core';
import { FINISHES } from '../../../core/finish/library';
import { finishSchema, type Finish } from '../../../core/finish/finish';
import { Slider } from '../sheet/slider';
import { Sliders, type NumbersOf, type Parameter } from '../sheet/sliders';
import { Live } from '../state/live';
import { SceneState } from '../state/scene-state';
import { ScheduleState } from '../state/schedule-state';
import { FinishBodyCard } from './finish-body';
import { FinishColours, type FinishColour } from './finish-colours';
import { FinishLivingCard } from './finish-living';

const plain = (v: number) => v.toFixed(2);
const degrees = (v: number) => `${v.toFixed(0)}°`;
const share = (label: string, field: NumbersOf<Finish>): Parameter<NumbersOf<Finish>> => ({
  label,
  field,
  min: 0,
  max: 1,
  step: 0.01,
  format: plain,
});

/** The parameters in groups, in the order that one works through them. */
const GROUPS: readonly { name: string; sliders: readonly Parameter<NumbersOf<Finish>>[] }[] = [
  {
    name: 'Colour',
    sliders: [
      { label: 'Hue', field: 'hueDeg', min: -180, max: 180, step: 1, format: degrees },
      { label: 'Saturation', field: 'saturation', min: 0, max: 2, step: 0.01, format: plain },
      { label: 'Brightness', field: 'brightness', min: 0, max: 2, step: 0.01, format: plain },
      { label: 'Contrast', field: 'contrast', min: 0.2, max: 2, step: 0.01, format: plain },
    ],
  },
  {
    name: 'Surface',
    sliders: [
      share('Roughness', 'roughness'),
      share('Metalness', 'metalness'),
      share('Brushed', 'anisotropy'),
      { label: 'Brushed across', field: 'anisotropyDeg', min: -90, max: 90, step: 1, format: degrees },
      share('Mirroring', 'specular'),
      share('Clear coat', 'clearCoat'),
      share('Coat roughness', 'clearCoatRoughness'),
      { label: 'Coat’s relief', field: 'clearCoatNormal', min: 0, max: 2, step: 0.05, format: plain },
      share('Thin film', 'film'),
      { label: 'Film thickness', field: 'filmNm', min: 0, max: 1500, step: 5, format: (v) => `${v.toFixed(0)} nm` },
      { label: 'Film index', field: 'filmIor', min: 1, max: 2.5, step: 0.01, format: plain },
      share('Sheen of cloth', 'sheen'),
      { label: 'Sheen roughness', field: 'sheenRoughness', min: 0.1, max: 1, step: 0.01, format: plain },
      { label: 'Edges rounded', field: 'edgeRadiusM', min: 0, max: 0.03, step: 0.0005, format: (v) => `${(v * 1000).toFixed(1)} mm` },
      { label: 'Relief in shading', field: 'normalScale', min: 0, max: 2, step: 0.05, format: plain },
      { label: 'Relief depth', field: 'reliefM', min: 0, max: 0.08, step: 0.0005, format: (v) => `${(v * 1000).toFixed(1)} mm` },
    ],
  },
];
const BASE: readonly FinishColour[] = [{ label: 'Base colour', field: 'baseColour' }];
const COLOURS: readonly FinishColour[] = [
  // Most things mirror light as it is.
  { label: 'Mirrored colour', field: 'specularColour', matters: (f) => f.specular < 1 || f.specularColour.some((c) => c < 1) },
  { label: 'Sheen colour', field: 'sheenColour', matters: (f) => f.sheen > 0 },
];
/** Parameters that are nothing without another. */
const HANGS_ON: Partial<Record<NumbersOf<Finish>, NumbersOf<Finish>>> = {
  filmNm: 'film',
  filmIor: 'film',
  clearCoatRoughness: 'clearCoat',
  clearCoatNormal: 'clearCoat',
  sheenRoughness: 'sheen',
  anisotropyDeg: 'anisotropy',
};
const asGlossiness = (p: Parameter<NumbersOf<Finish>>): Parameter<NumbersOf<Finish>> =>
  p.field === 'roughness' ? { ...p, label: 'Glossiness', turned: true } : p;
const SIDES = [
  { label: 'Width', field: 'widthM' },
  { label: 'Height', field: 'heightM' },
] as const;
const TURNS: readonly { turn: Finish['vary']['turn']; words: string }[] = [
  { turn: 'none', words: 'not at all' },
  { turn: 'half', words: 'by half turns' },
  { turn: 'quarter', words: 'by quarter turns' },
  { turn: 'free', words: 'freely' },
];
const percent = (v: number) => `± ${(v * 100).toFixed(0)} %`;
const SPREADS: readonly Parameter<NumbersOf<Finish['vary']>>[] = [
  { label: 'Brightness', field: 'brightness', min: 0, max: 0.6, step: 0.01, format: percent },
  { label: 'Hue', field: 'hueDeg', min: 0, max: 60, step: 1, format: (v) => `± ${v.toFixed(0)}°` },
  { label: 'Size', field: 'size', min: 0, max: 0.5, step: 0.01, format: percent },
];

/** The parameters of a finish, edited at once in the picture and kept when a control is let go. */
@Component({
  selector: 'dp-finish-card',
  imports: [FinishBodyCard, FinishColours, FinishLivingCard, Slider, Sliders],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="grid">
      <dp-finish-colours [colours]="BASE" [of]="shown()" (slid)="preview($event)" (set)="edit($event)" />
      @for (group of groups(); track group.name) {
        <h4>{{ group.name }}</h4>
        <dp-sliders [parameters]="group.sliders" [of]="shown()" (slid)="preview($event)" (set)="edit($event)" />
      }
      <dp-finish-colours [colours]="COLOURS" [of]="shown()" (slid)="preview($event)" (set)="edit($event)" />
      <button type="button" class="link glossy" data-testid="glossiness" [attr.aria-pressed]="glossy()" (click)="glossy.set(!glossy())">
        {{ glossy() ? 'roughness in place of glossiness' : 'glossiness in place of roughness' }}
      </button>
      <dp-finish-body class="whole" [finish]="shown()" (slid)="preview($event)" (set)="edit($event)" />
      <dp-finish-living class="whole" [finish]="shown()" (slid)="preview($event)" (set)="edit($event)" />
      @if (finish().maps) {
        <h4>Maps</h4>
        @for (side of SIDES; track side.field) {
          <label
            >{{ side.label }}
            <span class="value"
              ><input
                type="number"
                class="size mono"
                step="10"
                min="10"
                [value]="(shown()[side.field] * 1000).toFixed(0)"
                (change)="setSize(side.field, $event)"
              />
              mm</span
            ></label
          >
        }
        <div class="wide pair" role="group" aria-label="Maps moved, millimetres across and along">
          <span>Moved by</span>
          @for (axis of [0, 1]; track axis) {
            <input
              type="number"
              class="size mono"
              step="10"
              [attr.aria-label]="axis === 0 ? 'across, mm' : 'along, mm'"
              [attr.data-testid]="'offset-' + axis"
              [value]="(shown().offsetM[axis]! * 1000).toFixed(0)"
              (change)="setOffset(axis, $event)"
            />
          }
          <span class="value">mm</span>
        </div>
        <dp-slider
          label="Rotation"
          name="rotationDeg"
          [value]="shown().rotationDeg"
          [words]="degrees(shown().rotationDeg)"
          [min]="-180"
          [max]="180"
          [step]="1"
          (slid)="preview({ rotationDeg: $event })"
          (set)="edit({ rotationDeg: $event })"
        />
        <label class="wide check"
          ><input
            type="checkbox"
            class="form-check-input"
            data-testid="break-repeat"
            [checked]="shown().breakRepeat"
            (change)="edit({ breakRepeat: checked($event) })"
          />
          Hide the repeat: laid in moved patches (not for patterns)</label
        >
        <label class="wide"
          >UvOverride from
          <select #from class="form-select form-select-sm turn" data-testid="origin" (change)="edit({ origin: originOf(from.value) })">
            <option value="element" [selected]="shown().origin === 'element'">each element’s own origin</option>
            <option value="face" [selected]="shown().origin === 'face'">a corner of each flat face</option>
            <option value="world" [selected]="shown().origin === 'world'">the model’s origin, on from one to the next</option>
          </select></label
        >
        <label class="wide"
          >Placed as
          <select #like class="form-select form-select-sm turn" data-testid="place-like" (change)="placeLike(like.value); like.value = ''">
            <option value="" selected>this finish says</option>
            @for (f of others(); track f.id) {
              <option [value]="f.id">{{ f.name }}</option>
            }
          </select></label
        >
      }
      <h4>From element to element</h4>
      @if (finish().maps) {
        <label class="wide check"
          ><input
            type="checkbox"
            class="form-check-input"
            data-testid="vary-offset"
            [checked]="shown().vary.offset"
            (change)="edit(varied({ offset: checked($event) }))"
          />
          Maps begin elsewhere on each</label
        >
        @if (shown().vary.offset) {
          <div class="wide pair" role="group" aria-label="Steps of the beginning, millimetres across and along; 0 is anywhere">
            <span>by whole steps of</span>
            @for (axis of [0, 1]; track axis) {
              <input
                type="number"
                class="size mono"
                min="0"
                step="10"
                [attr.aria-label]="axis === 0 ? 'across, mm' : 'along, mm'"
                [attr.data-testid]="'vary-step-' + axis"
                [value]="(shown().vary.stepM[axis]! * 1000).toFixed(0)"
                (change)="setStep(axis, $event)"
              />
            }
            <span class="value">mm</span>
          </div>
        }
        <label class="wide"
          >Maps are turned
          <select
            #turn
            class="form-select form-select-sm turn"
            data-testid="vary-turn"
            (change)="edit(varied({ turn: turnOf(turn.value) }))"
          >
            @for (t of turns; track t.turn) {
              <option [value]="t.turn" [selected]="t.turn === shown().vary.turn">{{ t.words }}</option>
            }
          </select></label
        >
      }
      <dp-sliders
        prefix="vary-"
        [parameters]="spreads()"
        [of]="shown().vary"
        (slid)="preview(varied($event))"
        (set)="edit(varied($event))"
      />
      <label
        >Throw again
        <span class="value"
          ><button type="button" class="link" data-testid="vary-seed" (click)="edit(varied({ seed: (finish().vary.seed + 1) % 1000 }))">
            no. {{ shown().vary.seed }}
          </button></span
        ></label
      >
    </div>
    @if (edited()) {
      <button type="button" class="link" (click)="live.run({ type: 'reset-finish', finish: finish().id })">As shipped</button>
    }
  `,
  styleUrl: './finish-card.scss',
})
export class FinishCard {
  protected readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  private readonly state = inject(ScheduleState);
  readonly finish = input.required<Finish>();
  /** What a control that is being dragged would change. */
  private readonly dragged = signal<Partial<Finish>>({});
  protected readonly shown = computed((): Finish => ({ ...this.finish(), ...this.dragged() }));
  protected readonly BASE = BASE;
  protected readonly COLOURS = COLOURS;
  protected readonly SIDES = SIDES;
  protected readonly degrees = degrees;
  protected readonly turns = TURNS;
  /** Without maps there is no size to differ in. */
  protected readonly spreads = computed(() => SPREADS.filter((s) => s.field !== 'size' || this.finish().maps !== null));
  /** Differs from the shipped finish of the same id. */
  protected readonly edited = computed(() => FINISHES.some((f) => f.id === this.finish().id && f !== this.finish()));

  /** Whether roughness is told as its opposite. */
  protected readonly glossy = signal(false);

  protected readonly groups = computed(() => {
    const finish = this.shown();
    const matters = ({ field }: Parameter<NumbersOf<Finish>>) => {
      const on = HANGS_ON[field];
      return on === undefined || finish[on] > 0;
    };
    const shown = GROUPS.map((group) => ({ ...group, sliders: group.sliders.filter(matters) }));
    return this.glossy() ? shown.map((group) => ({ ...group, sliders: group.sliders.map(asGlossiness) })) : shown;
  });

  /** Finishes whose placing of maps can be taken over. */
  protected readonly others = computed(() => this.state.finishes().filter((f) => f.maps !== null && f.id !== this.finish().id));

  protected placeLike(id: string): void {
    const other = this.others().find((f) => f.id === id);
    if (!other) return;
    const { widthM, heightM, rotationDeg, offsetM, origin, breakRepeat, vary } = other;
    this.edit({ widthM, heightM, rotationDeg, offsetM, origin, breakRepeat, vary });
  }

  protected varied(change: Partial<Finish['vary']>): Partial<Finish> {
    return { vary: { ...this.finish().vary, ...change } };
  }

  /** 0: anywhere. */
  protected setStep(axis: number, event: Event): void {
    const metres = Number((event.target as HTMLInputElement).value) / 1000;
    const stepM = this.finish().vary.stepM.map((m, i) => (i === axis ? metres : m)) as [number, number];
    if (metres >= 0 && metres <= 100) this.edit(this.varied({ stepM }));
  }

  protected originOf(value: string): Finish['origin'] {
    return finishSchema.entries.origin.options.find((origin) => origin === value) ?? 'element';
  }

  protected turnOf(value: string): Finish['vary']['turn'] {
    return TURNS.find((t) => t.turn === value)?.turn ?? 'none';
  }

  protected checked(event: Event): boolean {
    return (event.target as HTMLInputElement).checked;
  }

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.endPreview();
    });
  }

  protected preview(change: Partial<Finish>): void {
    this.dragged.set(change);
    this.scene.finishPreview$.next(this.shown());
  }

  protected setSize(field: 'widthM' | 'heightM', event: Event): void {
    const millimetres = Number((event.target as HTMLInputElement).value);
    if (millimetres >= 1 && millimetres <= 1e6) this.edit({ [field]: millimetres / 1000 });
  }

  protected setOffset(axis: number, event: Event): void {
    const metres = Number((event.target as HTMLInputElement).value) / 1000;
    if (Math.abs(metres) <= 1000)
      this.edit({ offsetM: this.finish().offsetM.map((m, i) => (i === axis ? metres : m)) as [number, number] });
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
