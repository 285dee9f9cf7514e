import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, map, take, type Subscription } from 'rxjs';
import type { Metering } from '../../../core/image/exposure';
import { evOfCamera, shutterOf } from '../../../core/image/tone';
import { LEAST_KELVIN, MOST_KELVIN, MOST_TINT, settingOf, type WhiteSetting } from '../../../core/image/white-balance';
import { DEFAULT_EXPOSURE, entry, type Exposure } from '../../../core/project/project';
import { Live } from '../state/live';
import { PictureState, type Pointed } from '../state/picture-state';
import { SceneState } from '../state/scene-state';

type Lens = NonNullable<Exposure['camera']>;
const USUAL_LENS: Lens = { fNumber: 8, iso: 100 };

/** How the picture is exposed, and what it holds for white. */
@Component({
  selector: 'dp-exposure-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './exposure-panel.html',
  styleUrl: './station.scss',
  styles: `
    :host {
      display: block;
      height: auto;
    }
    fieldset {
      min-width: 0;
    }
    .held {
      margin: 0 0 8px;
      padding: 6px 0;
      border-bottom: 1px solid var(--rule);
    }
    .camera {
      display: flex;
      align-items: center;
      gap: 5px;
      font-size: 0.8125rem;
    }
    .camera label {
      display: flex;
      align-items: center;
      gap: 3px;
    }
    .camera input {
      width: 54px;
      padding-inline: 5px;
    }
  `,
})
export class ExposurePanel {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  protected readonly exposure = toSignal(inject(SceneState).exposure$, { initialValue: DEFAULT_EXPOSURE });
  private readonly ev100 = toSignal(this.picture.ev100$, { requireSync: true });
  /** Where it is fixed, what was fixed: the picture's follows later, and would take away what is being typed. */
  protected readonly ev = computed(() => (this.exposure().mode === 'fixed' ? this.exposure().ev100 : this.ev100()));
  protected readonly camera = computed(() => this.exposure().camera ?? USUAL_LENS);
  protected readonly shutterWords = computed(() => writeShutter(shutterOf(this.ev(), this.camera().fNumber, this.camera().iso)));
  protected readonly view = toSignal(this.picture.viewName$);
  /** The view that is shown holds an exposure of its own. */
  protected readonly held = toSignal(
    combineLatest([this.live.entries$, this.picture.viewName$]).pipe(
      map(([entries, view]) => (view === undefined ? undefined : entry(entries, `view-exposure/${view}`))),
    ),
  );
  protected readonly picksSpot = signal(false);
  protected readonly metering = computed(() => {
    const { metering = 'all' } = this.exposure();
    return this.picksSpot() || typeof metering === 'object' ? 'spot' : metering;
  });
  private readonly seenWhite = toSignal(this.picture.white$, { requireSync: true });
  protected readonly picksGrey = signal(false);
  private picked: Subscription | undefined;

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.leave();
    });
  }

  /** What is shown now is this view's from now on. */
  protected hold(view: string): void {
    this.live.run({ type: 'hold-exposure', view, exposure: { ev100: Math.round(this.ev100() * 100) / 100, white: this.white() } });
  }

  protected letGo(view: string): void {
    this.live.run({ type: 'hold-exposure', view, exposure: null });
  }

  protected setMode(mode: 'auto' | 'fixed'): void {
    this.run({ mode, ev100: Math.round(this.ev100() * 10) / 10 });
  }

  protected setEv(event: Event): void {
    const ev100 = Number((event.target as HTMLInputElement).value);
    if (ev100 >= -10 && ev100 <= 24) this.run({ mode: 'fixed', ev100 });
  }

  /** What is held for white now, as it is set. */
  protected readonly white = computed((): WhiteSetting => {
    const { x, y } = this.seenWhite();
    const { kelvin, tint } = settingOf(x, y);
    return this.exposure().white ?? { kelvin: Math.round(kelvin / 50) * 50, tint: Math.round(tint) + 0 };
  });

  /** By hand from where the automatic one stands; undefined: automatic. */
  protected setWhite(white: WhiteSetting | undefined): void {
    this.run({ white });
  }

  protected setKelvin(event: Event): void {
    const kelvin = Number((event.target as HTMLInputElement).value);
    if (kelvin >= LEAST_KELVIN && kelvin <= MOST_KELVIN) this.setWhite({ ...this.white(), kelvin });
  }

  protected setTint(event: Event): void {
    const tint = Number((event.target as HTMLInputElement).value);
    if (Math.abs(tint) <= MOST_TINT) this.setWhite({ ...this.white(), tint });
  }

  /** The next place that is pointed at in the picture is held for grey. */
  protected pickGrey(): void {
    if (this.picksGrey()) {
      this.leave();
      return;
    }
    this.leave();
    this.picksGrey.set(true);
    this.picture.pointTaker$.next(this.takeGrey);
    this.picked = this.picture.pickedWhite$.pipe(take(1)).subscribe((white) => {
      this.setWhite({ kelvin: white.kelvin, tint: Math.round(white.tint) });
    });
  }

  private readonly takeGrey = ({ x, y }: Pointed) => {
    this.picture.greyAt$.next({ x, y });
    this.picksGrey.set(false);
    this.picture.pointTaker$.next(undefined);
  };

  private leave(): void {
    this.picked?.unsubscribe();
    this.picksGrey.set(false);
    this.picksSpot.set(false);
    const taker = this.picture.pointTaker$.value;
    if (taker === this.takeGrey || taker === this.takeSpot) this.picture.pointTaker$.next(undefined);
  }

  protected meter(over: string): void {
    this.leave();
    if (over === 'spot') {
      this.picksSpot.set(true);
      this.picture.pointTaker$.next(this.takeSpot);
    } else this.run({ metering: over as Metering });
  }

  private readonly takeSpot = ({ x, y }: Pointed) => {
    const box = document.querySelector('[data-testid=picture]')!.getBoundingClientRect();
    const part = (at: number, from: number, length: number) => Math.round(Math.min(1, Math.max(0, (at - from) / length)) * 1000) / 1000;
    this.leave();
    this.run({ metering: { x: part(x, box.left, box.width), y: part(y, box.top, box.height) } });
  };

  /** Whatever of aperture and ISO is set, the shutter follows, so that the exposure stays; a shutter sets the exposure. */
  protected setCamera(change: Partial<Lens>): void {
    const camera = { ...this.camera(), ...change };
    if (camera.fNumber >= 0.7 && camera.fNumber <= 64 && camera.iso >= 6 && camera.iso <= 409_600) this.run({ camera });
  }

  protected setShutter(words: string): void {
    const seconds = readShutter(words);
    if (seconds === undefined) return;
    const { fNumber, iso } = this.camera();
    const ev100 = evOfCamera(fNumber, seconds, iso);
    if (ev100 >= -10 && ev100 <= 24) this.run({ mode: 'fixed', ev100 });
  }

  private run(change: Partial<Exposure>): void {
    const { mode, ev100, white, metering, camera } = { ...this.exposure(), ...change };
    this.live.run({ type: 'set-exposure', mode, ev100, ...(white && { white }), ...(metering && { metering }), ...(camera && { camera }) });
  }
}

/** "1/125", "0.5" or "2": seconds; undefined: none of these. */
function readShutter(words: string): number | undefined {
  const [, over, under] = /^\s*([\d.]+)\s*(?:\/\s*([\d.]+))?\s*s?\s*$/.exec(words) ?? [];
  const seconds = Number(over) / Number(under ?? 1);
  return seconds > 0 && seconds < 1e6 ? seconds : undefined;
}

/** As photographers write it. */
function writeShutter(seconds: number): string {
  if (seconds >= 0.4) return String(Number(seconds.toPrecision(2)));
  return `1/${String(Number((1 / seconds).toPrecision(2)))}`;
}
