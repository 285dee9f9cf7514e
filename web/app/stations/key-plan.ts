import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, input, signal, viewChild } from '@angular/core';
import { auditTime, debounceTime, distinctUntilChanged, filter, map } from 'rxjs';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { EYE_HEIGHT_M } from '../../../core/camera/walker';
import { FAMILIES } from '../../../core/finish/finish';
import { builtBox, drawPlan, gridOf, shaped, type PlanBox } from '../../../core/setting/site-plan';
import { storeysOf } from '../../../core/setting/storeys';
import { PictureState } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { SettingState } from '../state/setting-state';
import type { ViewRow } from '../state/views';

const [COLUMNS, ROWS] = [468, 210];
const SHAPE = COLUMNS / ROWS;
/** The building is looked for about the eye in a grid of so many places to a side, so far apart. */
const LOOK = 80;
const LOOK_M = 3;
const MARGIN_M = 3;
const SKY_M = 2000;
const HEADROOM_M = 1.9;
const MOST_STOREYS = 8;
const STOREY_GRID = [60, 28] as const;
const UNDER_M = 0.5;
/** After what was seen changed, the building is looked for again where it was not found. */
const AGAIN_MS = 1500;
/** Over its floor a storey is cut; common practice. */
const CUT_M = 1.1;
/** A view belongs to the storey over whose floor its eye is at most so far. */
const REACH_M = 3.2;

