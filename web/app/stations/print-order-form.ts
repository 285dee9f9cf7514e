import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { EYES_M, type Projection } from '../../../core/camera/projection';
import { isLit } from '../../../core/camera/walk-light';
import { frameCount, walkOf } from '../../../core/camera/walk';
import { FRAME_RATES, type PrintRequest } from '../../../core/render/print';
import { Icon } from '../sheet/icon';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { PrintOrders } from '../state/print-orders';
import { durationWords, PrintSettings, sizeWords } from '../state/print-settings';
import { SceneState } from '../state/scene-state';
import { keptWalks } from '../state/walks';
import { PrintSettingsForm } from './print-settings-form';

type Kind = 'picture' | 'round' | 'pair' | 'cube';

/** One picture of what is shown now, or a walk. */
@Component({
  selector: 'dp-print-order-form',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, PrintSettingsForm],
  templateUrl: './print-order-form.html',
  styleUrl: './station.scss',
})
export class PrintOrderForm {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  protected readonly settings = inject(PrintSettings);
  protected readonly orders = inject(PrintOrders);
  readonly ordered = output();
  protected readonly viewName = toSignal(this.picture.viewName$);
  private readonly exposure = toSignal(inject(SceneState).exposure$, { requireSync: true });
  private readonly now = toSignal(this.live.prints$, { requireSync: true });
  /** A walk of one stop leads nowhere yet. */
  protected readonly walks = toSignal(this.live.entries$.pipe(map((entries) => keptWalks(entries).filter(({ walk }) => walk.stops.length > 1))), { initialValue: [] }); // prettier-ignore
  protected readonly walkId = signal('');
  protected readonly walk = computed(() => this.walks().find(({ id }) => id === this.walkId())?.walk);
  protected readonly kind = signal<Kind>('picture');
  protected readonly isRound = computed(() => !this.walk() && this.kind() !== 'picture');
  protected readonly rates = FRAME_RATES;
  protected readonly rate = signal<(typeof FRAME_RATES)[number]>(25);
  protected readonly shutterDeg = signal(180);
  protected readonly film = signal<'none' | 'mp4' | 'webm'>('mp4');
  protected readonly makesFilms = computed(() => this.now().makesFilms);
  protected readonly hasRegion = computed(() => !this.walk() && this.kind() === 'picture');
  protected readonly frames = computed(() => frameCount(this.walk() ?? { stops: [], seconds: 0 }, this.rate()));

  private readonly projection = computed((): Projection => {
    const kind = this.isRound() ? this.kind() : 'picture';
    if (kind === 'cube') return { kind: 'cube' };
    if (kind === 'picture') return { kind: 'perspective' };
    return { kind: 'equirectangular', ...(kind === 'pair' && { eyesM: EYES_M }) };
  });
  private readonly size = computed(() => this.settings.sizeFor(this.projection().kind, this.kind() === 'pair'));
  protected readonly about = computed(() => {
    const region = this.hasRegion() ? this.settings.regionPixels() : undefined;
    const { width, height } = region ?? this.size();
    const { seconds, bytes } = this.settings.estimate(this.walk() ? this.frames() : 1, width, height);
    return { time: durationWords(seconds), size: sizeWords(bytes), memory: sizeWords(memoryOf(width * height)), isLarge: width * height > LARGE, text: `${String(width)} × ${String(height)}` };
  }); // prettier-ignore

  constructor() {
    this.settings.showsRegion.set(true);
    inject(DestroyRef).onDestroy(() => {
      this.settings.showsRegion.set(false);
      this.settings.marksRegion.set(false);
    });
  }

  protected text(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }

  protected setKind(kind: Kind): void {
    // What goes all round needs more pixels to be as sharp.
    if (kind !== 'picture' && this.kind() === 'picture') this.settings.width.set(kind === 'cube' ? 6 * 1024 : 4096);
    if (kind === 'picture' && this.kind() !== 'picture') this.settings.width.set(1920);
    this.kind.set(kind);
    this.settings.showsRegion.set(this.hasRegion());
  }

  protected setWalk(id: string): void {
    this.walkId.set(id);
    this.settings.showsRegion.set(this.hasRegion());
  }

  protected async order(event: Event): Promise<void> {
    event.preventDefault();
    if (await this.orders.order(this.request(), this.settings.startIso())) this.ordered.emit();
  }

  /** Whether the exposure that is shown belongs to what is shown; just after a change it is of before, and the print measures its own. */
  private isMeasured(): boolean {
    const { state } = this.picture.status$.value;
    return this.exposure().mode === 'fixed' || state === 'refining' || state === 'finished';
  }

  private request(): PrintRequest {
    const kept = this.walk();
    const walk = kept && {
      ...walkOf(kept),
      framesPerSecond: this.rate(),
      shutterDeg: this.shutterDeg(),
      film: this.makesFilms() && this.settings.format() !== 'exr' ? this.film() : ('none' as const),
      metered: isLit(kept) || this.exposure().mode === 'auto',
      meteredWhite: isLit(kept) || !this.exposure().white,
    };
    const projection = this.projection();
    const region = this.hasRegion() ? this.settings.regionPixels() : undefined;
    return {
      ...this.settings.request(),
      ...this.size(),
      ...(walk && { channels: [] }),
      projection,
      name: kept?.name ?? this.viewName() ?? 'Free view', camera: walk?.stops[0] ?? this.picture.camera$.value,
      ...(this.isMeasured() && { ev100: this.picture.ev100$.value, white: this.picture.white$.value }),
      // Walks begin at one moment, so that they can be made again.
      timeS: walk ? 0 : this.picture.timeS$.value,
      ...(this.picture.sections$.value.length > 0 && { sections: [...this.picture.sections$.value] }),
      ...(walk && { walk }),
      ...(region && { region }),
    }; // prettier-ignore
  }
}

/** From so many pixels on, memory is told. */
const LARGE = 16_000_000;
/** Bytes: the picture’s light and its developed copy by their sizes, beside 0.9 GB for scene, film and denoiser. */
const memoryOf = (pixels: number): number => pixels * 24 + 0.9e9;
