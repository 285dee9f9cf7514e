import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { animationFrames, map, of, switchMap, take, takeUntil, tap, timeout, timer, type Subscription } from 'rxjs';
import { MOVES, moveFrom, type Move } from '../../../core/camera/moves';
import { recordedWalk, type PlaceAt } from '../../../core/camera/recorded-walk';
import { isLit } from '../../../core/camera/walk-light';
import { STOP_WAYS, walkOf, WalkWay, WALKING_PACE, type KeptWalk } from '../../../core/camera/walk';
import type { Development } from '../../../core/image/tone';
import { whiteOf } from '../../../core/image/white-balance';
import { developmentAt, type Exposures } from '../../../core/render/meter';
import { Icon } from '../sheet/icon';
import { StopLight } from './stop-light';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { keptViewNamed } from '../state/views';
import { QuickRecording } from '../state/quick-recording';
import { SceneState } from '../state/scene-state';
import { Pending } from '../state/pending';
import { keptWalks } from '../state/walks';

/** Where no kernel answers within so long, the walk is shown as the picture is exposed now. */
const METERING_MS = 15_000;
/** No walk takes longer. */
const LONGEST_WAY_S = 600;

/** Walks: stops on the way, the time it takes, and a look at it in the working picture. */
@Component({
  selector: 'dp-walks-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, StopLight],
  template: `
    <h2>Walks</h2>
    @for (kept of walks(); track kept.id) {
      <article class="walk" data-testid="walk">
        <div class="title">
          <input
            #name
            class="form-control form-control-sm"
            aria-label="Name of the walk"
            maxlength="200"
            [value]="kept.walk.name"
            (change)="rename(kept.id, kept.walk, name)"
          />
          <button type="button" class="plain" [attr.aria-label]="'Drop walk ' + kept.walk.name" (click)="drop(kept.id)">
            <dp-icon name="remove" />
          </button>
        </div>
        <ol>
          @for (stop of kept.walk.stops; track $index) {
            <li>
              @if ($index > 0) {
                <select
                  class="by"
                  [attr.aria-label]="'How stop ' + ($index + 1) + ' is come to'"
                  (change)="setStop(kept.id, kept.walk, $index, { by: $any($event.target).value })"
                >
                  @for (by of ways; track by) {
                    <option [value]="by" [selected]="by === (stop.by ?? 'leg')">{{ wayWords[by] }}</option>
                  }
                </select>
              }
              <button type="button" class="plain name" [title]="stop.name" (click)="stand(kept.walk, $index)">
                <span class="two-lines">{{ stop.name }}</span>
              </button>
              <span class="mono quiet">{{ kept.stopsAt?.[$index]?.toFixed(1) }}</span>
              <input
                #hold
                class="hold mono"
                type="number"
                min="0"
                max="120"
                step="0.5"
                [attr.aria-label]="'Held at stop ' + ($index + 1) + ', seconds'"
                title="Seconds that the camera stands there"
                [value]="stop.holdS ?? 0"
                (change)="setStop(kept.id, kept.walk, $index, { holdS: held(hold) })"
              />
              @if ($index > 0) {
                <button
                  type="button"
                  class="plain"
                  [attr.aria-label]="'Stop ' + ($index + 1) + ' earlier'"
                  (click)="put(kept.id, kept.walk, { stops: earlier(kept.walk.stops, $index) })"
                >
                  <dp-icon name="up" />
                </button>
              }
              @if (kept.walk.stops.length > 1) {
                <button
                  type="button"
                  class="plain"
                  [attr.aria-label]="'Leave out stop ' + ($index + 1)"
                  (click)="put(kept.id, kept.walk, { stops: without(kept.walk.stops, $index) })"
                >
                  <dp-icon name="close" />
                </button>
              }
              <button
                type="button"
                class="plain"
                [attr.aria-label]="'Light at stop ' + ($index + 1)"
                [attr.aria-expanded]="lightOpen() === kept.id + $index"
                [class.told]="
                  stop.condition !== undefined || stop.minutes !== undefined || stop.option !== undefined || stop.shown !== undefined
                "
                (click)="lightOpen.set(lightOpen() === kept.id + $index ? '' : kept.id + $index)"
              >
                <dp-icon name="sun" />
              </button>
            </li>
            @if (lightOpen() === kept.id + $index) {
              <dp-stop-light [stop]="stop" [number]="$index + 1" (changed)="setStop(kept.id, kept.walk, $index, $event)" />
            }
          }
        </ol>
        <button type="button" class="link" data-testid="walk-stop" (click)="addStop(kept.id, kept.walk)">This view as the next stop</button>
        @if (kept.metres !== undefined) {
          <div class="field mt-2">
            <label [attr.for]="'seconds-' + kept.id">Takes</label>
            <span
              ><input
                #seconds
                class="form-control form-control-sm mono d-inline-block seconds"
                type="number"
                min="0.1"
                max="600"
                step="1"
                [id]="'seconds-' + kept.id"
                [value]="kept.walk.seconds"
                (change)="setSeconds(kept.id, kept.walk, seconds)"
              />
              s
              <span class="mono quiet ms-2 text-nowrap" data-testid="walk-pace"
                >{{ kept.metres.toFixed(1) }} m, {{ (kept.metres / kept.walk.seconds).toFixed(1) }} m/s</span
              ></span
            >
            <span></span>
            <label class="form-check mb-0"
              ><input
                #eased
                class="form-check-input"
                type="checkbox"
                [checked]="kept.walk.eased"
                (change)="put(kept.id, kept.walk, { eased: eased.checked })"
              />
              Sets off and arrives slowly</label
            >
            <span></span>
            <label class="form-check mb-0"
              ><input
                #looks
                class="form-check-input"
                type="checkbox"
                data-testid="walk-look-at"
                [checked]="kept.walk.lookAt !== undefined"
                (change)="setLookAt(kept.id, kept.walk, looks.checked)"
              />
              Looks at what this view looks at</label
            >
          </div>
          <div class="actions">
            @if (playing() === kept.id) {
              <button type="button" class="btn btn-sm btn-outline-dark" (click)="halt()"><dp-icon name="stop" /> Stop</button>
              @if (share() > 0) {
                <progress max="1" [value]="share()" aria-label="How far the walk is"></progress>
              } @else {
                <span class="quiet">metering the light</span>
              }
            } @else {
              <button type="button" class="btn btn-sm btn-outline-dark" data-testid="walk-play" (click)="play(kept.id, kept.walk)">
                <dp-icon name="play" /> Walk it
              </button>
              <button
                type="button"
                class="link"
                data-testid="walk-open"
                [attr.aria-pressed]="openWalk()?.id === kept.id"
                (click)="open(kept.id, kept.walk)"
              >
                Profile
              </button>
              <button
                type="button"
                class="link"
                data-testid="walk-record"
                title="The working picture, in the walk’s own time"
                (click)="record(kept.id, kept.walk)"
              >
                Record
              </button>
              <button type="button" class="link" (click)="strollingPace(kept.id, kept.walk, kept.metres)">at walking pace</button>
            }
          </div>
          @if (recording.said() && recorded() === kept.id) {
            <p class="quiet mb-0" data-testid="recorded">{{ recording.said() }}</p>
          }
        } @else {
          <p class="quiet mb-0">Go on to where the walk leads, and take that view as the next stop.</p>
        }
      </article>
    } @empty {
      <p class="quiet mb-2">A walk leads through views one after the other. It is printed under Delivery.</p>
    }
    <button type="button" class="btn btn-sm btn-outline-dark" data-testid="walk-begin" (click)="begin()">
      <dp-icon name="plus" /> Begin one at this view
    </button>
    @if (recordsWay()) {
      <button type="button" class="btn btn-sm btn-outline-dark ms-2" data-testid="way-end" (click)="endWay()">
        <dp-icon name="stop" /> Keep the way I went
      </button>
      <p class="quiet mb-0 mt-1" role="status">Go through the picture; where you stand, the walk stands too.</p>
    } @else {
      <button type="button" class="link ms-2" data-testid="way-begin" (click)="beginWay()">Record the way I go</button>
      @if (wentNowhere()) {
        <p class="quiet mb-0 mt-1" role="status">You stayed where you were, so there is no walk of it.</p>
      }
    }
    <select
      class="form-select form-select-sm moves"
      aria-label="Begin with a move"
      data-testid="walk-move"
      (change)="beginMove($any($event.target))"
    >
      <option value="">or with a move …</option>
      @for (move of moves; track move[0]) {
        <option [value]="move[0]">{{ move[0] }}: {{ move[1] }}</option>
      }
    </select>
  `,
  styleUrl: './station.scss',
  styles: `
    :host {
      display: block;
      height: auto;
    }
    .walk {
      border-bottom: 1px solid var(--rule);
      padding-bottom: 10px;
      margin-bottom: 10px;
    }
    .title,
    li {
      display: flex;
      align-items: center;
      gap: 8px;
    }
    ol {
      counter-reset: stop;
      list-style: none;
      margin: 6px 0 4px;
      padding: 0;
    }
    li {
      counter-increment: stop;
      padding: 3px 0;
    }
    li::before {
      content: counter(stop);
      color: var(--quiet, #6b6659);
      width: 1.2em;
      font-size: 0.8125rem;
    }
    .name {
      flex: 1;
      min-width: 0;
      text-align: left;
    }
    .seconds {
      width: 80px;
    }
    .by {
      width: 74px;
      font-size: 0.8125rem;
    }
    .hold {
      width: 48px;
      font-size: 0.8125rem;
    }
    .told {
      color: var(--in-step);
    }
    .moves {
      margin-top: 8px;
    }
    progress {
      flex: 1;
      height: 6px;
      align-self: center;
      accent-color: var(--in-step);
    }
  `,
})
export class WalksCard {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private readonly pending = new Pending<KeptWalk>();
  protected readonly walks = toSignal(
    this.live.entries$.pipe(
      map((entries) => keptWalks(entries).map((kept) => ({ ...kept, ...wayOf(kept.walk) }))), // prettier-ignore
      tap((walks) => {
        for (const { id, walk } of walks) this.pending.tell(id, walk);
      }),
    ),
    { initialValue: [] },
  );
  /** The walk that is shown just now, and how far it is. */
  protected readonly playing = signal<string | undefined>(undefined);
  protected readonly recordsWay = signal(false);
  protected readonly wentNowhere = signal(false);
  /** Ends the recording, and tells the places that were gone through. */
  private wayGone: (() => PlaceAt[]) | undefined;
  protected readonly share = signal(0);
  protected readonly recording = inject(QuickRecording);
  /** The walk that was recorded last. */
  protected readonly recorded = signal('');
  private readonly exposure = toSignal(inject(SceneState).exposure$, { requireSync: true });
  private readonly stopName = computed(() => this.viewName() ?? 'Free view');
  private readonly viewName = toSignal(this.picture.viewName$);
  private walking: Subscription | undefined;

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.halt();
      this.endWay();
    });
  }

  protected begin(): void {
    const name = `Walk ${String(this.walks().length + 1)}`;
    this.live.run({ type: 'keep-walk', id: crypto.randomUUID(), walk: { name, stops: [this.here()], seconds: 10, eased: true } });
  }

  /** Every place that the eye goes through from now on becomes part of a walk. */
  protected beginWay(): void {
    this.halt();
    this.wentNowhere.set(false);
    const places: PlaceAt[] = [];
    const startMs = performance.now();
    const seconds = () => (performance.now() - startMs) / 1000;
    const going = this.picture.camera$.pipe(takeUntil(timer(LONGEST_WAY_S * 1000))).subscribe({
      next: (camera) => places.push({ atS: seconds(), camera }),
      complete: () => {
        this.endWay();
      },
    });
    this.wayGone = () => {
      going.unsubscribe();
      return [...places, { atS: seconds(), camera: this.picture.camera$.value }];
    };
    this.recordsWay.set(true);
  }

  protected endWay(): void {
    const places = this.wayGone?.();
    this.wayGone = undefined;
    this.recordsWay.set(false);
    if (!places) return;
    const walk = recordedWalk(`Walk ${String(this.walks().length + 1)}`, places);
    this.wentNowhere.set(!walk);
    if (walk) this.live.run({ type: 'keep-walk', id: crypto.randomUUID(), walk });
  }

  /** The stop whose light is set just now. */
  protected readonly lightOpen = signal('');
  protected readonly ways = STOP_WAYS;
  protected readonly wayWords = { leg: 'walks to', cut: 'cuts to', dissolve: 'fades to' } as const;
  protected readonly moves = Object.entries(MOVES);
  protected readonly openWalk = toSignal(this.picture.openWalk$);

  /** A walk that is a camera's move from this view. */
  protected beginMove(select: HTMLSelectElement): void {
    const move = select.value as Move | '';
    select.value = '';
    if (!move) return;
    const walk: KeptWalk = {
      name: `${move[0]!.toUpperCase()}${move.slice(1)} ${String(this.walks().length + 1)}`,
      ...moveFrom(this.picture.camera$.value, move),
    };
    const id = crypto.randomUUID();
    this.live.run({ type: 'keep-walk', id, walk });
    this.picture.openWalk$.next({ ...walk, id });
  }

  protected setStop(id: string, walk: KeptWalk, i: number, change: Partial<KeptWalk['stops'][number]>): void {
    const { stops } = this.pending.newest(id, walk);
    this.put(id, walk, { stops: stops.map((stop, k) => (k === i ? withoutGaps({ ...stop, ...change }) : stop)) });
  }

  protected held(input: HTMLInputElement): number {
    return Math.min(120, Math.max(0, input.valueAsNumber || 0));
  }

  protected setLookAt(id: string, walk: KeptWalk, looks: boolean): void {
    this.halt();
    const { name, stops, seconds, eased } = walk;
    const lookAt = looks ? ([...this.picture.camera$.value.target] as [number, number, number]) : undefined;
    this.live.run({ type: 'keep-walk', id, walk: { name, stops, seconds, eased, ...(lookAt && { lookAt }) } });
  }

  /** Its profile, in place of the day; once more: the day again. */
  protected open(id: string, walk: KeptWalk): void {
    const isOpen = this.openWalk()?.id === id;
    this.picture.walkAt$.next(0);
    this.picture.openWalk$.next(isOpen ? undefined : { ...walk, id });
  }

  protected addStop(id: string, walk: KeptWalk): void {
    const { stops } = this.pending.newest(id, walk);
    if (stops.length < 50) this.put(id, walk, { stops: [...stops, this.here()] });
  }

  protected put(id: string, walk: KeptWalk, change: Partial<KeptWalk>): void {
    this.halt();
    const changed = { ...this.pending.newest(id, walk), ...change };
    this.pending.send(id, changed);
    this.live.run({ type: 'keep-walk', id, walk: changed });
    if (this.openWalk()?.id === id) this.picture.openWalk$.next({ ...changed, id });
  }

  protected rename(id: string, walk: KeptWalk, input: HTMLInputElement): void {
    const name = input.value.trim();
    if (name) this.put(id, walk, { name });
    else input.value = walk.name;
  }

  protected setSeconds(id: string, walk: KeptWalk, input: HTMLInputElement): void {
    const seconds = input.valueAsNumber;
    if (seconds >= 0.1 && seconds <= 600) this.put(id, walk, { seconds });
    else input.value = String(walk.seconds);
  }

  protected strollingPace(id: string, walk: KeptWalk, metres: number): void {
    this.put(id, walk, { seconds: Math.min(600, Math.max(1, Math.round((metres / WALKING_PACE) * 10) / 10)) });
  }

  protected drop(id: string): void {
    this.halt();
    if (this.openWalk()?.id === id) this.picture.openWalk$.next(undefined);
    this.live.run({ type: 'drop-walk', id });
  }

  protected stand(walk: KeptWalk, i: number): void {
    this.halt();
    const { name, position, target, focalMm } = walk.stops[i]!;
    this.picture.goTo$.next({ camera: { position, target: walk.lookAt ?? target, focalMm }, name });
  }

  protected readonly earlier = <T>(list: readonly T[], i: number): T[] => [
    ...list.slice(0, i - 1),
    list[i]!,
    list[i - 1]!,
    ...list.slice(i + 1),
  ];
  protected readonly without = <T>(list: readonly T[], i: number): T[] => list.filter((_, k) => k !== i);

  /** By the clock: a slow computer shows fewer pictures of it, not a longer walk. Exposed as the print of it would be. */
  protected play(id: string, kept: KeptWalk, recording?: QuickRecording): void {
    this.stopWalking();
    const walk = walkOf(kept);
    const way = new WalkWay(walk);
    this.playing.set(id);
    this.picture.goTo$.next({ camera: way.cameraAt(0), name: kept.name });
    // Where the light changes on the way, the picture is exposed as it comes.
    const lit = isLit(walk);
    if (lit) this.picture.openWalk$.next({ ...kept, id });
    const fixed = lit || (this.exposure().mode === 'fixed' && this.exposure().white !== undefined);
    const exposed = fixed
      ? of(undefined)
      : this.picture.exposures$.pipe(take(1), timeout({ first: METERING_MS, with: () => of(undefined) }));
    this.walking = exposed
      .pipe(switchMap((exposures) => animationFrames().pipe(map(({ elapsed }) => ({ exposures, seconds: elapsed / 1000 })))))
      .subscribe(({ exposures, seconds }) => {
        recording?.start();
        this.share.set(Math.min(1, seconds / way.seconds));
        this.picture.walkAt$.next(Math.min(way.seconds, seconds));
        const development = exposures && this.developmentIn(exposures, seconds);
        this.picture.goTo$.next({ camera: way.cameraAt(seconds), name: kept.name, passing: true, development });
        if (seconds < way.seconds) return;
        void recording?.end(kept.name);
        this.halt();
      });
    if (!fixed) this.picture.meter$.next(walk);
  }

  /** As measured, but for what is set. */
  private developmentIn(exposures: Exposures, seconds: number): Development {
    const { mode, ev100, white } = this.exposure();
    const measured = developmentAt(exposures, seconds);
    return { ev100: mode === 'fixed' ? ev100 : measured.ev100, white: white ? whiteOf(white) : measured.white };
  }

  /** Plays it once, and hands over what was seen as a film. */
  protected async record(id: string, kept: KeptWalk): Promise<void> {
    this.halt();
    this.recorded.set(id);
    if (!(await this.recording.begin())) return;
    this.play(id, kept, this.recording);
  }

  protected halt(): void {
    this.stopWalking();
    this.recording.abandon();
  }

  private stopWalking(): void {
    this.walking?.unsubscribe();
    this.playing.set(undefined);
    this.share.set(0);
  }

  private here(): KeptWalk['stops'][number] {
    const name = this.stopName();
    // A view that holds what is shown gives it to the stop that is made of it.
    const shown = keptViewNamed(this.live.entries$.value, name)?.shown;
    return { name, ...this.picture.camera$.value, ...(shown && { shown }) };
  }
}

/** What is undefined is left out. */
const withoutGaps = <T extends object>(of: T): T => Object.fromEntries(Object.entries(of).filter(([, value]) => value !== undefined)) as T;

/** How long a walk is, and when it comes to its stops; one of one stop is none yet. */
function wayOf(walk: KeptWalk): { metres: number | undefined; stopsAt: readonly number[] | undefined } {
  const way = walk.stops.length > 1 ? new WalkWay(walkOf(walk)) : undefined;
  return { metres: way?.lengthM, stopsAt: way?.stopsAt };
}
