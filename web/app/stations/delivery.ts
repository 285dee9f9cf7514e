import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import type { PrintSummary } from '../../../core/project/live';
import { frameCount, walkOf } from '../../../core/camera/walk';
import {
  FRAME_RATES,
  MAX_PRINT_HEIGHT,
  MAX_PRINT_WIDTH,
  PRINT_QUALITIES,
  type PrintOrder,
  type PrintQuality,
} from '../../../core/render/print';
import { Icon } from '../sheet/icon';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { keptWalks } from '../state/walks';
import { faultOf, json } from '../state/ask';

const SIZES = [[1280, 720], [1920, 1080], [2560, 1440], [3840, 2160]] as const; // prettier-ignore
const STATE_WORDS = { waiting: 'waiting', rendering: 'rendering', finished: 'finished', cancelled: 'cancelled', failed: 'failed' } as const;

/** Prints: order one of the present view, follow it, fetch it. */
@Component({
  selector: 'dp-delivery-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  templateUrl: './delivery.html',
  styleUrl: './station.scss',
  styles: `
    .print {
      display: grid;
      grid-template-columns: 96px minmax(0, 1fr);
      gap: 10px;
      padding: 9px 14px;
      border-top: 1px solid var(--rule);
    }
    .thumb {
      width: 96px;
      aspect-ratio: 16 / 9;
      background: #d8d3c7;
      object-fit: cover;
      display: block;
    }
    progress {
      width: 100%;
      height: 6px;
      accent-color: var(--in-step);
    }
    .actions {
      margin-top: 2px;
    }
    .size {
      width: 76px;
    }
    .rate {
      width: 112px;
    }
  `,
})
export class DeliveryStation {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  protected readonly prints = toSignal(this.live.prints$, { initialValue: [] });
  protected readonly hasModel = toSignal(this.live.models$.pipe(map((models) => [...models.values()].some((m) => m.elements.size > 0))));
  protected readonly viewName = toSignal(this.picture.viewName$);
  private readonly exposure = toSignal(inject(SceneState).exposure$, { requireSync: true });
  /** A walk of one stop leads nowhere yet. */
  protected readonly walks = toSignal(this.live.entries$.pipe(map((entries) => keptWalks(entries).filter(({ walk }) => walk.stops.length > 1))), { initialValue: [] }); // prettier-ignore
  protected readonly walkId = signal('');
  protected readonly walk = computed(() => this.walks().find(({ id }) => id === this.walkId())?.walk);
  protected readonly rates = FRAME_RATES;
  protected readonly rate = signal<(typeof FRAME_RATES)[number]>(25);
  protected readonly frames = computed(() => frameCount(this.walk() ?? { seconds: 0 }, this.rate()));
  protected readonly sizes = SIZES;
  protected readonly qualities = Object.entries(PRINT_QUALITIES) as [PrintQuality, { samples: number }][];
  protected readonly maxWidth = MAX_PRINT_WIDTH;
  protected readonly maxHeight = MAX_PRINT_HEIGHT;
  protected readonly width = signal(1920);
  protected readonly height = signal(1080);
  protected readonly quality = signal<PrintQuality>('standard');
  protected readonly seed = signal(1);
  protected readonly denoise = signal(false);
  protected readonly fault = signal('');
  protected readonly words = STATE_WORDS;

  protected text(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }

  protected checked(event: Event): boolean {
    return (event.target as HTMLInputElement).checked;
  }

  protected isListed(): boolean {
    return SIZES.some(([w, h]) => w === this.width() && h === this.height());
  }

  protected setSize(event: Event): void {
    const [w, h] = this.text(event).split('x').map(Number) as [number, number];
    this.width.set(w);
    this.height.set(h);
  }

  protected async order(event: Event): Promise<void> {
    event.preventDefault();
    const kept = this.walk();
    const walk = kept && {
      ...walkOf(kept),
      framesPerSecond: this.rate(),
      metered: this.exposure().mode === 'auto',
      meteredWhite: !this.exposure().white,
    };
    const order: PrintOrder = {
      name: kept?.name ?? this.viewName() ?? 'Free view', camera: walk?.stops[0] ?? this.picture.camera$.value, width: this.width(), height: this.height(), quality: this.quality(),
      seed: this.seed(), denoise: this.denoise(), ev100: this.picture.ev100$.value, white: this.picture.white$.value,
      // Walks begin at one moment, so that they can be made again.
      timeS: walk ? 0 : this.picture.timeS$.value, ...(walk && { walk }),
    }; // prettier-ignore
    await this.tell('/api/prints', json(order));
  }

  protected async cancel(print: PrintSummary): Promise<void> {
    await this.tell(`/api/prints/${print.id}/cancel`, { method: 'POST' });
  }

  protected async remove(print: PrintSummary): Promise<void> {
    await this.tell(`/api/prints/${print.id}`, { method: 'DELETE' });
  }

  protected isOpen(print: PrintSummary): boolean {
    return print.state === 'waiting' || print.state === 'rendering';
  }

  protected left(print: PrintSummary): string {
    const s = print.secondsLeft;
    if (s === null) return '';
    return s < 90 ? `${String(Math.max(1, Math.round(s)))} s left` : `${String(Math.round(s / 60))} min left`;
  }

  private async tell(url: string, init: RequestInit): Promise<void> {
    this.fault.set('');
    const response = await fetch(url, init).catch(() => undefined);
    if (response?.ok) return;
    this.fault.set((await faultOf(response)) ?? 'The server is out of reach; nothing was ordered.');
  }
}
