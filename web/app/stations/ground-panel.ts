import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { allFinishes, entry, type GroundChoice } from '../../../core/project/project';
import { MEADOW, SHAPING, type LaidPath, type Land, type Terrain } from '../../../core/setting/land';
import { SETTING } from '../../../core/setting/setting-model';
import { Icon } from '../sheet/icon';
import { LandState, LEAST_CLICKS, type Brush, type Drawing } from '../state/land-state';
import { Live } from '../state/live';
import { SceneState } from '../state/scene-state';

const CHOICES: readonly { choice: GroundChoice; words: string }[] = [
  { choice: 'auto', words: 'where the model has none' },
  { choice: 'always', words: 'always' },
  { choice: 'never', words: 'never' },
];
const DOES: Readonly<Record<Brush['does'], string>> = { raise: 'Raise', lower: 'Lower', smooth: 'Smooth', flatten: 'Flatten', roughen: 'Roughen', cover: 'Cover' }; // prettier-ignore
const HINTS: Readonly<Record<Drawing, string>> = {
  take: 'Point at the ground of the model in the picture.',
  level: 'Click two opposite corners, in the picture or in the plan.',
  path: 'Click along its line, in the picture or in the plan.',
  water: 'Click the corners of its outline; it lies just under the first one.',
};
const KINDS: Readonly<Record<Land['kind'], string>> = { terrain: 'terrain', path: 'path', water: 'water' };
/** Families that the ground is covered with, or a path. */
const COVERS: readonly string[] = ['ground', 'paving', 'stone', 'concrete', 'wood'];
const KERB: NonNullable<LaidPath['kerb']> = { widthM: 0.12, heightM: 0.1, finish: 'setts' };