/** Each storey in section: views as numbered arrows, and the eye, which goes where one clicks and looks where one drags. */
@Component({
  selector: 'dp-key-plan',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      class="plan"
      data-testid="key-plan"
      tabindex="0"
      role="application"
      aria-label="Key plan: click to go there, drag to look; Page Up and Page Down change the storey"
      (pointerdown)="down($event)"
      (pointermove)="move($event)"
      (pointerup)="up($event)"
      (keydown)="key($event)"
    >
      <canvas #drawing [attr.width]="columns" [attr.height]="rows" [attr.data-drawn]="drawn()"></canvas>
      @if (box(); as b) {
        <svg [attr.viewBox]="b.x + ' ' + (-b.y - b.heightM) + ' ' + b.widthM + ' ' + b.heightM" aria-hidden="true">
          @for (arrow of arrows(); track arrow.number) {
            <g [class.current]="arrow.current">
              <path [attr.d]="arrow.path" />
              <text [attr.x]="arrow.x" [attr.y]="arrow.y" [attr.font-size]="b.widthM * 0.026">{{ arrow.number }}</text>
            </g>
          }
          <path class="eye" [attr.d]="eye()" />
        </svg>
        @if (storeys().length > 1) {
          <span class="storeys">
            @for (floor of storeys(); track floor; let i = $index) {
              <button type="button" class="plain" [class.on]="i === storey()" [attr.aria-pressed]="i === storey()" (click)="choose(i)">{{ level(floor) }} m</button>
            }
          </span>
        }
      } @else {
        <p class="quiet">The key plan is being drawn …</p>
      }
    </div>
  `,
  styles: `
    .plan {
      position: relative;
      margin: 0 14px 8px;
      border: 1px solid var(--rule);
      aspect-ratio: 468 / 210;
      overflow: hidden;
      background: var(--paper-raised);
      cursor: crosshair;
      touch-action: none;
    }
    canvas,
    svg {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
    }
    path {
      fill: none;
      stroke: var(--ink);
      stroke-width: 1px;
      vector-effect: non-scaling-stroke;
    }
    text {
      font-family: var(--mono, monospace);
      fill: var(--ink);
      text-anchor: middle;
      dominant-baseline: central;
    }
    .current path,
    .current text {
      stroke: var(--now, #b8492a);
    }
    .eye {
      stroke: var(--in-step);
      fill: #2f746c55;
      stroke-width: 1.6px;
    }
    .storeys {
      position: absolute;
      right: 6px;
      top: 4px;
      display: grid;
      gap: 2px;
      font-size: 0.6875rem;
      background: var(--paper-raised);
    }
    .storeys .on {
      font-weight: 700;
    }
    p {
      padding: 12px;
    }
  `,
}) // prettier-ignore
export class KeyPlan {
  readonly views = input.required<readonly ViewRow[]>();
  private readonly setting = inject(SettingState);
  private readonly picture = inject(PictureState);
  private readonly canvas = viewChild<ElementRef<HTMLCanvasElement>>('drawing');
  private readonly camera = toSignal(this.picture.camera$, { requireSync: true });
  private readonly current = toSignal(this.picture.viewName$);
  protected readonly columns = COLUMNS;
  protected readonly rows = ROWS;
  protected readonly box = signal<PlanBox | undefined>(undefined);
  protected readonly storeys = signal<readonly number[]>([]);
  /** Chosen by hand; without, where the eye is. */
  protected readonly chosen = signal<number | undefined>(undefined);
  protected readonly drawn = signal(0);
  private shown: { box: PlanBox; floor: number } | undefined;
  private readonly dragged = signal<{ from: readonly [number, number]; to: readonly [number, number] } | undefined>(undefined);
  protected readonly storey = computed(() => {
    const floors = this.storeys();
    const under = floors.findLastIndex((floor) => floor <= this.camera().position[2] - 0.5);
    return this.chosen() ?? Math.max(0, this.camera().position[2] > (floors.at(-1) ?? 0) + REACH_M * 2 ? 0 : under);
  });
  private readonly floor = computed(() => this.storeys()[this.storey()]);
  protected readonly arrows = computed(() => {
    const [floor, size] = [this.floor() ?? 0, (this.box()?.widthM ?? 40) * 0.03];
    return this.views().flatMap(({ name, position, target, parallelM }, i) => {
      const isHere = parallelM === undefined && position[2] >= floor && position[2] <= floor + REACH_M;
      if (!isHere) return [];
      const turn = Math.atan2(target[1] - position[1], target[0] - position[0]);
      const at = (angle: number, r: number) => `${(position[0] + Math.cos(turn + angle) * r).toFixed(2)} ${(-position[1] - Math.sin(turn + angle) * r).toFixed(2)}`;
      return [{ number: i + 1, current: name === this.current(), path: `M${at(0.6, size * 0.9)}L${at(0, size * 1.5)}L${at(-0.6, size * 0.9)}`, x: position[0].toFixed(2), y: (-position[1]).toFixed(2) }];
    });
  }); // prettier-ignore
  /** The eye, and what it sees of the plan. */
  protected readonly eye = computed(() => {
    const drag = this.dragged();
    const { position, target, focalMm } = this.camera();
    const [x, y] = drag?.from ?? [position[0], position[1]];
    const [tx, ty] = drag?.to ?? [target[0], target[1]];
    const turn = Math.atan2(ty - y, tx - x);
    const half = Math.atan(18 / focalMm);
    const far = (this.box()?.widthM ?? 40) * 0.09;
    const at = (angle: number) => `${(x + Math.cos(turn + angle) * far).toFixed(2)} ${(-y - Math.sin(turn + angle) * far).toFixed(2)}`;
    return `M${x.toFixed(2)} ${(-y).toFixed(2)}L${at(half)}L${at(-half)}Z`;
  });

  constructor() {
    inject(SceneState)
      .sources$.pipe(
        map((sources) => sources.map(({ model }) => model.elements)),
        filter((models) => models.length > 0),
        distinctUntilChanged((a, b) => a.length === b.length && a.every((elements, i) => elements === b[i])),
        debounceTime(600),
        takeUntilDestroyed(),
      )
      .subscribe(() => {
        void this.find();
      });
    // Shapes may come later than the elements that have them.
    this.picture.frameShown$
      .pipe(
        auditTime(AGAIN_MS),
        filter(() => this.looked && !this.box()),
        takeUntilDestroyed(),
      )
      .subscribe(() => {
        void this.find();
      });
    this.picture.camera$.pipe(takeUntilDestroyed()).subscribe(() => {
      this.renew();
    });
  }

  /** As drawings write it; what rounds to nothing has no sign. */
  protected readonly level = (metres: number): string => (Math.round(metres * 10) / 10 || 0).toFixed(1).replace('-', '−');

  protected choose(storey: number): void {
    this.chosen.set(storey);
    this.renew();
  }

  /** Drawn anew for another building or storey. */
  private renew(): void {
    const [box, floor] = [this.box(), this.floor()];
    if (!box || floor === undefined || (this.shown?.box === box && this.shown.floor === floor)) return;
    this.shown = { box, floor };
    void this.draw(box, floor);
  }

  protected down(event: PointerEvent): void {
    const place = this.placeAt(event);
    if (!place) return;
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    this.dragged.set({ from: place, to: place });
  }

  protected move(event: PointerEvent): void {
    const [drag, place] = [this.dragged(), this.placeAt(event)];
    if (drag && place && event.buttons === 1) this.dragged.set({ from: drag.from, to: place });
  }

  protected up(event: PointerEvent): void {
    const drag = this.dragged();
    this.dragged.set(undefined);
    if (!drag) return;
    const to = this.placeAt(event) ?? drag.to;
    const isLook = Math.hypot(to[0] - drag.from[0], to[1] - drag.from[1]) > (this.box()?.widthM ?? 0) * 0.015;
    this.go(drag.from, isLook ? to : undefined);
  }

  protected key(event: KeyboardEvent): void {
    const by = { PageUp: 1, PageDown: -1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    this.choose(Math.min(this.storeys().length - 1, Math.max(0, this.storey() + by)));
  }

  /** Stands at a place of the storey, looking on as before or towards another place. */
  private go([x, y]: readonly [number, number], towards: readonly [number, number] | undefined): void {
    const { position, target, focalMm, upright, aperture } = this.camera();
    const z = (this.floor() ?? 0) + EYE_HEIGHT_M;
    const way = towards ? [towards[0] - x, towards[1] - y] : [target[0] - position[0], target[1] - position[1]];
    const length = Math.hypot(way[0]!, way[1]!) || 1;
    const ahead = 6;
    this.picture.goTo$.next({
      camera: { position: [x, y, z], target: [x + (way[0]! / length) * ahead, y + (way[1]! / length) * ahead, z], focalMm, ...(upright && { upright }), ...(aperture && { aperture }) },
    });
    this.chosen.set(undefined);
    this.renew();
  } // prettier-ignore

  private placeAt(event: MouseEvent): [number, number] | undefined {
    const box = this.box();
    const canvas = this.canvas()?.nativeElement;
    if (!box || !canvas) return undefined;
    const frame = canvas.getBoundingClientRect();
    return [
      box.x + ((event.clientX - frame.left) / frame.width) * box.widthM,
      box.y + (1 - (event.clientY - frame.top) / frame.height) * box.heightM,
    ];
  }

  /** The last look at the building has been answered. */
  private looked = false;

  /** Where the building is, and which storeys it has. */
  private async find(): Promise<void> {
    this.looked = false;
    const [x, y] = this.camera().target;
    const places = gridOf(shaped(x, y, LOOK * LOOK_M, 1), LOOK, LOOK);
    const box = builtBox(places, await this.setting.survey(places, SKY_M), FAMILIES, MARGIN_M, SHAPE);
    this.looked = true;
    if (!box) return;
    let looked = gridOf(box, ...STOREY_GRID).map((place) => ({ place, from: SKY_M }));
    const built = looked.length;
    const heights: number[] = [];
    // From the top down, each time from under the floors that were met.
    for (let i = 0; i < MOST_STOREYS && looked.length > 0; i++) {
      const { z, family } = await this.setting.survey(looked.map(({ place }) => place), looked.map(({ from }) => from), HEADROOM_M); // prettier-ignore
      looked = looked.flatMap(({ place }, k) => (Number.isFinite(z[k]) && !OPEN.has(FAMILIES[family[k]!] ?? '') ? [{ place, from: z[k]! - UNDER_M }] : [])); // prettier-ignore
      heights.push(...looked.map(({ from }) => from + UNDER_M));
    }
    const storeys = storeysOf(heights, built);
    this.storeys.set(storeys.length > 0 ? storeys : [Math.round((this.camera().position[2] - EYE_HEIGHT_M) * 100) / 100]);
    this.box.set(box);
    this.renew();
  } // prettier-ignore

  private async draw(box: PlanBox, floor: number): Promise<void> {
    const survey = await this.setting.survey(gridOf(box, COLUMNS, ROWS), floor + CUT_M, undefined, [], true);
    const canvas = this.canvas()?.nativeElement;
    if (!canvas || this.box() !== box || this.floor() !== floor) return;
    canvas.getContext('2d')!.putImageData(new ImageData(drawPlan(survey, FAMILIES, COLUMNS), COLUMNS, ROWS), 0, 0);
    this.drawn.update((times) => times + 1);
  }
}

/** What lies out of doors is no storey. */
const OPEN: ReadonlySet<string> = new Set(['ground', 'water', 'paving']);
