import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, input, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { type Finish, PLAIN_VARIATION } from '../../../core/finish/finish';
import {
  faceOverrideAlong,
  faceLayOf,
  overrideAlong,
  turnedFurther,
  withFace,
  withoutWhole,
  type UvOverride,
} from '../../../core/finish/uv-override';
import { variationOf } from '../../../core/finish/variation';
import type { Plane } from '../../../core/geometry/mesh';
import type { FaceEdge } from '../../../core/geometry/face-edge';
import { meanScale } from '../../../core/geometry/mat4';
import { withRules } from '../../../core/finish/rules';
import { assignmentKey, entry, findFinish, overrideKey } from '../../../core/project/project';
import type { ScheduleRow } from '../../../core/project/schedule';
import { replaceEverywhere } from '../../../core/project/schedule-view';
import { Live } from '../state/live';
import { PictureState, type Pointed } from '../state/picture-state';
import { ScheduleState } from '../state/schedule-state';
import { FinishCard } from './finish-card';

export interface PickedElement {
  source: string;
  id: string;
  name: string;
  material: string;
  /** Of the face that was clicked, in the element's own place. */
  plane?: Plane | undefined;
}

/** What an open row of the schedule holds. */
@Component({
  selector: 'dp-row-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FinishCard],
  templateUrl: './row-card.html',
  styleUrls: ['./station.scss', './finishes.scss'],
})
export class RowCard {
  private readonly live = inject(Live);
  protected readonly state = inject(ScheduleState);
  private readonly picture = inject(PictureState);
  readonly row = input.required<ScheduleRow>();
  /** The element that was clicked in the picture. */
  readonly element = input<PickedElement | undefined>();
  /** What is being filled in below. */
  protected readonly asks = signal<'nothing' | 'rule' | 'replacement'>('nothing');
  private readonly highlighted = toSignal(this.picture.highlighted$, { requireSync: true });
  protected readonly current = computed((): Finish | undefined => {
    const { finish } = this.row().choice;
    return finish && findFinish(this.state.entries(), finish.id);
  });
  protected readonly isAssigned = computed(
    () => entry(this.state.entries(), assignmentKey(this.row().source, this.row().material)) !== undefined,
  );
  protected readonly surfacesShown = computed(() => this.highlighted() === this.row().key);
  /** The clicked element, if it is of this row. */
  protected readonly own = computed(() => {
    const element = this.element();
    return element?.source === this.row().source && element.material === this.row().material ? element : undefined;
  });

  /** Whether the next click says which edge the maps run along. */
  protected readonly aligning = signal(false);
  private taker: ((pointed: Pointed) => void) | undefined;

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.stopAligning();
    });
  }

  protected assign(finish: string): void {
    this.state.assign([this.row()], finish);
  }

  protected elementFinish(): string {
    const element = this.element();
    return element ? (entry(this.state.entries(), overrideKey(element.source, element.id))?.finish ?? '') : '';
  }

  protected assignElement(finish: string): void {
    const element = this.element();
    if (element) this.live.run({ type: 'assign-element-finish', source: element.source, element: element.id, finish: finish || null });
  }

  /** Whether what is done to the maps holds for the clicked face alone. */
  protected readonly faceOnly = signal(false);

  private facePlane(): Plane | undefined {
    return this.faceOnly() ? this.own()?.plane : undefined;
  }

  protected isLaid(): boolean {
    const element = this.own();
    const laid = element && this.overrideOn(element);
    const plane = this.facePlane();
    return plane ? faceLayOf(laid, plane) !== undefined : laid !== undefined && !laid.onlyFaces;
  }

  protected layAsFinish(): void {
    const element = this.own();
    if (!element) return;
    const plane = this.facePlane();
    this.lay(plane ? withFace(this.overrideOn(element), plane, undefined) : withoutWhole(this.overrideOn(element)));
  }

  private overrideOn({ source, id }: PickedElement): UvOverride | undefined {
    return entry(this.state.entries(), `laid/${source}/${id}`);
  }

  protected lay(laid: UvOverride | null): void {
    const element = this.own();
    if (element)
      this.live.run({
        type: 'lay-maps',
        source: element.source,
        element: element.id,
        laid,
        name: (element.name || element.id).slice(0, 200),
      });
  }

  protected quarterTurn(): void {
    const element = this.own();
    if (!element) return;
    const laid = this.overrideOn(element);
    const plane = this.facePlane();
    if (!plane) this.lay(turnedFurther(laid, 90));
    else {
      const face = faceLayOf(laid, plane);
      this.lay(withFace(laid, plane, { turnDeg: ((face?.turnDeg ?? 0) + 90) % 360, offsetM: face?.offsetM ?? [0, 0] }));
    }
  }

  /** The next click on the element says which edge its maps run along. */
  protected alignToEdge(): void {
    if (this.taker) this.stopAligning();
    else {
      this.taker = (pointed) => {
        const element = this.own();
        const scale = element && this.live.models$.value.get(element.source)?.elements.get(element.id)?.transform;
        const edge = pointed.element === element?.id && pointed.source === element.source ? pointed.edge?.() : undefined;
        if (edge && scale) this.layAlong(element, edge, meanScale(scale), pointed.plane);
        this.stopAligning();
      };
      this.picture.pointTaker$.next(this.taker);
      this.aligning.set(true);
    }
  }

  private layAlong(element: PickedElement, edge: FaceEdge, scale: number, plane: Plane | undefined): void {
    const laid = this.overrideOn(element);
    if (!this.faceOnly() || !plane) {
      this.lay({ ...overrideAlong(edge, scale), ...(laid?.faces && { faces: laid.faces }) });
      return;
    }
    const finish = findFinish(this.state.entries(), this.elementFinish()) ?? this.current();
    const assigned = (finish && variationOf(finish, element.id, laid)) ?? PLAIN_VARIATION;
    this.lay(withFace(laid, plane, faceOverrideAlong(edge, faceLayOf(laid, plane), assigned, scale)));
  }

  private stopAligning(): void {
    if (this.taker && this.picture.pointTaker$.value === this.taker) this.picture.pointTaker$.next(undefined);
    this.taker = undefined;
    this.aligning.set(false);
  }

  protected showSurfaces(): void {
    this.picture.highlighted$.next(this.surfacesShown() ? undefined : this.row().key);
  }

  protected note(change: { code?: string; note?: string }): void {
    const { source, material, code, note } = this.row();
    const after = { code, note, ...change };
    if (after.code !== code || after.note !== note) this.live.run({ type: 'note-row', source, material, ...after });
  }

  protected ask(what: 'rule' | 'replacement'): void {
    this.asks.update((now) => (now === what ? 'nothing' : what));
  }

  /** The row's finish for all source materials whose names fit, chosen rows apart. */
  protected addRule(pattern: string): void {
    const finish = this.current();
    if (!finish || pattern.trim() === '') return;
    const rules = withRules(entry(this.state.entries(), 'rules') ?? [], [{ pattern: pattern.trim().slice(0, 200), finish: finish.id }]);
    this.live.run({ type: 'set-rules', rules });
    this.asks.set('nothing');
  }

  protected replace(to: string): void {
    const from = this.current();
    const after = findFinish(this.state.entries(), to);
    if (!from || !after) return;
    const command = replaceEverywhere(
      this.state.rows(),
      this.state.entries(),
      from.id,
      to,
      `${from.name} replaced by ${after.name}`.slice(0, 200),
    );
    if (command) this.live.run(command);
    this.asks.set('nothing');
  }
}
