import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { SettingState, type Setting } from '../state/setting-state';

const PATTERNS = { one: 'one by one', row: 'a row', area: 'an area', surface: 'a whole surface', patch: 'a patch by brush' } as const;
const LEAST = { one: 1, row: 2, area: 3, surface: 1, patch: 1 } as const;

/** What the next clicks in the picture or the plan set. */
@Component({
  selector: 'dp-set-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (state.setting(); as now) {
      <div class="strip" data-testid="set-strip" (keydown.escape)="state.end()" (keydown.enter)="$event.preventDefault(); finish()">
        <div class="line">
          <strong class="text-truncate">{{ now.kind.name }}</strong>
          @if (now.kind.forms.length > 1) {
            <select
              class="form-select form-select-sm"
              aria-label="Form"
              data-testid="set-form"
              (change)="change({ form: text($event) || undefined })"
            >
              <option value="">any form</option>
              @for (form of now.kind.forms; track form.id) {
                <option [value]="form.id" [selected]="form.id === now.form">{{ form.name }}</option>
              }
            </select>
          }
          @if (now.kind.states.length > 1) {
            <select class="form-select form-select-sm" aria-label="State" data-testid="set-state" (change)="change({ state: text($event) })">
              @for (one of now.kind.states; track one) {
                <option [value]="one" [selected]="one === now.state">{{ words[one] ?? one }}</option>
              }
            </select>
          }
        </div>
        <div class="line">
          <select class="form-select form-select-sm" aria-label="Pattern" data-testid="set-pattern" (change)="change({ pattern: $any(text($event)) })">
            @for (pattern of patterns; track pattern[0]) {
              <option [value]="pattern[0]" [selected]="pattern[0] === now.pattern">{{ pattern[1] }}</option>
            }
          </select>
          @if (now.pattern === 'row') {
            <label>every <input class="mono" type="number" min="0.1" max="200" step="0.5" aria-label="Spacing, metres" [value]="now.spacingM" (change)="change({ spacingM: number($event, 0.1, 200) })" /> m</label>
          }
          @if (now.pattern === 'area' || now.pattern === 'surface' || now.pattern === 'patch') {
            <label><input class="mono" type="number" min="0.01" max="5000" step="1" aria-label="So many to 100 square metres" [value]="now.perHundredM2" (change)="change({ perHundredM2: number($event, 0.01, 5000) })" /> on 100 m²,</label>
            <label>≥ <input class="mono" type="number" min="0" max="100" step="0.1" aria-label="Least distance, metres" [value]="now.leastM" (change)="change({ leastM: number($event, 0, 100) })" /> m</label>
          }
        </div>
        <div class="line">
          <label>size × <input class="mono" type="number" min="0.05" max="20" step="0.05" aria-label="Size" [value]="now.size" (change)="change({ size: number($event, 0.05, 20) })" /></label>
          <label>± <input class="mono" type="number" min="0" max="80" step="5" aria-label="Differing in size, percent" [value]="now.spread * 100" (change)="change({ spread: number($event, 0, 80) / 100 })" /> %</label>
          @if (now.pattern === 'patch') {
            <label>brush <input class="mono" type="number" min="0.1" max="100" step="0.5" aria-label="Brush, metres" [value]="state.brushM()" (change)="state.brushM.set(number($event, 0.1, 100))" /> m</label>
          }
          @if (now.pattern === 'row' || now.pattern === 'area') {
            <button type="button" class="btn btn-sm btn-outline-dark" data-testid="set-finish" [disabled]="state.clicked().length < least[now.pattern]" (click)="finish()">Set it</button>
          }
          <button type="button" class="link" (click)="state.end()">Done</button>
        </div>
        <p class="quiet mb-0" role="status" data-testid="set-said">{{ hint() }}</p>
      </div>
    } @else if (state.said()) {
      <p class="quiet said" role="status" data-testid="set-said">{{ state.said() }}</p>
    }
  `,
  styles: `
    .strip {
      border-top: 1px solid var(--rule);
      border-bottom: 1px solid var(--rule);
      padding: 8px 14px;
      background: var(--paper-raised);
      display: grid;
      gap: 6px;
    }
    .line {
      display: flex;
      align-items: center;
      gap: 10px;
      font-size: 0.8125rem;
      white-space: nowrap;
    }
    .line strong {
      flex: 1;
      min-width: 60px;
    }
    select {
      width: auto;
      min-width: 0;
      font-size: 0.8125rem;
    }
    input {
      width: 52px;
    }
    p {
      font-size: 0.8125rem;
    }
    .said {
      padding: 4px 14px;
      margin: 0;
    }
  `,
}) // prettier-ignore
export class SetStrip {
  protected readonly state = inject(SettingState);
  protected readonly patterns = Object.entries(PATTERNS) as [keyof typeof PATTERNS, string][];
  protected readonly least = LEAST;
  protected readonly words: Readonly<Record<string, string>> = { leaf: 'in leaf', blossom: 'in blossom', autumn: 'in autumn', bare: 'bare', warm: 'dressed for summer', cold: 'dressed for winter' }; // prettier-ignore
  protected readonly hint = computed(() => {
    const [now, count] = [this.state.setting()!, this.state.clicked().length];
    if (this.state.isBusy()) return 'Finding the ground …';
    if (count > 0 && count < LEAST[now.pattern]) return `${String(count)} clicked; ${now.pattern === 'row' ? 'click where the row leads' : 'click the further corners'}.`;
    if (count > 0) return `${String(count)} clicked. Enter or “Set it” sets it; Escape ends.`;
    if (this.state.said()) return this.state.said();
    if (now.pattern === 'one') return 'Click where it is to stand, in the picture or in the plan.';
    if (now.pattern === 'surface') return 'Click the surface that is to be filled.';
    if (now.pattern === 'patch') return 'Click in the picture, or draw in the plan, where it is to grow.';
    return now.pattern === 'row' ? 'Click along its line, in the picture or in the plan.' : 'Click the corners of the area, in the picture or in the plan.';
  }); // prettier-ignore

  protected change(change: Partial<Setting>): void {
    const now = { ...this.state.setting()!, ...change };
    if (change.pattern) this.state.choose(now);
    else this.state.setting.set(now);
  }

  protected finish(): void {
    void this.state.finish();
  }

  protected text(event: Event): string {
    return (event.target as HTMLSelectElement).value;
  }

  protected number(event: Event, least: number, most: number): number {
    const { valueAsNumber } = event.target as HTMLInputElement;
    return Math.min(most, Math.max(least, Number.isFinite(valueAsNumber) ? valueAsNumber : least));
  }
}
