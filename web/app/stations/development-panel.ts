import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { parseCube, smallerCube, writeCube } from '../../../core/image/colour-cube';
import { PLAIN_GRADING, type Grading } from '../../../core/image/grading';
import { entry } from '../../../core/project/project';
import { Slider } from '../sheet/slider';
import { Sliders, type Parameter } from '../sheet/sliders';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { HistogramChart } from './histogram-chart';

type Field = Exclude<keyof Grading, 'curve' | 'look'>;
const signed = (value: number): string => `${value > 0 ? '+' : ''}${(value * 100).toFixed(0)}`;
const whole = (value: number): string => (value * 100).toFixed(0);
const parameter = (label: string, field: Field, min: number): Parameter<Field> => ({ label, field, min, max: 1, step: 0.02, format: min < 0 ? signed : whole }); // prettier-ignore
const PARAMETERS = [
  parameter('Highlights', 'highlights', -1), parameter('Shadows', 'shadows', -1), parameter('Contrast', 'contrast', -1),
  parameter('Saturation', 'saturation', -1), parameter('Bloom', 'bloom', 0), parameter('Vignette', 'vignette', 0), parameter('Sharpening', 'sharpening', 0),
]; // prettier-ignore
const BRING = '+';
const MOST_BYTES = 32_000_000;

/** What is done to the exposed picture: tones, curve, look; with its histogram. */
@Component({
  selector: 'dp-development-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [HistogramChart, Slider, Sliders],
  template: `
    <h2>Development</h2>
    @if (histogram(); as h) {
      @defer {
        <dp-histogram-chart [histogram]="h" data-testid="histogram" />
      } @placeholder {
        <div style="height: 104px"></div>
      }
    }
    <div class="field">
      <span>Curve</span>
      <span class="d-flex gap-3">
        <label class="form-check mb-0"
          ><input
            class="form-check-input"
            type="radio"
            name="curve"
            [checked]="grading().curve === 'neutral'"
            (change)="set({ curve: 'neutral' })"
          />
          neutral</label
        >
        <label class="form-check mb-0"
          ><input
            class="form-check-input"
            type="radio"
            name="curve"
            [checked]="grading().curve === 'filmic'"
            (change)="set({ curve: 'filmic' })"
          />
          filmic</label
        >
      </span>
      <label for="look">Look</label>
      <span>
        <select
          #look
          id="look"
          class="form-select form-select-sm"
          data-testid="look"
          (change)="choose(look.value, file); look.value = worn()"
        >
          <option value="" [selected]="worn() === ''">none</option>
          @for (kept of looks(); track kept.id) {
            <option [value]="kept.id" [selected]="worn() === kept.id">{{ kept.name }}</option>
          }
          <option value="+">a .cube file …</option>
        </select>
        <input #file type="file" hidden accept=".cube" data-testid="cube-file" (change)="bring(file)" />
      </span>
    </div>
    @if (grading().look; as l) {
      <dp-slider
        label="Strength of the look"
        name="look-strength"
        [value]="l.strength"
        [words]="percent(l.strength)"
        (slid)="slide({ look: { id: l.id, strength: $event } })"
        (set)="set({ look: { id: l.id, strength: $event } })"
      />
    }
    <div class="sliders">
      <dp-sliders prefix="develop-" [parameters]="parameters" [of]="grading()" (slid)="slide($event)" (set)="set($event)" />
    </div>
    @if (changed()) {
      <button type="button" class="link" (click)="reset()">As it was shot</button>
    }
  `,
  styleUrl: './station.scss',
  styles: `
    :host {
      display: block;
      height: auto;
    }
    .field {
      margin-top: 8px;
    }
    .sliders {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 4px 16px;
      margin-top: 8px;
    }
  `,
})
export class DevelopmentPanel {
  private readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  protected readonly histogram = toSignal(inject(PictureState).histogram$);
  private readonly decided = toSignal(this.live.entries$.pipe(map((entries) => entry(entries, 'grading') ?? PLAIN_GRADING)), {
    initialValue: PLAIN_GRADING,
  });
  private readonly seen = toSignal(this.scene.grading$.pipe(map(({ grading }) => grading)));
  protected readonly grading = computed(() => this.seen() ?? this.decided());
  protected readonly changed = computed(() => JSON.stringify(this.decided()) !== JSON.stringify(PLAIN_GRADING));
  protected readonly parameters = PARAMETERS;
  protected readonly percent = (share: number): string => `${(share * 100).toFixed(0)} %`;
  protected readonly looks = toSignal(
    this.live.entries$.pipe(
      map((entries) =>
        [...entries.keys()]
          .filter((key) => key.startsWith('look/'))
          .map((key) => ({ id: key.slice('look/'.length), name: entry(entries, key as `look/${string}`)!.name })),
      ),
    ),
    { initialValue: [] },
  );
  protected readonly worn = computed(() => this.grading().look?.id ?? '');

  /** Shown, but not yet decided. */
  protected slide(change: Partial<Grading>): void {
    this.scene.developmentPreview$.next({ grading: { ...this.decided(), ...change } });
  }

  protected set(change: Partial<Grading>): void {
    this.scene.developmentPreview$.next(undefined);
    this.live.run({ type: 'develop', grading: { ...this.decided(), ...change }, name: wordsOf(change) });
  }

  protected reset(): void {
    this.live.run({ type: 'develop', grading: PLAIN_GRADING, name: 'as it was shot' });
  }

  protected choose(look: string, file: HTMLInputElement): void {
    if (look === BRING) file.click();
    else if (look) this.set({ look: { id: look, strength: this.decided().look?.strength ?? 1 } });
    else {
      const plain = { ...this.decided() };
      delete plain.look;
      this.live.run({ type: 'develop', grading: plain, name: 'no look' });
    }
  }

  protected async bring(input: HTMLInputElement): Promise<void> {
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    const read = file.size > MOST_BYTES ? 'is larger than any table of colours.' : parseCube(await file.text());
    if (typeof read === 'string') {
      this.live.refusals$.next(`${file.name}: ${read}`);
      return;
    }
    const name = file.name.replace(/\.cube$/i, '').slice(0, 100) || 'Look';
    this.live.run({ type: 'bring-look', id: crypto.randomUUID(), name, text: writeCube(smallerCube(read)) });
  }
}

function wordsOf(change: Partial<Grading>): string {
  const found = PARAMETERS.find(({ field }) => change[field] !== undefined);
  if (found) return `${found.label.toLowerCase()} ${found.format(change[found.field]!)}`;
  return change.curve ? `${change.curve} curve` : 'look';
}
