import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import type { LampForm } from '../../../core/lamp/placed-lamp';
import { photometricFiles } from '../../../core/project/lighting';
import { Icon } from '../sheet/icon';
import { LampPlacing, type Placing } from '../state/lamp-placing';
import { Live } from '../state/live';

interface Kind {
  words: string;
  form: LampForm;
}

const KINDS: readonly Kind[] = [
  { words: 'Point light', form: { kind: 'point', radiusM: 0.05 } },
  { words: 'Spot', form: { kind: 'spot', radiusM: 0.03, beamDeg: 24, fieldDeg: 42 } },
  { words: 'Rectangular light', form: { kind: 'rectangle', lengthM: 0.6, widthM: 0.6 } },
  { words: 'Disc light', form: { kind: 'disc', radiusM: 0.2 } },
  { words: 'Line light', form: { kind: 'line', lengthM: 1.2 } },
];

/** Chooses what the next clicks in the picture place: a lamp, a row or a grid. */
@Component({
  selector: 'dp-lamp-placing',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    @if (placing(); as now) {
      <div class="strip" data-testid="placing" (keydown.escape)="lamps.end()">
        <div class="fields">
          <select
            #kind
            class="form-select form-select-sm"
            aria-label="Kind of lamp"
            data-testid="lamp-kind"
            (change)="change({ kind: kind.value })"
          >
            @for (k of kinds(); track k.words) {
              <option [value]="k.words" [selected]="k.words === now.name">{{ k.words }}</option>
            }
          </select>
          <select
            #pattern
            class="form-select form-select-sm"
            aria-label="Pattern"
            data-testid="lamp-pattern"
            (change)="change({ pattern: pattern.value })"
          >
            @for (p of patterns; track p) {
              <option [value]="p" [selected]="p === now.pattern">{{ p === 'one' ? 'one by one' : 'a ' + p }}</option>
            }
          </select>
        </div>
        <div class="fields">
          @if (now.pattern !== 'one') {
            <label
              >{{ now.pattern === 'row' ? 'Lamps' : 'Along' }}
              <input
                #columns
                type="number"
                min="1"
                max="200"
                class="form-control form-control-sm mono"
                [value]="now.columns"
                (change)="change({ columns: columns.valueAsNumber })"
            /></label>
          }
          @if (now.pattern === 'grid') {
            <label
              >Across
              <input
                #rows
                type="number"
                min="1"
                max="200"
                class="form-control form-control-sm mono"
                [value]="now.rows"
                (change)="change({ rows: rows.valueAsNumber })"
            /></label>
          }
          <label
            >Hangs, m
            <input
              #hangs
              type="number"
              min="0"
              max="30"
              step="0.1"
              class="form-control form-control-sm mono"
              data-testid="lamp-hangs"
              [value]="now.hangsM"
              (change)="change({ hangsM: hangs.valueAsNumber })"
          /></label>
        </div>
        <p class="mb-0">
          <span class="next me-2">{{ next() }}</span> <button type="button" class="link" (click)="lamps.end()">done</button>
        </p>
      </div>
    } @else {
      <div class="tools">
        <button type="button" class="link" data-testid="place-lamps" (click)="begin()"><dp-icon name="plus" /> Place lamps</button>
        <span class="quiet">{{ acting() }}</span>
      </div>
    }
  `,
  styleUrl: './station.scss',
  styles: `
    :host {
      height: auto;
      flex: none;
    }
    .strip {
      padding: 8px 14px;
      background: var(--paper-raised);
      border-block: 1px solid var(--rule);
      font-size: 0.8125rem;
    }
    .fields {
      display: flex;
      gap: 8px;
      margin-bottom: 6px;
    }
    .fields label {
      display: flex;
      align-items: center;
      gap: 6px;
      white-space: nowrap;
    }
    .fields input {
      width: 62px;
    }
    .next {
      color: var(--now);
      font-weight: 600;
    }
  `,
})
export class LampPlacingStrip {
  protected readonly lamps = inject(LampPlacing);
  protected readonly patterns = ['one', 'row', 'grid'] as const;
  protected readonly placing = toSignal(this.lamps.placing$);
  private readonly clicked = toSignal(this.lamps.clicked$, { initialValue: [] });
  private readonly act = toSignal(this.lamps.acting$);
  private readonly files = toSignal(inject(Live).entries$.pipe(map(photometricFiles)), { initialValue: [] });
  protected readonly kinds = computed((): Kind[] => [
    ...KINDS,
    ...this.files().map(({ id, name }): Kind => ({ words: name, form: { kind: 'measured', photometry: id } })),
  ]);
  private readonly last = signal<Placing>({ ...asPlacing(KINDS[0]!), pattern: 'one', columns: 4, rows: 3, hangsM: 0 });
  protected readonly next = computed(() => {
    const now = this.placing();
    if (now?.pattern === 'one') return now.hangsM > 0 ? 'Click what it hangs from.' : 'Click where it goes.';
    return ['Click where the row begins.', 'Click where it ends.', 'Click how far the grid goes across.'][this.clicked().length]!;
  });
  protected readonly acting = computed(() => {
    const act = this.act()?.act;
    return act === undefined ? '' : act === 'aim' ? 'Click what it shines at.' : 'Click where it goes.';
  });

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.lamps.end();
    });
  }

  protected begin(): void {
    this.lamps.begin(this.last());
  }

  protected change(change: { kind?: string; pattern?: string; columns?: number; rows?: number; hangsM?: number }): void {
    const kind = this.kinds().find(({ words }) => words === change.kind);
    const whole = (value: number | undefined, before: number) =>
      value !== undefined && value >= 1 ? Math.min(200, Math.round(value)) : before;
    this.last.update((before) => ({
      ...before,
      ...(kind && asPlacing(kind)),
      pattern: this.patterns.find((p) => p === change.pattern) ?? before.pattern,
      columns: whole(change.columns, before.columns),
      rows: whole(change.rows, before.rows),
      hangsM: change.hangsM !== undefined && change.hangsM >= 0 ? Math.min(30, change.hangsM) : before.hangsM,
    }));
    this.begin();
  }
}

const asPlacing = ({ words, form }: Kind): Pick<Placing, 'name' | 'form'> => ({ name: words, form });