/** The ground: taken over from the model, made of contours or points, shaped by brush; paths and water on it. */
@Component({
  selector: 'dp-ground-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    <div class="scroll body" data-testid="ground-panel">
      <div class="makes">
        <button type="button" class="btn btn-sm btn-outline-dark" [attr.aria-pressed]="state.drawing() === 'take'" data-testid="ground-take" (click)="draw('take')">Shape the model’s ground</button>
        <button type="button" class="btn btn-sm btn-outline-dark" [attr.aria-pressed]="state.drawing() === 'level'" data-testid="ground-level" (click)="draw('level')">Level ground</button>
        <button type="button" class="btn btn-sm btn-outline-dark" [attr.aria-pressed]="state.drawing() === 'path'" data-testid="ground-path" (click)="draw('path')">Path or road</button>
        <button type="button" class="btn btn-sm btn-outline-dark" [attr.aria-pressed]="state.drawing() === 'water'" data-testid="ground-water" (click)="draw('water')">Water</button>
      </div>
      <div class="makes">
        <select #layer class="form-select form-select-sm" aria-label="Made of a layer" data-testid="ground-layer" (change)="fromLayer(layer.value); layer.value = ''">
          <option value="">Made of surfaces or contour lines on …</option>
          @for (one of layers(); track one.key) {
            <option [value]="one.key">{{ one.words }}</option>
          }
        </select>
        <label class="btn btn-sm btn-outline-dark">
          Points …
          <input #file type="file" hidden accept=".xyz,.txt,.csv,.pts,.asc" data-testid="ground-file" (change)="file.files?.[0] && state.fromFile(file.files![0]!); file.value = ''" />
        </label>
      </div>
      @if (state.drawing() === 'path') {
        <div class="field">
          <label for="path-width">Width</label>
          <span><input id="path-width" class="mono" type="number" min="0.3" max="60" step="0.25" [value]="state.path().widthM" (change)="state.path.set({ widthM: number($event, 0.3, 60), finish: state.path().finish, kerb: state.path().kerb })" /> m</span>
          <label for="path-finish">Finish</label>
          <select id="path-finish" class="form-select form-select-sm" (change)="state.path.set({ widthM: state.path().widthM, finish: text($event), kerb: state.path().kerb })">
            @for (finish of finishes(); track finish.id) {
              <option [value]="finish.id" [selected]="finish.id === state.path().finish">{{ finish.name }}</option>
            }
          </select>
          <span></span>
          <label class="form-check"><input class="form-check-input" type="checkbox" data-testid="path-kerb" [checked]="state.path().kerb !== null" (change)="state.path.set({ widthM: state.path().widthM, finish: state.path().finish, kerb: state.path().kerb ? null : kerb })" /> with kerbs</label>
        </div>
      }
      <p class="quiet mb-2" role="status" data-testid="ground-said">{{ hint() }}</p>
      @if (state.drawing() && state.drawing() !== 'take') {
        <div class="makes">
          @if (state.drawing() !== 'level') {
            <button type="button" class="btn btn-sm btn-outline-dark" data-testid="ground-finish" [disabled]="state.clicked().length < least[state.drawing()!]" (click)="state.finish()">Lay it</button>
          }
          <button type="button" class="link" (click)="state.stop()">Done</button>
        </div>
      }

      @for (row of state.lands(); track row.id) {
        <div class="row-line" [class.open]="row.id === state.open()" data-testid="land-row">
          <button type="button" class="plain opener" [attr.aria-expanded]="row.id === state.open()" (click)="turn(row.id)">
            <span class="name text-truncate">{{ row.land.name }}</span>
            <span class="quiet size">{{ sizeOf(row.land) }}</span>
            <span class="quiet">{{ kinds[row.land.kind] }}</span>
          </button>
        </div>
        @if (row.id === state.open()) {
          <div class="card" data-testid="land-card">
            <div class="field">
              <label for="land-name">Name</label>
              <input #called id="land-name" class="form-control form-control-sm" maxlength="200" [value]="row.land.name" (change)="called.value.trim() && change(row.id, { ...row.land, name: called.value.trim() }, 'renamed')" />
              @if (row.land.kind === 'terrain') {
                <label for="land-cover">Covered with</label>
                <select id="land-cover" class="form-select form-select-sm" data-testid="land-cover" (change)="change(row.id, { ...row.land, cover: text($event) }, 'covered otherwise')">
                  <option [value]="meadow" [selected]="row.land.cover === meadow">Meadow of several kinds</option>
                  @for (finish of finishes(); track finish.id) {
                    <option [value]="finish.id" [selected]="finish.id === row.land.cover">{{ finish.name }}</option>
                  }
                </select>
                <label for="brush-does">Brush</label>
                <select id="brush-does" class="form-select form-select-sm" data-testid="brush-does" (change)="set({ does: $any(text($event)) })">
                  @for (does of shaping; track does) {
                    <option [value]="does" [selected]="does === state.brush().does">{{ does_[does] }}</option>
                  }
                </select>
                <label for="brush-radius">Reaches</label>
                <span>
                  <input id="brush-radius" class="mono" type="number" min="0.2" max="200" step="0.5" data-testid="brush-radius" [value]="state.brush().radiusM" (change)="set({ radiusM: number($event, 0.2, 200) })" /> m
                  @switch (state.brush().does) {
                    @case ('flatten') {
                      <span class="ms-2">to height <input class="mono" type="number" step="0.05" aria-label="Height to flatten to, metres" placeholder="first" data-testid="brush-level" [value]="state.brush().level ?? ''" (change)="level($event)" /> m</span>
                    }
                    @case ('smooth') {
                      <span class="ms-2">by <input class="mono" type="number" min="5" max="100" step="5" aria-label="Smoothed by, percent" [value]="share()" (change)="set({ amount: number($event, 5, 100) / 100 })" /> %</span>
                    }
                    @case ('cover') {}
                    @default {
                      <span class="ms-2">by <input class="mono" type="number" min="0.01" max="50" step="0.1" aria-label="By, metres" data-testid="brush-amount" [value]="state.brush().amount" (change)="set({ amount: number($event, 0.01, 50) })" /> m</span>
                    }
                  }
                </span>
                @if (state.brush().does === 'cover') {
                  <label for="brush-finish">With</label>
                  <select id="brush-finish" class="form-select form-select-sm" data-testid="brush-finish" (change)="set({ finish: text($event) })">
                    @for (finish of finishes(); track finish.id) {
                      <option [value]="finish.id" [selected]="finish.id === state.brush().finish">{{ finish.name }}</option>
                    }
                  </select>
                }
              }
              @if (row.land.kind === 'path') {
                <label for="laid-width">Width</label>
                <span><input id="laid-width" class="mono" type="number" min="0.3" max="60" step="0.25" data-testid="laid-width" [value]="row.land.widthM" (change)="change(row.id, { ...row.land, widthM: number($event, 0.3, 60) }, 'of another width')" /> m</span>
                <label for="laid-kerb">Kerb</label>
                <select id="laid-kerb" class="form-select form-select-sm" (change)="change(row.id, { ...row.land, kerb: text($event) ? { widthM: kerb.widthM, heightM: row.land.kerb?.heightM ?? kerb.heightM, finish: text($event) } : null }, 'with another kerb')">
                  <option value="">none</option>
                  @for (finish of finishes(); track finish.id) {
                    <option [value]="finish.id" [selected]="finish.id === row.land.kerb?.finish">{{ finish.name }}</option>
                  }
                </select>
                @if (row.land.kerb; as its) {
                  <label for="laid-high">Kerb, high</label>
                  <span><input id="laid-high" class="mono" type="number" min="0" max="1" step="0.02" [value]="its.heightM" (change)="change(row.id, { ...row.land, kerb: { widthM: its.widthM, finish: its.finish, heightM: number($event, 0, 1) } }, 'with another kerb')" /> m</span>
                }
              }
              @if (row.land.kind === 'water') {
                <label for="water-level">Level</label>
                <span><input id="water-level" class="mono" type="number" step="0.05" data-testid="water-level" [value]="row.land.levelM" (change)="change(row.id, { ...row.land, levelM: number($event, -10000, 10000) }, 'at another level')" /> m</span>
              }
              @if (row.land.kind !== 'terrain') {
                <label for="laid-finish">Finish</label>
                <select id="laid-finish" class="form-select form-select-sm" (change)="change(row.id, { ...row.land, finish: text($event) }, 'with another finish')">
                  @for (finish of row.land.kind === 'water' ? waters() : finishes(); track finish.id) {
                    <option [value]="finish.id" [selected]="finish.id === row.land.finish">{{ finish.name }}</option>
                  }
                </select>
              }
            </div>
            <div class="actions">
              @if (row.land.kind === 'terrain') {
                <button type="button" class="link" data-testid="brush-take" [attr.aria-pressed]="state.brushes()" (click)="state.takeBrush(row.id)">{{ state.brushes() ? 'Lay the brush down' : 'Take the brush' }}</button>
              }
              @if (row.land.kind === 'path') {
                <button type="button" class="link" (click)="change(row.id, row.land, 'dropped to the ground')">Drop to the ground</button>
              }
              <button type="button" class="link" data-testid="land-remove" (click)="state.remove(row.id, row.land.name)"><dp-icon name="remove" /> Take away</button>
            </div>
          </div>
        }
      }
      <p class="mt-3 mb-1">A neutral, level ground at the model’s lowest level, out to the horizon:</p>
      <div class="choices">
        @for (c of choices; track c.choice) {
          <label class="form-check">
            <input class="form-check-input" type="radio" name="ground" [checked]="ground() === c.choice" (change)="lay(c.choice)" />
            {{ c.words }}
          </label>
        }
      </div>
    </div>
  `,
  styleUrl: './station.scss',
  styles: `
    .makes {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px;
      margin-bottom: 8px;
    }
    .makes select {
      flex: 1;
      min-width: 0;
      width: auto;
      font-size: 0.8125rem;
    }
    .opener {
      display: grid;
      grid-template-columns: 1fr auto 52px;
      gap: 10px;
      width: 100%;
      text-align: left;
      padding: 6px 0;
      border-bottom: 1px solid var(--rule);
    }
    .open .opener {
      font-weight: 600;
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
    input[type='number'] {
      width: 62px;
    }
    .choices {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 16px;
    }
  `,
}) // prettier-ignore
export class GroundPanel {
  protected readonly state = inject(LandState);
  private readonly live = inject(Live);
  private readonly entries = toSignal(this.live.entries$, { initialValue: new Map<string, unknown>() });
  private readonly sources = toSignal(inject(SceneState).sources$, { initialValue: [] });
  private readonly named = toSignal(this.live.sources$, { initialValue: [] });
  protected readonly ground = toSignal(this.live.entries$.pipe(map((entries) => entry(entries, 'ground') ?? 'auto')), {
    initialValue: 'auto',
  });
  protected readonly choices = CHOICES;
  protected readonly does_ = DOES;
  protected readonly shaping = SHAPING;
  protected readonly kinds = KINDS;
  protected readonly least = LEAST_CLICKS;
  protected readonly meadow = MEADOW;
  protected readonly kerb = KERB;
  protected readonly finishes = computed(() => allFinishes(this.entries()).filter(({ family }) => COVERS.includes(family)));
  protected readonly waters = computed(() => allFinishes(this.entries()).filter(({ family }) => family === 'water'));
  protected readonly share = computed(() => Math.round(Math.min(1, this.state.brush().amount) * 100));
  protected readonly layers = computed(() =>
    this.sources()
      .filter(({ id }) => id !== SETTING)
      .flatMap(({ id, model }) => {
        const source = this.named().find((one) => one.id === id)?.name ?? id;
        const layers = new Set([...model.elements.values()].filter(({ parts }) => parts.length > 0).map(({ layer }) => layer));
        return [...layers].sort((a, b) => a.localeCompare(b)).map((layer) => ({ key: JSON.stringify([id, layer]), words: `${source}: ${layer || 'no layer'}` })); // prettier-ignore
      }),
  );
  protected readonly hint = computed(() => {
    if (this.state.isBusy()) return 'Finding the ground …';
    const drawing = this.state.drawing();
    const count = this.state.clicked().length;
    if (drawing && count > 0) return `${String(count)} clicked.${count >= LEAST_CLICKS[drawing] ? ' Enter or “Lay it” lays it.' : ''}`;
    if (this.state.said()) return this.state.said();
    if (drawing) return HINTS[drawing];
    if (this.state.brushes()) return 'Click in the picture, or draw in the plan, where the ground is to be shaped.';
    return this.state.lands().length === 0 ? 'The ground is as the model brings it.' : '';
  });

  constructor() {
    // The brush is laid down when the ground is left.
    inject(DestroyRef).onDestroy(() => {
      this.state.stop();
    });
  }

  protected draw(drawing: Drawing): void {
    if (this.state.drawing() === drawing) this.state.stop();
    else this.state.draw(drawing);
  }

  protected fromLayer(key: string): void {
    if (!key) return;
    const [source, layer] = JSON.parse(key) as [string, string];
    void this.state.fromLayer(source, layer);
  }

  protected turn(id: string): void {
    this.state.stop();
    this.state.open.set(this.state.open() === id ? undefined : id);
  }

  protected change(id: string, land: Land, what: string): void {
    void this.state.change(id, land, `${land.name} ${what}`);
  }

  protected set(change: Partial<Brush>): void {
    this.state.brush.update((brush) => ({ ...brush, ...change }));
    if (change.does === 'smooth') this.state.brush.update((brush) => ({ ...brush, amount: 0.6 }));
    else if (change.does && this.state.brush().amount < 0.01) this.state.brush.update((brush) => ({ ...brush, amount: 0.5 }));
  }

  protected level(event: Event): void {
    const { valueAsNumber } = event.target as HTMLInputElement;
    this.set({ level: Number.isFinite(valueAsNumber) ? valueAsNumber : undefined });
  }

  protected sizeOf(land: Land): string {
    if (land.kind === 'terrain') return sized(land);
    if (land.kind === 'path') return `${land.widthM.toFixed(1)} m wide`;
    return `at ${land.levelM.toFixed(2)} m`;
  }

  protected lay(ground: GroundChoice): void {
    this.live.run({ type: 'lay-ground', ground });
  }

  protected text(event: Event): string {
    return (event.target as HTMLSelectElement).value;
  }

  protected number(event: Event, least: number, most: number): number {
    const { valueAsNumber } = event.target as HTMLInputElement;
    return Math.min(most, Math.max(least, Number.isFinite(valueAsNumber) ? valueAsNumber : least));
  }
}

const sized = ({ grid: { columns, rows, cellM } }: Terrain): string =>
  `${String(Math.round((columns - 1) * cellM))} × ${String(Math.round((rows - 1) * cellM))} m`;
