import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { horizontalFovRad, sharpFrom } from '../../../core/camera/camera';
import { length, subtract } from '../../../core/geometry/vec3';
import { parallelView, PARALLEL_VIEWS, widthSeenM, type ParallelView } from '../../../core/camera/parallel-views';
import type { Camera } from '../../../core/model/schema';
import { GRIDS, PictureState, type Grid, type Pointed } from '../state/picture-state';

const STOPS = [1.4, 2, 2.8, 4, 5.6, 8, 11, 16, 22];
const SHAPES: readonly (readonly [number, number])[] = [[16, 9], [3, 2], [4, 3], [5, 4], [1, 1], [4, 5], [2, 3], [9, 16], [21, 9], [2, 1]]; // prettier-ignore
const PARALLEL_WORDS: Readonly<Record<ParallelView, string>> = { plan: 'plan', south: 'elevation, as from −y', north: 'elevation, as from +y', west: 'elevation, as from −x', east: 'elevation, as from +x', axonometric: 'axonometric' }; // prettier-ignore
/** Wider than this, what is near the edges is drawn out; common practice. */
const WIDE_MM = 20;
const HIGH_EYE_M = 2.2;

/** How what is seen is framed: lens, eye height, verticals, projection, depth of field, shape and size of the picture. */
@Component({
  selector: 'dp-view-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="field" data-testid="view-card">
      <label for="focal">Focal length</label>
      <span>
        <input id="focal" class="mono" type="number" min="10" max="200" step="1" data-testid="focal" [value]="lensMm()" [disabled]="isParallel()" (change)="setFocal($event)" /> mm
        <span class="quiet ms-2">{{ isParallel() ? '' : angle() + '° across' }}</span>
      </span>
      @if (!isParallel()) {
        <label for="eye-height">Eye, height</label>
        <span><input id="eye-height" class="mono" type="number" step="0.05" data-testid="eye-height" [value]="camera().position[2].toFixed(2)" (change)="lift($event)" /> m</span>
      }
      <label for="view-projection">Drawn</label>
      <select id="view-projection" class="form-select form-select-sm" data-testid="view-projection" (change)="project(text($event))">
        <option value="perspective" [selected]="!isParallel()">in perspective</option>
        <option value="parallel" [selected]="isParallel()">in parallel, as it is seen</option>
        @for (view of parallels; track view) {
          <option [value]="view">{{ words[view] }}</option>
        }
      </select>
      @if (isParallel()) {
        <label for="view-across">Shows</label>
        <span><input id="view-across" class="mono" type="number" min="0.1" step="1" data-testid="view-across" [value]="camera().parallelM!.toFixed(2)" (change)="widen($event)" /> m across</span>
      } @else {
        <span>Verticals</span>
        <label class="form-check mb-0"><input class="form-check-input" type="checkbox" data-testid="upright" [checked]="camera().upright ?? false" (change)="upright()" /> upright, by shifting the lens</label>
        <label for="aperture">Sharp</label>
        <span>
          <select id="aperture" class="form-select form-select-sm w-auto d-inline-block" data-testid="aperture" (change)="open(+text($event))">
            <option value="0" [selected]="!camera().aperture">everywhere</option>
            @for (stop of stops; track stop) {
              <option [value]="stop" [selected]="camera().aperture?.fNumber === stop">f/{{ stop }}</option>
            }
          </select>
          @if (camera().aperture; as lens) {
            at <input class="mono" type="number" min="0.1" step="0.1" aria-label="Distance that is sharp, metres" data-testid="focus" placeholder="auto" [value]="lens.focusM ?? ''" (change)="focus($event)" /> m
            <button type="button" class="link ms-1" data-testid="focus-pick" [attr.aria-pressed]="picks()" (click)="pick()">by a click</button>
          }
        </span>
        @if (sharp(); as words) {
          <span></span>
          <span class="quiet" data-testid="sharp-range">{{ words }}</span>
        }
      }
      <label for="view-near">Leaves out</label>
      <span>what is nearer than <input id="view-near" class="mono" type="number" min="0" step="0.1" placeholder="nothing" data-testid="view-near" [value]="camera().nearM ?? ''" (change)="clip($event)" /> m</span>
      <label for="view-shape">Picture</label>
      <span class="together">
        <select id="view-shape" class="form-select form-select-sm w-auto d-inline-block" data-testid="view-shape" (change)="shape(text($event))">
          @for (one of shapes; track one[0] + ':' + one[1]) {
            <option [value]="one[0] + ':' + one[1]" [selected]="isShape(one)">{{ one[0] }} : {{ one[1] }}</option>
          }
        </select>
        <input class="mono" type="number" min="16" max="8192" step="1" aria-label="Width of the picture, pixels" data-testid="view-width" [value]="size().width" (change)="resize($event)" />
        × {{ size().height }} px
      </span>
      <label for="view-grid">Grid</label>
      <select id="view-grid" class="form-select form-select-sm w-auto" data-testid="view-grid" (change)="state.grid$.next($any(text($event)))">
        @for (one of grids; track one) {
          <option [value]="one" [selected]="one === grid()">{{ one }}</option>
        }
      </select>
    </div>
    @for (warning of warnings(); track warning) {
      <p class="warning mb-1" data-testid="lens-warning">{{ warning }}</p>
    }
  `,
  styleUrl: './station.scss',
  styles: `
    input[type='number'] {
      width: 66px;
    }
    .together {
      display: flex;
      align-items: center;
      gap: 6px;
      white-space: nowrap;
    }
    .warning {
      color: var(--warning, #855a00);
      font-size: 0.8125rem;
    }
  `,
}) // prettier-ignore
export class ViewCard {
  protected readonly state = inject(PictureState);
  protected readonly camera = toSignal(this.state.camera$, { requireSync: true });
  protected readonly size = toSignal(this.state.frame$, { requireSync: true });
  protected readonly grid = toSignal(this.state.grid$, { requireSync: true });
  protected readonly stops = STOPS;
  protected readonly shapes = SHAPES;
  protected readonly parallels = PARALLEL_VIEWS;
  protected readonly words = PARALLEL_WORDS;
  protected readonly grids: readonly Grid[] = GRIDS;
  protected readonly picks = signal(false);
  /** To a tenth: on a walk it is anything. */
  protected readonly lensMm = computed(() => Math.round(this.camera().focalMm * 10) / 10);
  protected readonly isParallel = computed(() => this.camera().parallelM !== undefined);
  protected readonly angle = computed(() => ((horizontalFovRad(this.camera().focalMm) * 180) / Math.PI).toFixed(0));
  protected readonly sharp = computed(() => {
    const { focalMm, aperture } = this.camera();
    if (!aperture) return '';
    const { nearM, farM } = sharpFrom(focalMm, aperture.fNumber, aperture.focusM ?? this.distance());
    return `sharp from ${nearM.toFixed(1)} m ${Number.isFinite(farM) ? `to ${farM.toFixed(1)} m` : 'on'}`;
  });
  protected readonly warnings = computed(() => {
    const { focalMm, parallelM, position, target } = this.camera();
    if (parallelM !== undefined) return [];
    const isLevel = Math.abs(target[2] - position[2]) < 0.35 * Math.hypot(target[0] - position[0], target[1] - position[1]);
    return [
      ...(focalMm < WIDE_MM ? [`Under ${String(WIDE_MM)} mm rooms look larger than they are, and what is near the edges is drawn out.`] : []),
      ...(position[2] > HIGH_EYE_M && position[2] < 6 && isLevel ? [`From ${position[2].toFixed(1)} m nobody stands there: what is seen over would be hidden from eye height.`] : []),
    ]; // prettier-ignore
  });
  private readonly taker = ({ point }: Pointed) => {
    const { aperture, position } = this.camera();
    this.stopPicking();
    if (aperture) this.set({ aperture: { fNumber: aperture.fNumber, focusM: Math.round(this.ahead(point, position) * 100) / 100 } });
  };

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.stopPicking();
    });
  }

  /** How far a place lies ahead, along the way that the camera looks. */
  private ahead(point: readonly [number, number, number], position: readonly [number, number, number]): number {
    const way = subtract(this.camera().target, position);
    const to = subtract(point, position);
    return Math.max(0.1, (way[0] * to[0] + way[1] * to[1] + way[2] * to[2]) / (length(way) || 1));
  }

  private distance(): number {
    const { position, target } = this.camera();
    return length(subtract(target, position));
  }

  protected set(change: Partial<Camera>): void {
    this.go({ ...this.camera(), ...change });
  }

  private go(camera: Camera): void {
    const name = this.state.viewName$.value;
    this.state.goTo$.next({ camera, passing: true, ...(name !== undefined && { name }) });
  }

  protected setFocal(event: Event): void {
    const focalMm = typedIn(event, 10, 200);
    if (focalMm !== undefined) this.set({ focalMm });
  }

  protected widen(event: Event): void {
    const parallelM = typedIn(event, 0.1, 100_000);
    if (parallelM !== undefined) this.set({ parallelM });
  }

  protected lift(event: Event): void {
    const z = typedIn(event, -1000, 10_000);
    if (z === undefined) return;
    const { position, target } = this.camera();
    this.set({ position: [position[0], position[1], z], target: [target[0], target[1], target[2] + z - position[2]] });
  }

  protected project(kind: string): void {
    const camera = { ...this.camera() };
    delete camera.parallelM;
    if (kind === 'perspective') this.go(camera);
    else if (kind === 'parallel') this.go({ ...camera, parallelM: widthSeenM(this.camera()) });
    else this.go(parallelView(this.camera(), kind as ParallelView));
  }

  protected upright(): void {
    const { upright, ...camera } = this.camera();
    this.go(upright ? camera : { ...camera, upright: true });
  }

  protected clip(event: Event): void {
    const nearM = Number((event.target as HTMLInputElement).value);
    const camera = { ...this.camera() };
    delete camera.nearM;
    this.go(nearM >= 0.01 && nearM <= 10_000 ? { ...camera, nearM } : camera);
  }

  protected open(fNumber: number): void {
    const { aperture, ...camera } = this.camera();
    this.go(fNumber > 0 ? { ...camera, aperture: { ...aperture, fNumber } } : camera);
  }

  protected focus(event: Event): void {
    const focusM = Number((event.target as HTMLInputElement).value);
    const { aperture } = this.camera();
    if (aperture) this.set({ aperture: { fNumber: aperture.fNumber, ...(focusM >= 0.1 && focusM <= 10_000 && { focusM }) } });
  }

  protected pick(): void {
    if (this.picks()) {
      this.stopPicking();
      return;
    }
    this.picks.set(true);
    this.state.pointTaker$.next(this.taker);
  }

  private stopPicking(): void {
    this.picks.set(false);
    if (this.state.pointTaker$.value === this.taker) this.state.pointTaker$.next(undefined);
  }

  protected isShape([w, h]: readonly [number, number]): boolean {
    const { width, height } = this.size();
    return Math.abs(width / height / (w / h) - 1) < 0.005;
  }

  protected shape(words: string): void {
    const [w, h] = words.split(':').map(Number) as [number, number];
    this.state.frame$.next({ width: this.size().width, height: Math.round((this.size().width * h) / w) });
  }

  protected resize(event: Event): void {
    const { width: was, height } = this.size();
    const width = typedIn(event, 16, 8192);
    if (width !== undefined) this.state.frame$.next({ width: Math.round(width), height: Math.round((width * height) / was) });
  }

  protected text(event: Event): string {
    return (event.target as HTMLSelectElement).value;
  }
}

/** A number that was typed; undefined: it is none, or beyond the bounds, and what was there stands again. */
function typedIn(event: Event, least: number, most: number): number | undefined {
  const input = event.target as HTMLInputElement;
  const value = Number(input.value);
  if (input.value.trim() !== '' && value >= least && value <= most) return value;
  input.value = input.defaultValue;
  return undefined;
}
