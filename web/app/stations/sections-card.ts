import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { cross, normalise, subtract, type Vec3 } from '../../../core/geometry/vec3';
import { entry } from '../../../core/project/project';
import { DEFAULT_FILLS, planeThrough, type Fills, type Section } from '../../../core/project/sections';
import { Icon } from '../sheet/icon';
import { Slider } from '../sheet/slider';
import { Live } from '../state/live';
import { PictureState, type Pointed } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { SectionHandles } from '../state/section-handles';

/** Ways to lay a section through places that are clicked in the picture. */
const BY_CLICKS = {
  face: { places: 1, words: 'along a face', asks: 'Click the face.' },
  upright: { places: 2, words: 'upright through two places', asks: 'Click two places that it goes through.' },
  box: { places: 2, words: 'box between two corners', asks: 'Click two corners on the floor.' },
} as const;
type ByClicks = keyof typeof BY_CLICKS;

/** A plan is cut at this height above its floor, metres; common practice. */
const PLAN_CUT_M = 1.1;
const REACH_M = 15;
const BOX_HEIGHT_M = 3;
/** Of what is cut, these are told apart. */
const MOST_CLASSES = 10;

/** Sections: planes and boxes that cut the picture open, which of them are shown, and what cut faces are filled with. */
@Component({
  selector: 'dp-sections-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, Slider],
  template: `
    <h2>Sections</h2>
    @for (row of rows(); track row.id) {
      <div class="section" data-testid="section">
        <label class="form-check mb-0">
          <input class="form-check-input" type="checkbox" [checked]="isOn(row.id)" (change)="turn(row.id)" [attr.aria-label]="'Show section ' + row.section.name" />
        </label>
        <button type="button" class="plain text-truncate text-start" [attr.aria-expanded]="open() === row.id" (click)="open.set(open() === row.id ? '' : row.id)">{{ row.section.name }}</button>
        <span class="quiet">{{ about(row.section) }}</span>
        <button type="button" class="plain" [attr.aria-label]="'Drop section ' + row.section.name" (click)="drop(row.id)"><dp-icon name="remove" /></button>
      </div>
      @if (open() === row.id) {
        <div class="one">
          <div class="field">
            <label for="section-name">Called</label>
            <input #called id="section-name" class="form-control form-control-sm" maxlength="200" [value]="row.section.name" (change)="called.value.trim() && keep(row.id, { ...row.section, name: called.value.trim() })" />
          </div>
          @if (row.section.cut.kind === 'plane') {
            <dp-slider name="section-offset" label="Position" [value]="shownOffset(row.id, row.section)" [words]="shownOffset(row.id, row.section).toFixed(2) + ' m'" [min]="row.section.cut.offsetM - reachM" [max]="row.section.cut.offsetM + reachM" [step]="0.05" (slid)="slide(row.id, row.section, $event)" (set)="place(row.id, row.section, $event)" />
            <button type="button" class="link" data-testid="section-flip" (click)="flip(row.id, row.section)">cut away the other side</button>
          } @else {
            <div class="field">
              <label for="box-size">Size, m</label>
              <span class="sizes">
                @for (size of row.section.cut.sizeM; track $index) {
                  <input class="mono" type="number" min="0.1" step="0.1" [id]="$index === 0 ? 'box-size' : ''" [attr.aria-label]="axes[$index]" [value]="size.toFixed(2)" (change)="resize(row.id, row.section, $index, $event)" />
                }
              </span>
              <label for="box-middle">Middle, m</label>
              <span class="sizes">
                @for (at of row.section.cut.middle; track $index) {
                  <input class="mono" type="number" step="0.1" [id]="$index === 0 ? 'box-middle' : ''" [attr.aria-label]="'Middle ' + axes[$index]" [value]="at.toFixed(2)" (change)="move(row.id, row.section, $index, $event)" />
                }
              </span>
              <label for="box-turn">Turned</label>
              <span><input id="box-turn" class="mono" type="number" step="5" [value]="row.section.cut.turnDeg" (change)="turnBox(row.id, row.section, $event)" /> °</span>
            </div>
          }
          <details>
            <summary>{{ row.section.layers ? row.section.layers.length + ' of ' + layers().length + ' layers are cut' : 'All layers are cut' }}</summary>
            @for (layer of layers(); track layer) {
              <label class="form-check mb-0"><input class="form-check-input" type="checkbox" [checked]="!row.section.layers || row.section.layers.includes(layer)" (change)="choose(row.id, row.section, layer)" /> {{ layer || 'no layer' }}</label>
            }
          </details>
        </div>
      }
    } @empty {
      <p class="quiet mb-1">No section yet. One cuts the picture open; what is cut is filled.</p>
    }
    @if (clicking(); as way) {
      <p class="asks" role="status">{{ ways[way].asks }} <button type="button" class="link" (click)="stopClicking()">Leave it</button></p>
    }
    <div class="actions">
      <span>New:</span>
      <button type="button" class="link" data-testid="section-level" (click)="level()">level, {{ planCut.toFixed(1) }} m above 0</button>
      @for (way of wayNames; track way) {
        <button type="button" class="link" [attr.data-testid]="'section-' + way" [attr.aria-pressed]="clicking() === way" (click)="click(way)">{{ ways[way].words }}</button>
      }
    </div>
    @if (rows().length > 0) {
      <details class="fills">
        <summary>Cut faces are filled with</summary>
        @for (one of classes(); track one) {
          <label><input type="color" [value]="fills().classes[one] ?? fills().others" (change)="fill(one, $event)" /> {{ one }}</label>
        }
        <label><input type="color" [value]="fills().others" (change)="fill('', $event)" /> all else</label>
        <label class="form-check mb-0">
          <input class="form-check-input" type="checkbox" data-testid="fills-earth" [checked]="fills().earth !== undefined" (change)="setEarth()" /> earth under the ground
          @if (fills().earth; as earth) {
            <input type="color" class="ms-1" aria-label="Colour of earth" [value]="earth" (change)="fillEarth($event)" />
          }
        </label>
      </details>
    }
  `,
  styleUrl: './station.scss',
  styles: `
    .section {
      display: grid;
      grid-template-columns: auto minmax(0, 1fr) auto auto;
      gap: 8px;
      align-items: center;
      padding: 3px 0;
      border-bottom: 1px solid var(--rule);
      font-size: 0.875rem;
    }
    .one {
      padding: 6px 0 8px 24px;
    }
    .sizes {
      display: flex;
      gap: 4px;
    }
    input[type='number'] {
      width: 72px;
    }
    input[type='color'] {
      width: 26px;
      height: 20px;
      padding: 0;
      border: 1px solid var(--rule);
      vertical-align: middle;
    }
    details {
      font-size: 0.8125rem;
      margin-top: 4px;
    }
    .fills label {
      display: block;
      padding: 2px 0;
    }
    .asks {
      font-size: 0.8125rem;
      margin: 6px 0 0;
    }
    .actions {
      font-size: 0.8125rem;
    }
  `,
}) // prettier-ignore
export class SectionsCard {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private readonly scene = inject(SceneState);
  protected readonly ways = BY_CLICKS;
  protected readonly wayNames = Object.keys(BY_CLICKS) as ByClicks[];
  protected readonly planCut = PLAN_CUT_M;
  protected readonly reachM = REACH_M;
  protected readonly axes = ['across', 'along', 'high'];
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  private readonly on = toSignal(this.picture.sections$, { requireSync: true });
  protected readonly open = inject(SectionHandles).open;
  protected readonly clicking = signal<ByClicks | undefined>(undefined);
  private readonly sliding = signal<{ id: string; offsetM: number } | undefined>(undefined);
  private places: Pointed[] = [];
  protected readonly rows = computed(() =>
    [...this.entries().keys()]
      .filter((key) => key.startsWith('section/'))
      .map((key) => ({ id: key.slice('section/'.length), section: entry(this.entries(), key as `section/${string}`)! })),
  );
  protected readonly fills = computed((): Fills => entry(this.entries(), 'section-fills') ?? DEFAULT_FILLS);
  private readonly kinds = toSignal(
    this.scene.sources$.pipe(
      map((sources) => {
        const [layers, classes] = [new Set<string>(), new Map<string, number>()];
        for (const { model } of sources)
          for (const element of model.elements.values()) {
            layers.add(element.layer);
            classes.set(element.class, (classes.get(element.class) ?? 0) + 1);
          }
        const common = [...classes].sort((a, b) => b[1] - a[1]).slice(0, MOST_CLASSES).map(([name]) => name); // prettier-ignore
        return { layers: [...layers].sort(), classes: common.sort() };
      }),
    ),
    { initialValue: { layers: [] as string[], classes: [] as string[] } },
  );
  protected readonly layers = computed(() => this.kinds().layers);
  protected readonly classes = computed(() => this.kinds().classes);
  private readonly taker = (pointed: Pointed) => {
    this.take(pointed);
  };

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.stopClicking();
      this.open.set('');
      this.scene.sectionPreview$.next(undefined);
    });
  }

  protected about({ cut }: Section): string {
    if (cut.kind === 'box') return `box, ${cut.sizeM.map((m) => m.toFixed(1)).join(' × ')} m`;
    const [x, y, z] = normalise(cut.normal);
    if (Math.abs(z) > 0.999) return `level, ${(cut.offsetM * Math.sign(z)).toFixed(2)} m`;
    if (Math.abs(z) < 0.001) return `upright, looking ${((Math.atan2(-x, -y) * 180) / Math.PI + 360).toFixed(0).replace('360', '0')}°`;
    return 'askew';
  }

  protected isOn(id: string): boolean {
    return this.on().includes(id);
  }

  protected turn(id: string): void {
    this.picture.sections$.next(this.isOn(id) ? this.on().filter((one) => one !== id) : [...this.on(), id]);
  }

  protected keep(id: string, section: Section): void {
    this.live.run({ type: 'keep-section', id, section });
  }

  protected drop(id: string): void {
    this.picture.sections$.next(this.on().filter((one) => one !== id));
    this.live.run({ type: 'drop-section', id });
  }

  /** A new one is shown at once. */
  private add(cut: Section['cut']): void {
    const id = crypto.randomUUID();
    const used = new Set(this.rows().map(({ section }) => section.name));
    let number = 1;
    while (used.has(`Section ${String(number)}`)) number++;
    this.keep(id, { name: `Section ${String(number)}`, cut });
    this.picture.sections$.next([...this.on(), id]);
    this.open.set(id);
  }

  protected level(): void {
    this.add(planeThrough([0, 0, 1], [0, 0, PLAN_CUT_M]));
  }

  protected click(way: ByClicks): void {
    const again = this.clicking() === way;
    this.stopClicking();
    if (again) return;
    this.clicking.set(way);
    this.picture.pointTaker$.next(this.taker);
  }

  protected stopClicking(): void {
    this.clicking.set(undefined);
    this.places = [];
    if (this.picture.pointTaker$.value === this.taker) this.picture.pointTaker$.next(undefined);
  }

  private take(pointed: Pointed): void {
    const way = this.clicking();
    if (!way) return;
    this.places.push(pointed);
    if (this.places.length < BY_CLICKS[way].places) {
      this.picture.pointTaker$.next(this.taker);
      return;
    }
    const cut = cutBy(way, this.places, this.picture.camera$.value.position);
    this.stopClicking();
    if (cut) this.add(cut);
  }

  protected shownOffset(id: string, { cut }: Section): number {
    const sliding = this.sliding();
    return sliding?.id === id ? sliding.offsetM : cut.kind === 'plane' ? cut.offsetM : 0;
  }

  protected slide(id: string, section: Section, offsetM: number): void {
    if (section.cut.kind !== 'plane') return;
    this.sliding.set({ id, offsetM });
    this.scene.sectionPreview$.next({ id, section: { ...section, cut: { ...section.cut, offsetM } } });
  }

  protected place(id: string, section: Section, offsetM: number): void {
    if (section.cut.kind === 'plane') this.keep(id, { ...section, cut: { ...section.cut, offsetM } });
    this.sliding.set(undefined);
    this.scene.sectionPreview$.next(undefined);
  }

  protected flip(id: string, section: Section): void {
    const { cut } = section;
    if (cut.kind !== 'plane') return;
    const [x, y, z] = cut.normal;
    this.keep(id, { ...section, cut: { ...cut, normal: [-x, -y, -z], offsetM: -cut.offsetM } });
  }

  protected resize(id: string, section: Section, axis: number, event: Event): void {
    const size = (event.target as HTMLInputElement).valueAsNumber;
    if (section.cut.kind !== 'box' || !(size >= 0.1 && size < 10_000)) return;
    this.keep(id, { ...section, cut: { ...section.cut, sizeM: changedAt(section.cut.sizeM, axis, size) } });
  }

  protected move(id: string, section: Section, axis: number, event: Event): void {
    const at = (event.target as HTMLInputElement).valueAsNumber;
    if (section.cut.kind !== 'box' || !(Math.abs(at) < 100_000)) return;
    this.keep(id, { ...section, cut: { ...section.cut, middle: changedAt(section.cut.middle, axis, at) } });
  }

  protected turnBox(id: string, section: Section, event: Event): void {
    const turnDeg = (event.target as HTMLInputElement).valueAsNumber;
    if (section.cut.kind === 'box' && Number.isFinite(turnDeg)) this.keep(id, { ...section, cut: { ...section.cut, turnDeg } });
  }

  protected choose(id: string, section: Section, layer: string): void {
    const now = section.layers ?? this.layers();
    const next = now.includes(layer) ? now.filter((one) => one !== layer) : [...now, layer];
    const { name, cut } = section;
    this.keep(id, next.length === this.layers().length ? { name, cut } : { name, cut, layers: next });
  }

  protected fill(name: string, event: Event): void {
    const colour = (event.target as HTMLInputElement).value;
    const fills = this.fills();
    this.setFills(name === '' ? { ...fills, others: colour } : { ...fills, classes: { ...fills.classes, [name]: colour } });
  }

  protected setEarth(): void {
    const { earth, ...fills } = this.fills();
    this.setFills(earth ? fills : { ...fills, earth: DEFAULT_FILLS.earth! });
  }

  protected fillEarth(event: Event): void {
    this.setFills({ ...this.fills(), earth: (event.target as HTMLInputElement).value });
  }

  private setFills(fills: Fills): void {
    this.live.run({ type: 'fill-sections', fills });
  }
}

