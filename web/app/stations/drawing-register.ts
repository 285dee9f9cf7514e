import { ChangeDetectionStrategy, Component, computed, inject, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { conditionsOf } from '../../../core/project/conditions';
import type { PrintSummary } from '../../../core/project/live';
import { STYLES } from '../../../core/project/style';
import { DEFAULT_PATTERN, fileNames, NAME_PARTS, unknownParts } from '../../../core/render/naming';
import type { PrintRequest } from '../../../core/render/print';
import { planAround } from '../../../core/tour/tour';
import { Live } from '../state/live';
import { PrintOrders } from '../state/print-orders';
import { durationWords, PrintSettings, sizeWords } from '../state/print-settings';
import { SceneState } from '../state/scene-state';
import { cameraOf, viewsOf, type ViewRow } from '../state/views';
import { PrintSettingsForm } from './print-settings-form';

/** A state across: a kept condition, or what is shown now, with one of the options. */
interface Column {
  key: string;
  condition: string | undefined;
  conditionName: string | undefined;
  option: { source: string; option: string } | undefined;
  optionName: string | undefined;
}

const MARKS: Partial<Record<PrintSummary['state'], string>> = { waiting: '○', rendering: '◐', paused: '‖', finished: '●', failed: '!' };

/** The drawing register: views down, conditions and options across, a tick where a picture is wanted. */
@Component({
  selector: 'dp-drawing-register',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [PrintSettingsForm],
  templateUrl: './drawing-register.html',
  styleUrls: ['./station.scss', './drawing-register.scss'],
})
export class DrawingRegister {
  private readonly live = inject(Live);
  protected readonly settings = inject(PrintSettings);
  protected readonly orders = inject(PrintOrders);
  readonly ordered = output();
  /** Each view is printed all round, and they are linked to a tour. */
  protected readonly tour = signal(false);
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  private readonly sources = toSignal(inject(SceneState).sources$, { initialValue: [] });
  private readonly now = toSignal(this.live.prints$, { requireSync: true });
  private readonly project = toSignal(this.live.project$);
  protected readonly views = computed(() => viewsOf(this.sources(), this.entries()));
  protected readonly columns = computed((): Column[] => {
    const states = [{ id: undefined, name: undefined }, ...conditionsOf(this.entries())];
    const choices = this.sources().flatMap(({ id, model }) =>
      model.presentation.options.length > 1 ? model.presentation.options.map((option) => ({ source: id, option: option.id, name: option.name })) : [],
    );
    return states.flatMap(({ id, name }) =>
      (choices.length > 0 ? choices : [undefined]).map((choice) => ({
        key: [id ?? '', choice?.source ?? '', choice?.option ?? ''].join('|'),
        condition: id,
        conditionName: name,
        option: choice && { source: choice.source, option: choice.option },
        optionName: choice?.name,
      })),
    );
  }); // prettier-ignore
  /** Conditions over their columns. */
  protected readonly groups = computed(() => {
    const groups: { name: string; columns: Column[] }[] = [];
    for (const column of this.columns()) {
      const name = column.conditionName ?? 'As shown';
      if (groups.at(-1)?.name === name) groups.at(-1)!.columns.push(column);
      else groups.push({ name, columns: [column] });
    }
    return groups;
  });
  protected readonly ticked = signal<ReadonlySet<string>>(new Set());
  /** Styles that each picture is printed in; the empty one: as the view has it, or as is shown now. */
  protected readonly styles = signal<readonly string[]>(['']);
  protected readonly styleNames = ['', ...Object.keys(STYLES)];
  protected readonly name = signal('For the client');
  protected readonly pattern = signal(DEFAULT_PATTERN);
  protected readonly unknown = computed(() => unknownParts(this.pattern()));
  protected readonly parts = NAME_PARTS.map((part) => `{${part}}`).join(' ');
  private readonly wanted = computed(() =>
    this.views().flatMap((view) =>
      this.columns()
        .filter((column) => this.ticked().has(cellKey(view, column)))
        .flatMap((column) => this.styles().map((style) => ({ view, column, style }))),
    ),
  ); // prettier-ignore
  protected readonly names = computed(() =>
    fileNames(
      this.pattern(),
      this.wanted().map(({ view, column, style }, i) => ({
        style,
        number: String(i + 1).padStart(2, '0'), view: view.name, condition: column.conditionName ?? '', option: column.optionName ?? '',
        project: this.project()?.name ?? '', date: new Date().toISOString().slice(0, 10), width: String(this.settings.width()), height: String(this.settings.height()),
      })),
    ),
  ); // prettier-ignore
  protected readonly about = computed(() => {
    const { width, height } = this.settings.sizeFor(this.tour() ? 'equirectangular' : 'perspective', false);
    const { seconds, bytes } = this.settings.estimate(this.wanted().length, width, height);
    return { time: durationWords(seconds), size: sizeWords(bytes) };
  });
  private readonly states = computed(() => {
    const known = new Map<string, PrintSummary['state']>();
    // The last one first.
    for (const print of this.now().prints) {
      const key = [print.name, print.condition ?? '', print.option ?? ''].join('|');
      if (print.delivery && !known.has(key)) known.set(key, print.state);
    }
    return known;
  });

  protected text(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }

  protected isTicked(view: ViewRow, column: Column): boolean {
    return this.ticked().has(cellKey(view, column));
  }

  protected mark(view: ViewRow, { conditionName, optionName }: Column): string {
    const state = this.states().get([view.name, conditionName ?? '', optionName ?? ''].join('|'));
    return (state && MARKS[state]) ?? '';
  }

  protected label(view: ViewRow, column: Column): string {
    return [view.name, column.conditionName ?? 'as shown', column.optionName].filter(Boolean).join(', ');
  }

  protected tick(views: readonly ViewRow[], columns: readonly Column[]): void {
    const keys = views.flatMap((view) => columns.map((column) => cellKey(view, column)));
    const now = new Set(this.ticked());
    // All of them, or none where all are ticked.
    const all = keys.every((key) => now.has(key));
    for (const key of keys) if (all) now.delete(key); else now.add(key); // prettier-ignore
    this.ticked.set(now);
  }

  protected async order(): Promise<void> {
    const names = this.names();
    const orders = this.wanted().map(({ view, column, style }, i) => ({ order: this.orderOf(view, column, style), fileName: names[i]! }));
    const name = this.name().trim() || 'Delivery';
    const isDone = this.tour()
      ? await this.orders.deliver(name, withPlan(orders), this.settings.startIso(), true)
      : await this.orders.deliver(name, orders, this.settings.startIso());
    if (!isDone) return;
    this.ticked.set(new Set());
    this.ordered.emit();
  }

  protected chooseStyle(name: string): void {
    const now = this.styles();
    const next = this.styleNames.filter((one) => (one === name ? !now.includes(one) : now.includes(one)));
    this.styles.set(next.length > 0 ? next : ['']);
  }

  protected setTour(tour: boolean): void {
    this.tour.set(tour);
    // What goes all round needs more pixels to be as sharp.
    this.settings.width.set(tour ? 4096 : 1920);
    if (tour) this.settings.format.set('jpeg');
  }

  private orderOf(view: ViewRow, { condition, option }: Column, styleName: string): PrintRequest {
    const style = STYLES[styleName] ?? view.style;
    return {
      ...this.settings.request(),
      ...(this.tour() && { ...this.settings.sizeFor('equirectangular', false), channels: [], projection: { kind: 'equirectangular' } }),
      // A view's own picture has its own size.
      ...(!this.tour() && view.frame && { width: view.frame.width, height: view.frame.height }),
      name: view.name,
      camera: cameraOf(view),
      ...(view.sections && { sections: view.sections }),
      ...(style && { style }),
      ...(view.shown && { shown: view.shown }),
      ...(condition !== undefined && { condition }),
      ...(option && { option }),
    };
  }
}

type Wanted = { order: PrintRequest; fileName: string }[];
/** It is looked at small, smaller where the pictures are tries, and denoised: so much noise before that takes few samples. */
const planPixels = (roundWidth: number): number => Math.min(300, Math.max(96, roundWidth >> 3));
const PLAN_NOISE = 0.5;

/** The pictures of a tour with a plan: a look straight down from eye height, which cuts the building there. Each is asked which others it sees. */
function withPlan(orders: Wanted): Wanted {
  const points = new Map(orders.map(({ order }) => [order.name, order.camera]));
  const places = [...points.values()];
  const sights = places.map(({ position }) => position);
  const { minX, maxX, minY, maxY } = planAround(places);
  // Most points' eyes are above the floor there, also where one stands lower.
  const heights = places.map(({ position }) => position[2]).sort((a, b) => a - b);
  const eye = heights[heights.length >> 1]!;
  const middle = [(minX + maxX) / 2, (minY + maxY) / 2] as const;
  const pixels = planPixels(orders[0]!.order.width);
  const plan: PrintRequest = {
    ...orders[0]!.order,
    name: 'Plan', projection: { kind: 'orthographic', widthM: maxX - minX }, width: pixels, height: pixels, quality: 'proof', noise: PLAN_NOISE, denoise: true, channels: [],
    camera: { position: [...middle, eye], target: [...middle, eye - 1], focalMm: 50 },
  }; // prettier-ignore
  return [...orders.map(({ order, fileName }) => ({ fileName, order: { ...order, sights } })), { order: plan, fileName: PLAN_NAME }];
}
const PLAN_NAME = 'plan';

const cellKey = ({ id, kept }: ViewRow, { key }: Column): string => `${kept ? 'kept' : 'model'}/${id}/${key}`;
