import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { encodeMaps } from '../../../core/finish/maps/generate';
import { FAMILIES, ownFinish, type Finish } from '../../../core/finish/finish';
import type { PhotoSettings } from '../../../core/photo/make-finish-maps';
import { squareToCorners, WHOLE_PICTURE, type Corners } from '../../../core/photo/straighten';
import { Sliders, type NumbersOf, type Parameter } from '../sheet/sliders';
import { ScheduleState } from '../state/schedule-state';
import { PhotoMaker } from './photo-maker';
import type { MadeMaps } from './photo-messages';
import { paintPreview } from './paint-preview';
import { mapSetKept } from '../../../core/project/answers';
import { ask, bytes } from '../state/ask';

const PREVIEW_SIZE = 160;
const FULL_SIZE = 1024;
const STEP = 0.005;
const MOVES: Readonly<Record<string, readonly [number, number]>> = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] }; // prettier-ignore
const CORNER_NAMES = ['top left', 'top right', 'bottom right', 'bottom left'];

const FIRST_SETTINGS: Omit<PhotoSettings, 'corners'> = {
  acrossM: 1, upM: 1, evenLight: 0.8, seamless: true, reliefM: 0.004, raised: 1, roughness: 0.7, roughnessSpread: 0.15, occlusion: 0.2,
}; // prettier-ignore

const share = (v: number) => v.toFixed(2);
const PARAMETERS: readonly Parameter<NumbersOf<Omit<PhotoSettings, 'corners'>>>[] = [
  { label: 'Light evened', field: 'evenLight', min: 0, max: 1, step: 0.05, format: share },
  { label: 'Relief', field: 'reliefM', min: 0, max: 0.03, step: 0.0005, format: (v) => `${(v * 1000).toFixed(1)} mm` },
  { label: 'Roughness', field: 'roughness', min: 0, max: 1, step: 0.01, format: share },
  { label: 'Smoother where raised', field: 'roughnessSpread', min: 0, max: 0.5, step: 0.01, format: share },
  { label: 'Hollows darker', field: 'occlusion', min: 0, max: 1, step: 0.05, format: share },
];

/** A finish made from a photograph: straightened by four corners, evened, fitted, with relief derived; all seen as it changes. */
@Component({
  selector: 'dp-photo-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Sliders],
  templateUrl: './photo-card.html',
  styleUrls: ['../stations/station.scss', './photo-card.scss'],
})
export class PhotoCard {
  private readonly state = inject(ScheduleState);
  readonly photo = input.required<{ name: string; png: Blob; remark: string }>();
  readonly closed = output();

  protected readonly families = FAMILIES.filter((family) => family !== 'plain');
  protected readonly cornerNames = CORNER_NAMES;
  protected readonly parameters = PARAMETERS;
  protected readonly name = signal('');
  protected readonly family = signal<Finish['family']>('stone');
  protected readonly corners = signal<Corners>(WHOLE_PICTURE);
  protected readonly settings = signal(FIRST_SETTINGS);
  protected readonly breakRepeat = signal(false);
  protected readonly address = signal('');
  protected readonly said = signal('');
  protected readonly sound = computed(() => squareToCorners(this.corners()) !== undefined);
  protected readonly outline = computed(() =>
    this.corners()
      .map(([x, y]) => `${String(x * 100)},${String(y * 100)}`)
      .join(' '),
  );
  private readonly maker = new PhotoMaker();
  protected readonly step = toSignal(this.maker.step$, { initialValue: '' });
  protected readonly making = signal(false);
  private readonly preview = viewChild.required<ElementRef<HTMLCanvasElement>>('preview');
  private dragged: number | undefined;
  /** Height by width of the photograph, until somebody says how high it is in reality. */
  private ratio: number | undefined;