/** The cut that clicked places ask for; what stands nearer to the eye is cut away. Undefined: they are one place. */
function cutBy(way: ByClicks, places: readonly Pointed[], eye: Vec3): Section['cut'] | undefined {
  const [a, b] = places.map(({ point }) => point) as [Vec3, Vec3?];
  if (way === 'face') {
    const normal = places[0]!.normal;
    return normal && planeThrough(towards(normal, a, eye), a);
  }
  if (!b || Math.hypot(b[0] - a[0], b[1] - a[1]) < 0.05) return undefined;
  if (way === 'upright') return planeThrough(towards(normalise(cross(subtract(b, a), [0, 0, 1])), a, eye), a);
  const low = Math.min(a[2], b[2]) - 0.3;
  const high = Math.max(a[2], b[2]) + BOX_HEIGHT_M;
  return {
    kind: 'box',
    middle: [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (low + high) / 2],
    sizeM: [Math.max(0.1, Math.abs(a[0] - b[0])), Math.max(0.1, Math.abs(a[1] - b[1])), high - low],
    turnDeg: 0,
  };
}

function towards(normal: Vec3, place: Vec3, eye: Vec3): Vec3 {
  const [x, y, z] = subtract(eye, place);
  return normal[0] * x + normal[1] * y + normal[2] * z >= 0 ? normal : [-normal[0], -normal[1], -normal[2]];
}

const changedAt = (list: readonly number[], at: number, value: number): [number, number, number] =>
  list.map((one, i) => (i === at ? value : one)) as [number, number, number];
