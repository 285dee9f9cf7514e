import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, ElementRef, inject, signal, viewChild } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { debounceTime, distinctUntilChanged, filter, map } from 'rxjs';
import { FAMILIES } from '../../../core/finish/finish';
import { builtBox, drawPlan, gridOf, shaped, type PlanBox } from '../../../core/setting/site-plan';
import { rounded } from '../../../core/setting/laid-path';
import { SETTING } from '../../../core/setting/setting-model';
import { LandState } from '../state/land-state';
import { PictureState } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { SettingState } from '../state/setting-state';

const [COLUMNS, ROWS] = [468, 270];
const SHAPE = COLUMNS / ROWS;
/** The site is looked for about the eye in a grid of so many places to a side, so far apart. */
const LOOK = 90;
const LOOK_M = 4;
const MARGIN_M = 22;
const SKY_M = 2000;
const AGAIN_MS = 1500;

/** The site from above in line drawing, with what is set in it; one sets things here as in the picture. */
@Component({
  selector: 'dp-planting-plan',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      class="plan"
      data-testid="planting-plan"
      tabindex="0"
      role="application"
      aria-label="Planting plan: click to set things, drag to move the plan, drag with Shift to choose several, the wheel or plus and minus to come nearer"
      [class.sets]="isTaking()"
      (pointerdown)="down($event)"
      (pointermove)="move($event)"
      (pointerup)="up($event)"
      (wheel)="wheel($event)"
      (keydown)="key($event)"
    >
      <canvas #drawing [attr.width]="columns" [attr.height]="rows" [attr.data-drawn]="drawn()"></canvas>
      @if (box(); as b) {
        <svg [attr.viewBox]="viewBox(b)" aria-hidden="true">
          @for (set of symbols(); track set.id) {
            <g [class.open]="set.id === state.open() || state.chosen().has(set.id)">
              @if (set.outline) {
                <polygon [attr.points]="set.outline" />
              }
              @if (set.line) {
                <polyline [attr.points]="set.line" />
              }
              @for (member of set.members; track $index) {
                <circle [attr.cx]="member.x" [attr.cy]="member.y" [attr.r]="member.r" [class.planting]="set.planting" />
              }
              <path [attr.d]="set.marks" />
            </g>
          }
          @for (one of lands(); track one.id) {
            <g [class.open]="one.id === land.open()">
              @if (one.kind === 'path') {
                <polyline class="path" [attr.points]="one.points" [style.stroke-width]="one.widthM" />
              } @else {
                <polygon [class]="one.kind" [attr.points]="one.points" />
              }
            </g>
          }
          @if (clicked(); as points) {
            <polyline class="now" [attr.points]="points" />
          }
          @if (boxed(); as r) {
            <rect class="now" [attr.x]="r.x" [attr.y]="r.y" [attr.width]="r.width" [attr.height]="r.height" />
          }
          <path class="eye" [attr.d]="eye()" />
        </svg>
        <span class="scale mono" [style.width.%]="(bar(b) / b.widthM) * 100">{{ bar(b) }} m</span>
      } @else {
        <p class="quiet">{{ hasModels() ? 'The plan is being drawn …' : 'There is nothing to draw yet: link a model first.' }}</p>
      }
    </div>
  `,
  styles: `
    .plan {
      position: relative;
      margin: 0 14px;
      border: 1px solid var(--rule);
      aspect-ratio: 468 / 270;
      overflow: hidden;
      background: var(--paper-raised);
      cursor: grab;
      touch-action: none;
    }
    .plan.sets {
      cursor: crosshair;
    }
    canvas,
    svg {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
    }
    polygon,
    polyline,
    circle,
    rect,
    path {
      fill: none;
      stroke: #4b6b3a;
      stroke-width: 1px;
      vector-effect: non-scaling-stroke;
    }
    polygon {
      fill: #6f8a4a22;
      stroke-dasharray: 5 3;
    }
    circle.planting {
      fill: #6f8a4a33;
    }
    circle:not(.planting) {
      stroke: var(--ink);
    }
    polyline.path {
      vector-effect: none;
      stroke: #b9a98644;
      stroke-linejoin: round;
    }
    polygon.water {
      fill: #4f7f8c22;
      stroke: #4f7f8c;
      stroke-dasharray: none;
    }
    polygon.terrain {
      fill: none;
    }
    .open * {
      stroke: var(--now, #b8492a);
      stroke-width: 1.6px;
    }
    .now {
      stroke: var(--now, #b8492a);
      stroke-width: 2px;
    }
    .eye {
      stroke: var(--in-step);
      stroke-width: 1.6px;
    }
    .scale {
      position: absolute;
      left: 8px;
      bottom: 5px;
      border-bottom: 2px solid var(--ink);
      font-size: 0.6875rem;
      line-height: 1.2;
      pointer-events: none;
    }
    p {
      padding: 12px;
    }
  `,
})
export class PlantingPlan {
  protected readonly state = inject(SettingState);
  protected readonly land = inject(LandState);
  private readonly picture = inject(PictureState);
  private readonly drawing = viewChild.required<ElementRef<HTMLCanvasElement>>('drawing');
  protected readonly columns = COLUMNS;
  protected readonly rows = ROWS;
  protected readonly box = signal<PlanBox | undefined>(undefined);
  /** How often it has been drawn. */
  protected readonly drawn = signal(0);
  private readonly sources = toSignal(inject(SceneState).sources$, { initialValue: [] });
  protected readonly hasModels = computed(() => this.sources().length > 0);
  private readonly camera = toSignal(this.picture.camera$, { requireSync: true });
  protected readonly isTaking = computed(
    () => this.state.setting() !== undefined || this.state.acting() !== undefined || this.land.isTaking(),
  );
  private readonly isBrushing = computed(() => this.land.brushes() || this.state.brushes());
  /** Who takes what is clicked and typed here. */
  private get taker(): { stop(): void; unclick(): void; finish(): Promise<void> } {
    return this.land.isTaking() ? this.land : this.state;
  }
  private again: ReturnType<typeof setTimeout> | undefined;
  /** What the last drawing was of, as a sum. */
  private seen = -1;
  /** What is dragged: the plan, or a brush over places of it. */
  private dragged:
    { x: number; y: number; box: PlanBox; moved: boolean; brushed?: [number, number][]; boxed?: [number, number] } | undefined;

  protected readonly lands = computed(() =>
    this.land.lands().map(({ id, land }) => {
      if (land.kind === 'path') return { id, kind: land.kind, points: pointsOf(rounded(land.points)), widthM: land.widthM };
      if (land.kind === 'water') return { id, kind: land.kind, points: pointsOf(land.outline), widthM: 0 };
      const { x, y, cellM, columns, rows } = land.grid;
      const [x1, y1] = [x + (columns - 1) * cellM, y + (rows - 1) * cellM];
      return { id, kind: land.kind, points: pointsOf([[x, y], [x1, y], [x1, y1], [x, y1]]), widthM: 0 }; // prettier-ignore
    }),
  );
  protected readonly symbols = computed(() =>
    this.state.sets().map(({ id, thing, members }) => {
      const { pattern } = thing;
      // What closes the horizon is not drawn.
      const shown = members.filter(({ kind }) => kind.group !== 'surround').map(({ position, form }) => ({ x: round(position[0]), y: round(-position[1]), r: round(Math.max(0.25, (form.acrossM / 2) * thing.size)) })); // prettier-ignore
      return {
        id,
        planting: thing.layer === 'Planting',
        members: shown,
        // A cross where each stands.
        marks: shown.map(({ x, y, r }) => `M${String(x - r * 0.2)} ${String(y)}h${String(r * 0.4)}M${String(x)} ${String(y - r * 0.2)}v${String(r * 0.4)}`).join(''), // prettier-ignore
        outline: pattern.kind === 'area' ? pointsOf(pattern.outline) : undefined,
        line: pattern.kind === 'row' ? pointsOf(pattern.points) : undefined,
      };
    }),
  );
  /** The box that chooses what lies in it. */
  protected readonly boxed = signal<{ x: number; y: number; width: number; height: number } | undefined>(undefined);
  /** Where a brush goes just now. */
  private readonly brushed = signal<readonly [number, number][]>([]);
  protected readonly clicked = computed(() => {
    const points = this.brushed().length > 0 ? this.brushed() : this.land.drawing() ? this.land.clicked() : this.state.clicked();
    return points.length > 0 ? pointsOf(points.length === 1 ? [points[0]!, [points[0]![0] + 0.3, points[0]![1]]] : points) : undefined;
  });
  /** Where the eye is, and where it looks. */
  protected readonly eye = computed(() => {
    const { position, target } = this.camera();
    const size = (this.box()?.widthM ?? 50) * 0.035;
    const turn = Math.atan2(target[1] - position[1], target[0] - position[0]);
    const at = (angle: number, r: number) => `${String(round(position[0] + Math.cos(turn + angle) * r))} ${String(round(-position[1] - Math.sin(turn + angle) * r))}`; // prettier-ignore
    return `M${at(0.5, size)}L${at(0, 0)}L${at(-0.5, size)}`;
  });

  constructor() {
    inject(SceneState)
      .sources$.pipe(
        map((sources) => sources.filter(({ id }) => id !== SETTING).map(({ model }) => model.elements)),
        filter((models) => models.length > 0),
        distinctUntilChanged((a, b) => a.length === b.length && a.every((elements, i) => elements === b[i])),
        debounceTime(400),
        takeUntilDestroyed(),
      )
      .subscribe(() => {
        void this.draw();
      });
    effect(() => {
      if (this.box()) void this.draw();
    });
    inject(DestroyRef).onDestroy(() => {
      clearTimeout(this.again);
    });
  }

  protected viewBox({ x, y, widthM, heightM }: PlanBox): string {
    return `${String(x)} ${String(-y - heightM)} ${String(widthM)} ${String(heightM)}`;
  }

  /** Length of the scale bar: a round number of metres, about a quarter of the plan. */
  protected bar({ widthM }: PlanBox): number {
    const power = 10 ** Math.floor(Math.log10(widthM / 4));
    return [5, 2, 1].map((step) => step * power).find((length) => length <= widthM / 4) ?? power;
  }

  protected down(event: PointerEvent): void {
    const box = this.box();
    if (!box) return;
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    this.dragged = {
      x: event.clientX,
      y: event.clientY,
      box,
      moved: false,
      ...(event.shiftKey && !this.isTaking() && { boxed: this.placeAt(event, box) }),
      ...(this.isBrushing() && { brushed: [this.placeAt(event, box)] }),
    };
  }

  protected move(event: PointerEvent): void {
    const { dragged } = this;
    if (!dragged || event.buttons !== 1) return;
    const { width } = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const [dx, dy] = [event.clientX - dragged.x, event.clientY - dragged.y];
    if (Math.hypot(dx, dy) < 4 && !dragged.moved) return;
    dragged.moved = true;
    if (dragged.boxed) {
      const [[x, y], [tx, ty]] = [dragged.boxed, this.placeAt(event, dragged.box)];
      this.boxed.set({ x: Math.min(x, tx), y: -Math.max(y, ty), width: Math.abs(tx - x), height: Math.abs(ty - y) });
      return;
    }
    if (dragged.brushed) {
      dragged.brushed.push(this.placeAt(event, dragged.box));
      this.brushed.set([...dragged.brushed]);
      return;
    }
    const metres = dragged.box.widthM / width;
    this.box.set({ ...dragged.box, x: dragged.box.x - dx * metres, y: dragged.box.y + dy * metres });
  }

  protected up(event: PointerEvent): void {
    const { dragged } = this;
    this.dragged = undefined;
    this.brushed.set([]);
    if (!dragged) return;
    if (dragged.brushed) {
      if (this.land.brushes()) void this.land.stroke(dragged.brushed);
      else void this.state.brushAlong(dragged.brushed);
      return;
    }
    if (dragged.moved && !dragged.boxed) return;
    if (dragged.boxed) {
      const place = this.placeAt(event, dragged.box);
      if (dragged.moved) this.state.chooseBox(dragged.boxed, place);
      else this.chooseNearest(place);
      this.boxed.set(undefined);
      return;
    }
    const place = this.placeAt(event, dragged.box);
    if (this.land.isTaking()) this.land.click(place);
    else if (this.isTaking()) this.state.click(place);
    else this.pick(place);
  }

  protected wheel(event: WheelEvent): void {
    event.preventDefault();
    const box = this.box();
    if (box) this.zoom(event.deltaY > 0 ? 1.25 : 0.8, this.placeAt(event, box));
  }

  protected key(event: KeyboardEvent): void {
    const zoom = { '+': 0.8, '=': 0.8, '-': 1.25 }[event.key];
    if (zoom) this.zoom(zoom);
    else if (event.key === 'Escape') this.taker.stop();
    else if (event.key === 'Backspace') this.taker.unclick();
    else if (event.key === 'Enter') void this.taker.finish();
    else return;
    event.preventDefault();
  }

  /** Opens what stands nearest to a place. */
  private pick(place: readonly [number, number]): void {
    this.state.show(this.nearest(place));
  }

  private chooseNearest(place: readonly [number, number]): void {
    const id = this.nearest(place);
    if (id !== undefined) this.state.chooseAlso(id);
  }

  private nearest([x, y]: readonly [number, number]): string | undefined {
    const reach = (this.box()?.widthM ?? 50) * 0.03;
    let nearest: { id: string; away: number } | undefined;
    for (const { id, members } of this.state.sets())
      for (const { position } of members) {
        const away = Math.hypot(position[0] - x, position[1] - y);
        if (away < Math.min(reach, nearest?.away ?? Infinity)) nearest = { id, away };
      }
    return nearest?.id;
  }

  private zoom(by: number, about?: readonly [number, number]): void {
    const box = this.box();
    if (!box) return;
    const widthM = Math.min(2000, Math.max(4, box.widthM * by));
    const share = widthM / box.widthM;
    const [x, y] = about ?? [box.x + box.widthM / 2, box.y + box.heightM / 2];
    this.box.set({ x: x - (x - box.x) * share, y: y - (y - box.y) * share, widthM, heightM: widthM / SHAPE });
  }

  private placeAt(event: MouseEvent, { x, y, widthM, heightM }: PlanBox): [number, number] {
    const frame = this.drawing().nativeElement.getBoundingClientRect();
    return [x + ((event.clientX - frame.left) / frame.width) * widthM, y + (1 - (event.clientY - frame.top) / frame.height) * heightM];
  }

  private async draw(): Promise<void> {
    const box = this.box() ?? (await this.find());
    if (!this.box()) {
      this.box.set(box);
      if (!box) this.drawAgain();
      return;
    }
    if (!box) return;
    const survey = await this.state.survey(gridOf(box, COLUMNS, ROWS), SKY_M);
    // Moved on meanwhile: that is drawn next.
    if (this.box() !== box) return;
    const image = new ImageData(drawPlan(survey, FAMILIES, COLUMNS), COLUMNS, ROWS);
    this.drawing().nativeElement.getContext('2d')!.putImageData(image, 0, 0);
    this.drawn.update((times) => times + 1);
    // A model whose shapes are still on their way is drawn until no more come.
    const seen = survey.family.reduce((sum, family) => sum + family, 0);
    if (seen !== this.seen) this.drawAgain();
    this.seen = seen;
  }

  private drawAgain(): void {
    clearTimeout(this.again);
    this.again = setTimeout(() => void this.draw(), AGAIN_MS);
  }

  /** Where something is built, about where one looks. */
  private async find(): Promise<PlanBox | undefined> {
    const [x, y] = this.camera().target;
    const places = gridOf(shaped(x, y, LOOK * LOOK_M, 1), LOOK, LOOK);
    return builtBox(places, await this.state.survey(places, SKY_M), FAMILIES, MARGIN_M, SHAPE);
  }
}

const round = (value: number): number => Math.round(value * 100) / 100;
const pointsOf = (points: readonly (readonly [number, number])[]): string => points.map(([x, y]) => `${String(x)},${String(-y)}`).join(' ');
