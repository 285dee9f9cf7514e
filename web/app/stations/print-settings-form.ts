import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import {
  CHANNELS,
  MAX_PRINT_SIDE,
  MAX_ROUND_WIDTH,
  PICTURE_FORMATS,
  PRINT_QUALITIES,
  type Channel,
  type PictureFormat,
  type PrintQuality,
} from '../../../core/render/print';
import { PrintSettings } from '../state/print-settings';

const SIZES = [[1280, 720], [1920, 1080], [2560, 1440], [3840, 2160], [7680, 4320]] as const; // prettier-ignore
const ROUND_WIDTHS = [4096, 6144, 8192, 12288, 16384] as const;
const keys = <K extends string>(of: Record<K, unknown>) => Object.keys(of) as K[];

/** Size, quality, format and channels of pictures that are ordered. */
@Component({
  selector: 'dp-print-settings-form',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="field">
      <label for="print-size">Size</label>
      @if (round()) {
        <select
          id="print-size"
          class="form-select form-select-sm"
          data-testid="print-round-width"
          (change)="settings.width.set(+text($event))"
        >
          @for (width of roundWidths; track width) {
            <option [value]="width" [selected]="width === settings.width()">{{ width }} px all round</option>
          }
          @if (!isRoundWidth()) {
            <option [value]="settings.width()" selected>{{ settings.width() }} px all round</option>
          }
        </select>
        <span></span>
        <span
          ><input
            class="size mono"
            type="number"
            aria-label="Width in pixels"
            data-testid="print-width"
            min="16"
            [max]="mostRound"
            [value]="settings.width()"
            (change)="settings.width.set(+text($event))"
          />
          px wide</span
        >
      } @else {
        <select id="print-size" class="form-select form-select-sm" (change)="setSize($event)">
          @if (!isListed()) {
            <option value="" selected>own size</option>
          }
          @for (size of sizes; track size[0]) {
            <option [value]="size[0] + 'x' + size[1]" [selected]="size[0] === settings.width() && size[1] === settings.height()">
              {{ size[0] }} × {{ size[1] }}
            </option>
          }
        </select>
        <span></span>
        <span>
          <input
            class="size mono"
            type="number"
            aria-label="Width in pixels"
            data-testid="print-width"
            min="16"
            [max]="most"
            [value]="settings.width()"
            (change)="settings.resize(+text($event), settings.height())"
          />
          ×
          <input
            class="size mono"
            type="number"
            aria-label="Height in pixels"
            data-testid="print-height"
            min="16"
            [max]="most"
            [value]="settings.height()"
            (change)="settings.resize(settings.width(), +text($event))"
          />
          px
        </span>
      }
      <label for="print-quality">Quality</label>
      <span class="together">
        <select id="print-quality" class="form-select form-select-sm" data-testid="print-quality" (change)="setQuality(text($event))">
          @for (q of qualities; track q) {
            <option [value]="q" [selected]="settings.noise() === undefined && q === settings.quality()">
              {{ q }}, {{ samplesOf(q) }} samples
            </option>
          }
          <option value="noise" [selected]="settings.noise() !== undefined">until so little noise is left</option>
        </select>
        @if (settings.noise() !== undefined) {
          <input
            class="size mono"
            type="number"
            aria-label="Noise that is left, per cent"
            data-testid="print-noise"
            min="0.2"
            max="50"
            step="0.1"
            [value]="(settings.noise()! * 100).toFixed(1)"
            (change)="settings.noise.set(+text($event) / 100)"
          />%
        }
      </span>
      <label for="print-format">Format</label>
      <select
        id="print-format"
        class="form-select form-select-sm"
        data-testid="print-format"
        (change)="settings.format.set($any(text($event)))"
      >
        @for (format of formats; track format) {
          <option [value]="format" [selected]="format === settings.format()">{{ wordsOf(format) }}</option>
        }
      </select>
      <span></span>
      <label class="form-check mb-0"
        ><input
          class="form-check-input"
          type="checkbox"
          data-testid="print-denoise"
          [checked]="settings.denoise()"
          (change)="settings.denoise.set(checked($event))"
        />
        Denoise</label
      >
    </div>
    <details>
      <summary>Channels{{ settings.channels().length > 0 ? ', ' + settings.channels().length : '' }}, seed, start</summary>
      <div class="channels">
        @for (channel of channels; track channel) {
          <label class="form-check mb-0"
            ><input
              class="form-check-input"
              type="checkbox"
              [attr.data-channel]="channel"
              [checked]="settings.channels().includes(channel)"
              (change)="setChannel(channel, checked($event))"
            />
            {{ channelWords(channel) }}</label
          >
        }
      </div>
      <div class="field">
        <label for="print-seed">Seed</label>
        <input
          id="print-seed"
          class="form-control form-control-sm mono"
          type="number"
          min="0"
          step="1"
          [value]="settings.seed()"
          (change)="settings.seed.set(+text($event))"
        />
        <label for="print-start">Not before</label>
        <input
          id="print-start"
          class="form-control form-control-sm"
          type="datetime-local"
          data-testid="print-start"
          [value]="settings.startAt()"
          (change)="settings.startAt.set(text($event))"
        />
      </div>
    </details>
  `,
  styleUrl: './station.scss',
  styles: `
    :host {
      display: block;
      height: auto;
    }
    .size {
      width: 76px;
    }
    .together {
      display: flex;
      align-items: center;
      gap: 6px;
    }
    summary {
      font-size: 0.875rem;
      color: var(--ink-quiet);
      margin-bottom: 6px;
    }
    .channels {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 4px 12px;
      margin-bottom: 8px;
    }
  `,
})
export class PrintSettingsForm {
  protected readonly settings = inject(PrintSettings);
  /** The picture goes all round: its width alone is chosen. */
  readonly round = input(false);
  protected readonly sizes = SIZES;
  protected readonly roundWidths = ROUND_WIDTHS;
  protected readonly most = MAX_PRINT_SIDE;
  protected readonly mostRound = MAX_ROUND_WIDTH;
  protected readonly qualities = keys(PRINT_QUALITIES);
  protected readonly formats = keys(PICTURE_FORMATS);
  protected readonly channels = keys(CHANNELS);
  protected readonly samplesOf = (quality: PrintQuality) => PRINT_QUALITIES[quality].samples;
  protected readonly wordsOf = (format: PictureFormat) => PICTURE_FORMATS[format].words;
  protected readonly channelWords = (channel: Channel) => CHANNELS[channel];

  protected text(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }

  protected checked(event: Event): boolean {
    return (event.target as HTMLInputElement).checked;
  }

  protected isListed(): boolean {
    return SIZES.some(([w, h]) => w === this.settings.width() && h === this.settings.height());
  }

  protected isRoundWidth(): boolean {
    return (ROUND_WIDTHS as readonly number[]).includes(this.settings.width());
  }

  protected setSize(event: Event): void {
    const [w, h] = this.text(event).split('x').map(Number) as [number, number];
    if (!w || !h) return;
    this.settings.resize(w, h);
  }

  protected setQuality(chosen: string): void {
    this.settings.noise.set(chosen === 'noise' ? 0.02 : undefined);
    if (chosen !== 'noise') this.settings.quality.set(chosen as PrintQuality);
  }

  protected setChannel(channel: Channel, wanted: boolean): void {
    this.settings.channels.update((now) => this.channels.filter((c) => (c === channel ? wanted : now.includes(c))));
  }
}
