import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { webOf } from '../../../core/lamp/web-grid';
import { photometricFiles, type LightingKey } from '../../../core/project/lighting';
import { Live } from '../state/live';
import { PhotometricFiles } from '../state/photometric-files';
import { PolarCurve } from './polar-curve';

const BRING = '+';

/** The photometric file of a lamp or a type: its curve, its figures, and another in its place. */
@Component({
  selector: 'dp-photometry-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [PolarCurve],
  template: `
    <label
      >Light
      <select
        #choice
        class="form-select form-select-sm"
        data-testid="photometry-menu"
        (change)="choose(choice.value, picker); choice.value = chosen()"
      >
        <option value="" [selected]="chosen() === ''">as in the model</option>
        @for (kept of files(); track kept.id) {
          <option [value]="kept.id" [selected]="chosen() === kept.id">{{ kept.name }}</option>
        }
        <option value="+">a photometric file …</option>
      </select></label
    >
    <input #picker type="file" hidden accept=".ies,.ldt,.txt" data-testid="photometric-file" (change)="bring(picker)" />
    @if (measured(); as m) {
      <div class="data" data-testid="photometric-data">
        @defer {
          <dp-polar-curve [web]="m.web" />
        } @placeholder {
          <span></span>
        }
        <dl>
          <dt>File</dt>
          <dd class="text-truncate" [title]="file()!.name">{{ file()!.name }}</dd>
          <dt>Flux</dt>
          <dd class="mono">{{ m.facts.fluxLm.toFixed(0) }} lm</dd>
          @if (m.facts.efficacy; as lmPerW) {
            <dt>Efficacy</dt>
            <dd class="mono">{{ lmPerW.toFixed(0) }} lm/W</dd>
          }
          <dt>Brightest</dt>
          <dd class="mono">{{ m.facts.maximumCd.toFixed(0) }} cd at {{ m.facts.maximumAt.gamma.toFixed(0) }}°</dd>
          <dt>Beam</dt>
          <dd class="mono">{{ both(m.facts.beamDeg) }}</dd>
          <dt>Field</dt>
          <dd class="mono">{{ both(m.facts.fieldDeg) }}</dd>
        </dl>
      </div>
    } @else if (fault()) {
      <p class="fault" role="alert">{{ file()!.name }}: {{ fault() }}</p>
    }
  `,
  styles: `
    label {
      display: grid;
      grid-template-columns: 56px minmax(0, 1fr);
      align-items: center;
      gap: 8px;
      margin-top: 6px;
    }
    .data {
      display: grid;
      grid-template-columns: 200px minmax(0, 1fr);
      gap: 10px;
      margin-top: 8px;
    }
    dl {
      align-content: start;
      margin: 0;
      font-size: 0.75rem;
    }
    dt {
      font-weight: 400;
      color: var(--ink-quiet);
    }
    dd {
      margin: 0 0 2px;
    }
    .fault {
      color: var(--fault);
      margin: 4px 0 0;
    }
  `,
})
export class PhotometryCard {
  readonly rows = input.required<readonly LightingKey[]>();
  readonly name = input.required<string>();
  readonly file = input<{ name: string; text: string } | undefined>();
  private readonly live = inject(Live);
  private readonly photometric = inject(PhotometricFiles);
  protected readonly files = toSignal(this.live.entries$.pipe(map(photometricFiles)), { initialValue: [] });
  /** The project's file that it has; empty: none, so that the model holds. */
  protected readonly chosen = computed(() => this.files().find(({ text }) => text === this.file()?.text)?.id ?? '');
  private readonly read = computed(() => {
    const file = this.file();
    return file && webOf(file.text);
  });
  protected readonly measured = computed(() => {
    const read = this.read();
    return typeof read === 'string' ? undefined : read;
  });
  protected readonly fault = computed(() => {
    const read = this.read();
    return typeof read === 'string' ? read : '';
  });
  protected readonly both = ([c0, c90]: readonly [number, number]): string =>
    Math.abs(c0 - c90) < 0.5 ? `${c0.toFixed(0)}°` : `${c0.toFixed(0)}° × ${c90.toFixed(0)}°`;

  protected choose(value: string, picker: HTMLInputElement): void {
    if (value === BRING) picker.click();
    else this.live.run({ type: 'give-photometry', file: value || null, on: [...this.rows()], name: this.name().slice(0, 100) });
  }

  protected bring(picker: HTMLInputElement): void {
    const file = picker.files?.[0];
    picker.value = '';
    if (file) void this.photometric.bring(file, this.rows());
  }
}