  constructor() {
    effect(() => void this.open(this.photo()));
    this.maker.made$.pipe(takeUntilDestroyed()).subscribe((made) => {
      if (!made) return;
      if (this.making() && made.size === FULL_SIZE) void this.keep(made);
      else if (made.size === PREVIEW_SIZE) paintPreview(this.preview().nativeElement, made);
    });
    this.maker.faults$.pipe(takeUntilDestroyed()).subscribe((fault) => {
      this.making.set(false);
      this.said.set(fault);
    });
    inject(DestroyRef).onDestroy(() => {
      this.maker.close();
      URL.revokeObjectURL(this.address());
    });
  }

  private async open({ name, png, remark }: { name: string; png: Blob; remark: string }): Promise<void> {
    this.name.set(name.replace(/\.\w+$/, '').slice(0, 200) || 'Photograph');
    this.said.set(remark);
    this.address.set(URL.createObjectURL(png));
    const bitmap = await createImageBitmap(png);
    const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d')!;
    context.drawImage(bitmap, 0, 0);
    this.maker.show(context.getImageData(0, 0, bitmap.width, bitmap.height));
    this.ratio = bitmap.height / bitmap.width;
    this.settings.update((s) => ({ ...s, upM: s.acrossM * this.ratio! }));
    this.show();
  }

  protected set(change: Partial<Omit<PhotoSettings, 'corners'>>): void {
    this.settings.update((s) => ({ ...s, ...change }));
    this.show();
  }

  protected setMillimetres(side: 'acrossM' | 'upM', value: number): void {
    if (!(value >= 10 && value <= 100_000)) return;
    if (side === 'upM') this.ratio = undefined;
    // Until a person says how high it is, it keeps the photograph's proportions.
    const upM = side === 'acrossM' && this.ratio !== undefined ? { upM: Math.min(100, (value / 1000) * this.ratio) } : {};
    this.set({ [side]: value / 1000, ...upM });
  }

  private show(): void {
    if (this.sound() && !this.making()) this.maker.make({ ...this.settings(), corners: this.corners() }, PREVIEW_SIZE);
  }

  protected grab(corner: number, event: PointerEvent): void {
    this.dragged = corner;
    (event.target as HTMLElement).setPointerCapture(event.pointerId);
  }

  protected drag(event: PointerEvent, frame: HTMLElement): void {
    if (this.dragged === undefined) return;
    const box = frame.getBoundingClientRect();
    this.moveCorner(this.dragged, (event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
  }

  protected letGo(): void {
    if (this.dragged === undefined) return;
    this.dragged = undefined;
    this.show();
  }

  protected nudge(corner: number, event: KeyboardEvent): void {
    const move = MOVES[event.key];
    if (!move) return;
    event.preventDefault();
    const [x, y] = this.corners()[corner]!;
    this.moveCorner(corner, x + move[0], y + move[1]);
    this.show();
  }

  private moveCorner(corner: number, x: number, y: number): void {
    const inside = (c: number) => Math.min(1, Math.max(0, c));
    this.corners.update((corners) => corners.map((c, i) => (i === corner ? [inside(x), inside(y)] : c)) as unknown as Corners);
  }

  protected make(): void {
    this.making.set(true);
    this.said.set('');
    this.maker.make({ ...this.settings(), corners: this.corners() }, FULL_SIZE);
  }

  private async keep({ size, base, surface, widthM, heightM }: MadeMaps): Promise<void> {
    try {
      const asked = await ask(mapSetKept, '/api/map-sets', bytes(encodeMaps({ size, base, surface })));
      if (!('answer' in asked)) throw new Error(asked.fault ?? 'The maps could not be kept.');
      const name = this.name().trim().slice(0, 200) || 'Photograph';
      this.state.make({
        ...ownFinish(name, this.family(), asked.answer.maps, widthM, heightM),
        reliefM: this.settings().reliefM,
        tags: ['photograph'],
        breakRepeat: this.breakRepeat(),
      });
      this.closed.emit();
    } catch (error) {
      this.said.set(error instanceof Error ? error.message : 'The maps could not be kept.');
    } finally {
      this.making.set(false);
    }
  }

  protected familyOf(value: string): Finish['family'] {
    return FAMILIES.find((family) => family === value) ?? 'stone';
  }
}
