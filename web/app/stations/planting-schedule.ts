import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import type { SetThing } from '../../../core/setting/set-thing';
import { Icon } from '../sheet/icon';
import { SettingState } from '../state/setting-state';

/** The planting schedule: what is set, of which kind, how large and how many; the open one is changed here. */
@Component({
  selector: 'dp-planting-schedule',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    @if (state.chosen().size > 0) {
      <div class="together" data-testid="set-together">
        <strong>{{ state.chosen().size }} chosen</strong>
        <button type="button" class="link" (click)="state.arrange(false)">In line</button>
        <button type="button" class="link" data-testid="set-evenly" (click)="state.arrange(true)">Evenly</button>
        <button type="button" class="link" (click)="state.dropChosen()">Drop</button>
        <button type="button" class="link" data-testid="set-group" (click)="state.groupChosen(!grouped())">{{ grouped() ? 'Ungroup' : 'Group' }}</button>
        <input #all class="form-control form-control-sm" aria-label="Layer of those that are chosen" placeholder="layer" maxlength="200" (change)="all.value.trim() && state.layerChosen(all.value.trim()); all.value = ''" />
        <button type="button" class="link" data-testid="set-remove-all" (click)="state.removeChosen()">Take away</button>
        <button type="button" class="link" (click)="none()">None</button>
      </div>
    }
    <div class="scroll body" data-testid="planting-schedule">
      @for (row of rows(); track row.id) {
        <div class="row-line" [class.open]="row.id === state.open()" data-testid="set-row">
          <input type="checkbox" class="form-check-input" [attr.aria-label]="'Choose ' + row.thing.name" [checked]="state.chosen().has(row.id)" (change)="state.chooseAlso(row.id)" />
          <button type="button" class="plain opener" [attr.aria-expanded]="row.id === state.open()" (click)="state.open.set(row.id === state.open() ? undefined : row.id)">
            <span class="name text-truncate">{{ row.thing.name }}</span>
            <span class="quiet size">{{ row.size }}</span>
            <span class="mono count">{{ row.count }}</span>
          </button>
        </div>
        @if (row.id === state.open()) {
          <div class="card" data-testid="set-card">
            @if (row.isLeft) {
              <p class="fault mb-1">What it stood on is gone; it stays where that was.</p>
            }
            <div class="field">
              <label [attr.for]="'set-name'">Name</label>
              <input #called id="set-name" class="form-control form-control-sm" maxlength="200" [value]="row.thing.name" (change)="called.value.trim() && change(row, { name: called.value.trim() }, 'renamed')" />
              <label for="set-kind">Kind</label>
              <select id="set-kind" class="form-select form-select-sm" (change)="replace(row, text($event))">
                @for (kind of kinds(); track kind.id) {
                  <option [value]="kind.id" [selected]="kind.id === row.thing.of[0]!.kind">{{ kind.name }}</option>
                }
              </select>
              <label for="set-second">And also</label>
              <select id="set-second" class="form-select form-select-sm" (change)="mix(row, text($event))">
                <option value="">nothing else</option>
                @for (kind of kinds(); track kind.id) {
                  <option [value]="kind.id" [selected]="kind.id === row.thing.of[1]?.kind">{{ kind.name }}</option>
                }
              </select>
              @if (row.thing.of.length > 1) {
                <label for="set-third">and</label>
                <select id="set-third" class="form-select form-select-sm" (change)="third(row, text($event))">
                  <option value="">nothing else</option>
                  @for (kind of kinds(); track kind.id) {
                    <option [value]="kind.id" [selected]="kind.id === row.thing.of[2]?.kind">{{ kind.name }}</option>
                  }
                </select>
                <span>Shares</span>
                <span>
                  @for (of of row.thing.of; track $index) {
                    <input class="mono me-1" type="number" min="0.01" max="100" step="1" [attr.aria-label]="'Share of ' + nameOf(of.kind)" [title]="nameOf(of.kind)" [value]="of.share" (change)="share(row, $index, number($event, 0.01, 100))" />
                  }
                </span>
              }
              @if (row.states.length > 1) {
                <label for="set-season">State</label>
                <select id="set-season" class="form-select form-select-sm" (change)="change(row, { state: text($event) }, 'in another state')">
                  @for (one of row.states; track one) {
                    <option [value]="one" [selected]="one === (row.thing.state ?? row.states[0])">{{ one }}</option>
                  }
                </select>
              }
              <label for="set-size">Size ×, ± %</label>
              <span>
                <input id="set-size" class="mono" type="number" min="0.05" max="20" step="0.05" [value]="row.thing.size" (change)="change(row, { size: number($event, 0.05, 20) }, 'sized')" />
                <input class="mono ms-1" type="number" min="0" max="80" step="5" aria-label="Differing in size, percent" [value]="row.thing.spread * 100" (change)="change(row, { spread: number($event, 0, 80) / 100 }, 'sized')" />
              </span>
              <label for="set-turn">Turned</label>
              <span>
                <input id="set-turn" class="mono" type="number" min="-360" max="360" step="5" [value]="row.thing.turnDeg ?? ''" placeholder="any" (change)="turn(row, $event)" /> °
              </span>
              <span></span>
              <label class="form-check"><input class="form-check-input" type="checkbox" data-testid="set-along-slope" [checked]="row.thing.alongSlope ?? false" (change)="slope(row)" /> along the slope of the ground</label>
              @if (row.thing.pattern.kind === 'row') {
                <label for="set-spacing">Every</label>
                <span><input id="set-spacing" class="mono" type="number" min="0.1" max="200" step="0.5" [value]="row.thing.pattern.spacingM" (change)="space(row, number($event, 0.1, 200))" /> m</span>
              }
              @if (row.thing.pattern.kind === 'area') {
                <label for="set-density">On 100 m²</label>
                <span>
                  <input id="set-density" class="mono" type="number" min="0.01" max="5000" [value]="row.thing.pattern.perHundredM2" (change)="fill(row, { perHundredM2: number($event, 0.01, 5000) })" />
                  at least <input class="mono" type="number" min="0" max="100" step="0.1" aria-label="Least distance, metres" [value]="row.thing.pattern.leastM" (change)="fill(row, { leastM: number($event, 0, 100) })" /> m
                </span>
                <label for="set-brush">Brush</label>
                <span>
                  <input id="set-brush" class="mono" type="number" min="0.1" max="100" step="0.5" [value]="state.brushM()" (change)="state.brushM.set(number($event, 0.1, 100))" /> m
                  <button type="button" class="link ms-2" [attr.aria-pressed]="state.acting() === 'add'" data-testid="set-add" (click)="act(row, 'add')">grow here</button>
                  <button type="button" class="link ms-2" [attr.aria-pressed]="state.acting() === 'take'" data-testid="set-take" (click)="act(row, 'take')">take away</button>
                </span>
              }
              <label for="set-layer">Layer</label>
              <input #layer id="set-layer" class="form-control form-control-sm" maxlength="200" [value]="row.thing.layer" (change)="layer.value.trim() && change(row, { layer: layer.value.trim() }, 'on another layer')" />
            </div>
            <div class="actions">
              <button type="button" class="link" [attr.aria-pressed]="state.acting() === 'move'" (click)="act(row, 'move')">Move by a click</button>
              <button type="button" class="link" (click)="drop(row)">Drop to the ground</button>
              <button type="button" class="link" (click)="reseed(row)">Other chances</button>
              <button type="button" class="link" (click)="state.duplicate(row.thing)">Duplicate</button>
              <button type="button" class="link" data-testid="set-remove" (click)="state.remove(row.id, row.thing.name)"><dp-icon name="remove" /> Take away</button>
            </div>
          </div>
        }
      } @empty {
        <p class="quiet">Nothing is set yet. Choose something in the library, then click in the picture or in the plan.</p>
      }
    </div>
  `,
  styleUrl: './station.scss',
  styles: `
    .row-line {
      display: grid;
      grid-template-columns: 16px 1fr;
      align-items: center;
      gap: 8px;
    }
    .together {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 10px;
      padding: 6px 14px;
      border-bottom: 1px solid var(--rule);
      background: var(--paper-raised);
      font-size: 0.8125rem;
    }
    .together input {
      width: 84px;
    }
    .opener {
      display: grid;
      grid-template-columns: 1fr auto 44px;
      gap: 10px;
      width: 100%;
      text-align: left;
      padding: 6px 0;
      border-bottom: 1px solid var(--rule);
    }
    .open .opener {
      font-weight: 600;
    }
    .count {
      text-align: right;
    }
    .size {
      font-size: 0.8125rem;
    }
    .card {
      border: 0;
      border-bottom: 1px solid var(--rule);
      border-radius: 0;
      background: none;
      padding: 8px 0 10px;
      font-size: 0.875rem;
    }
    .card input[type='number'] {
      width: 62px;
    }
  `,
}) // prettier-ignore
export class PlantingSchedule {
  protected readonly state = inject(SettingState);
  protected readonly kinds = computed(() => [...this.state.kinds().values()]);
  protected readonly rows = computed(() =>
    this.state.sets().map((set) => {
      const heights = set.members.map(({ form }) => form.heightM * set.thing.size);
      const [low, high] = [Math.min(...heights), Math.max(...heights)];
      return {
        ...set,
        count: set.members.length,
        size: heights.length === 0 ? '' : low === high ? `${high.toFixed(1)} m` : `${low.toFixed(1)}–${high.toFixed(1)} m`,
        states: this.state.kinds().get(set.thing.of[0]!.kind)?.states ?? [],
      };
    }),
  );

  protected change({ id, thing }: Row, change: Partial<SetThing>, what: string, drops = false): void {
    void this.state.change(id, { ...thing, ...change }, `${thing.name} ${what}`, drops);
  }

  protected replace(row: Row, kind: string): void {
    this.change(row, { of: [{ kind, share: 1 }, ...row.thing.of.slice(1)] }, 'replaced', row.thing.pattern.kind !== 'one');
  }

  /** One in four is of another kind. */
  protected mix(row: Row, kind: string): void {
    const [first] = row.thing.of;
    this.change(row, { of: kind ? [{ ...first!, share: 3 }, { kind, share: 1 }] : [{ ...first!, share: 1 }] }, 'mixed');
  } // prettier-ignore

  protected third(row: Row, kind: string): void {
    const first = row.thing.of.slice(0, 2);
    this.change(row, { of: kind ? [...first, { kind, share: 1 }] : first }, 'mixed');
  }

  protected share(row: Row, at: number, share: number): void {
    this.change(row, { of: row.thing.of.map((of, i) => (i === at ? { ...of, share } : of)) }, 'mixed otherwise');
  }

  protected readonly nameOf = (kind: string): string => this.state.kinds().get(kind)?.name ?? kind;
  /** All that are chosen are of one group. */
  protected readonly grouped = computed(() => {
    const chosen = this.state.sets().filter(({ id }) => this.state.chosen().has(id));
    return chosen.every(({ thing }) => thing.group !== undefined && thing.group === chosen[0]!.thing.group);
  });

  protected none(): void {
    this.state.chosen.set(new Set());
  }

  protected turn(row: Row, event: Event): void {
    const { valueAsNumber } = event.target as HTMLInputElement;
    const rest = { ...row.thing };
    delete rest.turnDeg;
    const thing = Number.isFinite(valueAsNumber) ? { ...rest, turnDeg: Math.min(360, Math.max(-360, valueAsNumber)) } : rest;
    void this.state.change(row.id, thing, `${rest.name} turned`, false);
  }

  protected slope(row: Row): void {
    const rest = { ...row.thing };
    delete rest.slopes;
    const { pattern, members } = rest;
    const thing: SetThing = {
      ...rest,
      alongSlope: !rest.alongSlope,
      members: pattern.kind === 'one' ? [members[0]!, members[1]!, NaN] : [],
    };
    void this.state.change(row.id, thing, `${rest.name} ${thing.alongSlope ? 'along the slope' : 'upright'}`, true);
  }

  protected space(row: Row, spacingM: number): void {
    const { pattern } = row.thing;
    if (pattern.kind === 'row') this.change(row, { pattern: { ...pattern, spacingM } }, 'spaced', true);
  }

  protected fill(row: Row, change: { perHundredM2?: number; leastM?: number }): void {
    const { pattern } = row.thing;
    if (pattern.kind === 'area') this.change(row, { pattern: { ...pattern, ...change } }, 'filled otherwise', true);
  }

  protected reseed(row: Row): void {
    this.change(row, { seed: (row.thing.seed + 7919) % 1_000_000 }, 'by other chances', row.thing.pattern.kind === 'area');
  }

  /** Onto whatever lies under it. */
  protected drop(row: Row): void {
    const { pattern, members } = row.thing;
    this.change(row, { members: pattern.kind === 'one' ? [members[0]!, members[1]!, NaN] : [] }, 'dropped to the ground', true);
  }

  protected act(row: Row, act: 'move' | 'add' | 'take'): void {
    if (this.state.acting() === act) this.state.end();
    else this.state.act(row.id, act);
  }

  protected text(event: Event): string {
    return (event.target as HTMLSelectElement).value;
  }

  protected number(event: Event, least: number, most: number): number {
    const { valueAsNumber } = event.target as HTMLInputElement;
    return Math.min(most, Math.max(least, Number.isFinite(valueAsNumber) ? valueAsNumber : least));
  }
}
interface Row {
  id: string;
  thing: SetThing;
}
