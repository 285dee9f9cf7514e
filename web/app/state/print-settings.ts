import { computed, inject, Injectable, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { debounceTime, Subject } from 'rxjs';
import type { Projection } from '../../../core/camera/projection';
import { PRINT_QUALITIES, type Channel, type PictureFormat, type PrintQuality, type PrintRequest } from '../../../core/render/print';
import { Live } from './live';
import { PictureState } from './picture-state';

/** After the last change of a size, before it is looked at. */
const TYPED_MS = 800;
/** Of a target of noise nobody knows how many samples it takes; a room in daylight takes about so many for 2 %. */
const SAMPLES_FOR_NOISE = 300;
const USUAL_NOISE = 0.02;
/** Bytes a pixel that pictures of buildings take; common practice. */
const BYTES: Record<PictureFormat, number> = { png: 1.9, png16: 4.6, jpeg: 0.45, webp: 0.3, exr: 4.4, svg: 0.5, pdf: 0.2 };
const CHANNEL_BYTES = 3;

/** How pictures are printed, for one picture and for many alike. */
@Injectable({ providedIn: 'root' })
export class PrintSettings {
  private readonly picture = inject(PictureState);
  private readonly resized$ = new Subject<{ width: number; height: number }>();
  private readonly now = toSignal(inject(Live).prints$, { requireSync: true });
  readonly width = signal(1920);
  readonly height = signal(1080);
  readonly quality = signal<PrintQuality>('standard');
  /** In place of a quality. */
  readonly noise = signal<number | undefined>(undefined);
  readonly format = signal<PictureFormat>('png');
  readonly channels = signal<readonly Channel[]>([]);
  readonly seed = signal(1);
  readonly denoise = signal(true);
  /** As a field for date and time has it; empty: at once. */
  readonly startAt = signal('');

  /** A part of the picture alone, in shares of it; and whether it is just being marked. */
  readonly region = signal<{ left: number; top: number; width: number; height: number } | undefined>(undefined);
  readonly marksRegion = signal(false);
  /** A picture is just being ordered, for which the region counts. */
  readonly showsRegion = signal(false);

  /** The region in pixels of the whole. */
  readonly regionPixels = computed(() => {
    const region = this.region();
    if (!region) return undefined;
    const [w, h] = [this.width(), this.height()];
    const left = Math.floor(region.left * w);
    const top = Math.floor(region.top * h);
    return { left, top, width: Math.min(w - left, Math.max(16, Math.round(region.width * w))), height: Math.min(h - top, Math.max(16, Math.round(region.height * h))) }; // prettier-ignore
  });

  readonly request = computed(() => {
    const noise = this.noise();
    return {
      width: this.width(), height: this.height(), quality: this.quality(), format: this.format(), channels: [...this.channels()], seed: this.seed(),
      denoise: this.denoise(), ...(noise !== undefined && { noise }),
    } satisfies Partial<PrintRequest>; // prettier-ignore
  });

  constructor() {
    this.picture.frame$.subscribe(({ width, height }) => {
      this.width.set(width);
      this.height.set(height);
    });
    this.resized$.pipe(debounceTime(TYPED_MS)).subscribe(this.picture.frame$);
  }

  /** Another size; once no more is typed, what is seen takes its shape. */
  resize(width: number, height: number): void {
    this.width.set(width);
    this.height.set(height);
    if (width >= 16 && height >= 16) this.resized$.next({ width: Math.round(width), height: Math.round(height) });
  }

  /** When to begin, as the server takes it. */
  readonly startIso = computed(() => (this.startAt() ? new Date(this.startAt()).toISOString() : undefined));

  /** Seconds and bytes that so many pictures of a size will take, about. */
  estimate(pictures: number, width = this.width(), height = this.height()): { seconds: number; bytes: number } {
    const noise = this.noise();
    const samples = noise === undefined ? PRINT_QUALITIES[this.quality()].samples : SAMPLES_FOR_NOISE * (USUAL_NOISE / noise) ** 2;
    const pixels = pictures * width * height;
    return { seconds: (pixels * samples) / this.now().samplesPerSecond, bytes: pixels * (BYTES[this.format()] + this.channels().length * CHANNEL_BYTES) };
  } // prettier-ignore

  /** A size of a projection whose shape is fixed. */
  sizeFor(kind: Projection['kind'], pair: boolean): { width: number; height: number } {
    const width = this.width();
    if (kind === 'equirectangular') return { width, height: pair ? width : Math.round(width / 2) };
    if (kind === 'cube') return { width: 6 * Math.round(width / 6), height: Math.round(width / 6) };
    return { width, height: this.height() };
  }
}

export function durationWords(seconds: number): string {
  if (seconds < 90) return `${String(Math.max(1, Math.round(seconds)))} s`;
  if (seconds < 5400) return `${String(Math.round(seconds / 60))} min`;
  return `${(seconds / 3600).toFixed(seconds < 36_000 ? 1 : 0)} h`;
}

export const sizeWords = (bytes: number): string =>
  bytes < 1e6
    ? `${String(Math.max(1, Math.round(bytes / 1e3)))} kB`
    : bytes < 1e9
      ? `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
      : `${(bytes / 1e9).toFixed(1)} GB`;
