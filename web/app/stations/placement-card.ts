import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, input, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { Vec3 } from '../../../core/geometry/vec3';
import { AS_IT_COMES, matchedPlacement, placementByBase, type Placement } from '../../../core/project/placement';
import { entry } from '../../../core/project/project';
import { Live } from '../state/live';
import { PictureState, type Pointed } from '../state/picture-state';

const STEPS = [
  'Pick a point of this source in the picture.',
  'Pick the point where it belongs.',
  'Pick a second point of this source to turn it as well, or finish.',
  'Pick the point where the second one belongs.',
];

const AXES: readonly { up: Placement['up']; words: string }[] = [
  { up: 'z', words: 'z, as it comes' },
  { up: 'y', words: 'y: it lies on its back' },
  { up: '-y', words: '−y: it lies on its front' },
  { up: 'x', words: 'x: it lies on its left side' },
  { up: '-x', words: '−x: it lies on its right side' },
];

/** Where one source stands in the project. */
@Component({
  selector: 'dp-placement-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { class: 'card-in-row' },
  template: `
    <form class="fields" data-testid="placement" (change)="set(x.value, y.value, z.value, turn.value, scale.value, up.value)">
      <label for="place-x">Position, m</label>
      <span class="three">
        <input
          #x
          id="place-x"
          class="form-control form-control-sm mono"
          type="number"
          step="any"
          aria-label="x, metres"
          [value]="shown().position[0]"
        />
        <input #y class="form-control form-control-sm mono" type="number" step="any" aria-label="y, metres" [value]="shown().position[1]" />
        <input #z class="form-control form-control-sm mono" type="number" step="any" aria-label="z, metres" [value]="shown().position[2]" />
      </span>
      <label for="place-turn">Turn, degrees</label>
      <input #turn id="place-turn" class="form-control form-control-sm mono" type="number" step="any" [value]="shown().turnDeg" />
      <label for="place-scale">Scale</label>
      <input #scale id="place-scale" class="form-control form-control-sm mono" type="number" step="any" min="0" [value]="shown().scale" />
      <label for="place-up">Upwards is</label>
      <select #up id="place-up" class="form-select form-select-sm">
        @for (axis of axes; track axis.up) {
          <option [value]="axis.up" [selected]="axis.up === shown().up">{{ axis.words }}</option>
        }
      </select>
    </form>
    @if (fault()) {
      <p class="fault mb-0" role="alert">{{ fault() }}</p>
    }
    @if (step() !== undefined) {
      <p class="mb-0 mt-1" role="status">{{ words() }}</p>
    }
    <div class="actions">
      @if (step() === undefined) {
        <button type="button" class="link" (click)="startMatching()">Match points</button>
      } @else {
        <button type="button" class="link" (click)="finishMatching()">{{ step()! < 2 ? 'Cancel' : 'Finish' }}</button>
      }
      @if (byBase(); as placement) {
        <button type="button" class="link" (click)="place(placement)">By base points</button>
      }
      @if (placement()) {
        <button type="button" class="link" (click)="place(null)">As it comes</button>
      }
    </div>
  `,
  styleUrl: './station.scss',
  styles: `
    .fields {
      display: grid;
      grid-template-columns: 104px minmax(0, 1fr);
      align-items: center;
      gap: 4px 8px;
    }
    .three {
      display: grid;
      grid-template-columns: repeat(3, minmax(0, 1fr));
      gap: 4px;
    }
  `,
})
export class PlacementCard {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  readonly source = input.required<string>();
  readonly name = input.required<string>();
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  private readonly models = toSignal(this.live.models$, { requireSync: true });
  protected readonly placement = computed(() => entry(this.entries(), `placement/${this.source()}`));
  protected readonly shown = computed(() => this.placement() ?? AS_IT_COMES);
  protected readonly fault = signal('');
  /** Which point is to be picked; undefined: none. */
  protected readonly step = signal<number | undefined>(undefined);
  protected readonly words = computed(() => STEPS[this.step() ?? 0]);
  protected readonly axes = AXES;
  private points: Vec3[] = [];

  /** By the first other source whose file says where its origin lies. */
  protected readonly byBase = computed((): Placement | undefined => {
    const own = this.models().get(this.source())?.basePoint;
    const other = [...this.models()].find(([id, model]) => id !== this.source() && model.basePoint)?.[1].basePoint;
    return own && other && placementByBase(own, other);
  });

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.stopTaking();
    });
  }

  protected set(...[x, y, z, turn, scale, up]: [string, string, string, string, string, string]): void {
    const [px, py, pz, turnDeg, factor] = [x, y, z, turn, scale].map(Number) as [number, number, number, number, number];
    const numbers = [x, y, z, turn, scale].every((text) => text.trim() !== '' && Math.abs(Number(text)) <= 1e7);
    if (!numbers || !(factor >= 1e-6 && factor <= 1e6)) {
      this.fault.set('Position, turn and scale are numbers, and the scale is larger than nothing.');
      return;
    }
    this.place({ position: [px, py, pz], turnDeg, scale: factor, up: up as Placement['up'] });
  }

  protected place(placement: Placement | null): void {
    this.fault.set('');
    this.live.run({ type: 'place-source', sources: [this.source()], placement, name: this.name().slice(0, 200) });
  }

  protected startMatching(): void {
    this.points = [];
    this.fault.set('');
    this.step.set(0);
    this.picture.pointTaker$.next(this.take);
  }

  protected finishMatching(): void {
    if (this.points.length >= 2) this.match();
    this.stopTaking();
  }

  private stopTaking(): void {
    this.step.set(undefined);
    if (this.picture.pointTaker$.value === this.take) this.picture.pointTaker$.next(undefined);
  }

  private readonly take = ({ source, point }: Pointed): void => {
    if (this.step()! % 2 === 0 && source !== this.source()) {
      this.fault.set(`That point is not of ${this.name()}.`);
      return;
    }
    this.fault.set('');
    this.points.push(point);
    if (this.points.length === 4) this.finishMatching();
    else this.step.set(this.points.length);
  };

  private match(): void {
    const [a, b, c, d] = this.points;
    this.place(matchedPlacement(this.shown(), c && d ? [a!, c] : [a!], c && d ? [b!, d] : [b!]));
  }
}
