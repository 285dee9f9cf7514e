import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { walkOf, WalkWay } from '../../../core/camera/walk';
import { distance } from '../../../core/geometry/vec3';
import { PictureState } from '../state/picture-state';
import { Icon } from './icon';

const SAMPLES = 240;
const [WIDTH, HEIGHT] = [1000, 40];
/** The scale of paces goes at least this far, m/s. */
const LEAST_PACE = 2;
const KEY_S = 0.2;
const FAULT_WORDS = { wall: 'goes through something', head: 'a head would bump' } as const;

/** While a walk is open: its pace over time, stops as ticks, cuts as lines; dragged or moved by keys, the picture follows. */
@Component({
  selector: 'dp-walk-profile',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    @if (profile(); as p) {
      <section data-testid="walk-profile">
        <div class="what">
          <strong class="text-truncate">{{ p.name }}</strong>
          <span class="mono quiet">{{ p.seconds.toFixed(1) }} s, {{ p.metres.toFixed(1) }} m, at most {{ p.fastest.toFixed(1) }} m/s</span>
          <button type="button" class="plain" aria-label="Back to the day" (click)="close()"><dp-icon name="close" /></button>
        </div>
        <div
          class="band"
          tabindex="0"
          role="slider"
          aria-label="Moment of the walk"
          aria-valuemin="0"
          [attr.aria-valuemax]="p.seconds"
          [attr.aria-valuenow]="at()"
          [attr.aria-valuetext]="at().toFixed(1) + ' seconds'"
          (pointerdown)="drag($event)"
          (pointermove)="$event.buttons === 1 && put($event)"
          (keydown)="key($event)"
        >
          <svg viewBox="0 0 1000 40" preserveAspectRatio="none" aria-hidden="true">
            <path [attr.d]="p.path" />
            @for (cut of p.cuts; track cut) {
              <line class="cut" [attr.x1]="cut" [attr.x2]="cut" y1="0" y2="40" />
            }
          </svg>
          @for (stop of p.stops; track $index) {
            <span class="stop mono" [style.left.%]="stop.left">{{ stop.numbers }}</span>
          }
          @for (fault of faults(); track $index) {
            <span class="warn" [style.left.%]="(fault.at / p.seconds) * 100" [title]="fault.at.toFixed(1) + ' s: ' + words[fault.kind]"
              >!</span
            >
          }
          <span class="head" [style.left.%]="(at() / p.seconds) * 100"></span>
        </div>
        @if (faults().length > 0) {
          <div class="faults" data-testid="walk-faults">{{ said() }}</div>
        }
      </section>
    }
  `,
  styles: `
    section {
      display: grid;
      grid-template-columns: minmax(300px, 392px) 1fr;
      align-items: center;
      gap: 4px 20px;
      padding: 8px 20px 10px 14px;
      border-top: 1px solid var(--rule);
      background: var(--paper);
      min-height: 83px;
      box-sizing: border-box;
    }
    .what {
      display: flex;
      align-items: baseline;
      gap: 10px;
    }
    .what button {
      margin-left: auto;
    }
    .band {
      position: relative;
      height: 46px;
      cursor: ew-resize;
      touch-action: none;
      background: var(--paper-raised);
      border: 1px solid var(--rule);
    }
    svg {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
    }
    path {
      fill: #dfe7e5;
      stroke: var(--in-step);
      vector-effect: non-scaling-stroke;
    }
    .cut {
      stroke: var(--ink);
      stroke-dasharray: 3 3;
      vector-effect: non-scaling-stroke;
    }
    .stop,
    .warn {
      position: absolute;
      transform: translateX(-50%);
      font-size: 0.6875rem;
      line-height: 1;
      padding: 2px 3px;
      pointer-events: none;
    }
    .stop {
      bottom: 0;
      border-left: 1px solid var(--ink);
      transform: none;
      white-space: nowrap;
    }
    .warn {
      top: 0;
      color: var(--fault);
      font-weight: 700;
      pointer-events: auto;
    }
    .head {
      position: absolute;
      top: -3px;
      bottom: -3px;
      width: 2px;
      margin-left: -1px;
      background: var(--now, #b8492a);
    }
    .faults {
      grid-column: 2;
      color: var(--fault);
      font-size: 0.8125rem;
    }
  `,
})
export class WalkProfile {
  private readonly picture = inject(PictureState);
  private readonly open = toSignal(this.picture.openWalk$);
  protected readonly at = toSignal(this.picture.walkAt$, { requireSync: true });
  protected readonly faults = toSignal(this.picture.walkFaults$, { requireSync: true });
  protected readonly words = FAULT_WORDS;
  protected readonly said = computed(() => this.faults().map(({ at, kind }) => `${at.toFixed(1)} s: ${FAULT_WORDS[kind]}`).join(' · ')); // prettier-ignore
  private readonly way = computed(() => {
    const open = this.open();
    return open && open.stops.length > 1 ? { name: open.name, way: new WalkWay(walkOf(open)) } : undefined;
  });
  protected readonly profile = computed(() => {
    const opened = this.way();
    if (!opened) return undefined;
    const { way, name } = opened;
    const step = way.seconds / SAMPLES;
    const paces = Array.from({ length: SAMPLES }, (_, i) => {
      const [from, to] = [i * step, (i + 1) * step];
      if (way.cuts.some(({ at }) => at > from && at <= to)) return 0;
      return distance(way.cameraAt(from).position, way.cameraAt(to).position) / step;
    });
    const fastest = Math.max(...paces);
    const high = (pace: number) => (HEIGHT - 4) * (1 - pace / Math.max(LEAST_PACE, fastest * 1.1)) + 4;
    const points = paces.map((pace, i) => `L${((i + 0.5) * WIDTH / SAMPLES).toFixed(1)} ${high(pace).toFixed(1)}`); // prettier-ignore
    const left = (at: number) => (at / way.seconds) * 100;
    return {
      name,
      seconds: way.seconds,
      metres: way.lengthM,
      fastest,
      path: `M0 ${String(HEIGHT)}${points.join('')}L${String(WIDTH)} ${String(HEIGHT)}Z`,
      cuts: way.cuts.map(({ at }) => (left(at) / 100) * WIDTH),
      stops: ticksOf(way.stopsAt.map((at) => Math.min(98.5, left(at)))),
    };
  });

  protected drag(event: PointerEvent): void {
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    this.put(event);
  }

  protected put(event: PointerEvent): void {
    const { left, width } = (event.currentTarget as HTMLElement).getBoundingClientRect();
    this.go(((event.clientX - left) / width) * this.way()!.way.seconds);
  }

  protected key(event: KeyboardEvent): void {
    const { seconds, stopsAt } = this.way()!.way;
    const now = this.at();
    const to = {
      ArrowLeft: now - KEY_S,
      ArrowRight: now + KEY_S,
      Home: 0,
      End: seconds,
      PageUp: stopsAt.findLast((at) => at < now - 1e-3) ?? 0,
      PageDown: stopsAt.find((at) => at > now + 1e-3) ?? seconds,
    }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    this.go(to);
  }

  protected close(): void {
    this.picture.openWalk$.next(undefined);
  }

  private go(seconds: number): void {
    const { way, name } = this.way()!;
    const at = Math.min(way.seconds, Math.max(0, seconds));
    this.picture.walkAt$.next(at);
    this.picture.goTo$.next({ camera: way.cameraAt(at), name });
  }
}

/** Stops that are come to at about one moment share a tick. */
function ticksOf(lefts: readonly number[]): { numbers: string; left: number }[] {
  const ticks: { numbers: string; left: number }[] = [];
  for (const [i, left] of lefts.entries()) {
    const last = ticks.at(-1);
    if (last && left - last.left < 1.5) last.numbers += ` ${String(i + 1)}`;
    else ticks.push({ numbers: String(i + 1), left });
  }
  return ticks;
}
