import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { NgbCollapse } from '@ng-bootstrap/ng-bootstrap';
import type { Moment } from '../../../core/scene/moment';
import { USUAL_ALBEDO, USUAL_TURBIDITY } from '../../../core/sky/atmosphere';
import type { Clouds } from '../../../core/sky/clouds';
import type { Fog } from '../../../core/sky/fog';
import { GENERAL_SKIES, usualSkyLux } from '../../../core/sky/general-sky';
import type { Weather } from '../../../core/sky/sky-map';
import type { SkyPictureChoice } from '../../../core/sky/sky-picture';
import { colourOf, hexOf } from '../sheet/colour-field';
import { Slider } from '../sheet/slider';
import { Live } from '../state/live';
import { SceneState } from '../state/scene-state';
import { SkyPictures } from '../state/sky-pictures';

const FIRST_FOG: Fog = { visibilityM: 400, heightM: 40, colour: [0.98, 0.98, 1] };
const FIRST_CLOUDS: Clouds = { cover: 0.4, heightM: 1400, seed: 1, windMs: 6 };
const PICTURE = 'picture';
const BRING = '+';

/** The sky: computed, standard or a picture; its air, clouds and fog. */
@Component({
  selector: 'dp-sky-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NgbCollapse, Slider],
  templateUrl: './sky-panel.html',
  styleUrl: './station.scss',
  styles: `
    :host {
      display: block;
      height: auto;
    }
    .number {
      width: 110px;
    }
    .sliders {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 4px 16px;
      margin: 2px 0 8px;
    }
    .form-check {
      margin-top: 8px;
    }
  `,
})
export class SkyPanel {
  readonly moment = input.required<Moment>();
  private readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  private readonly pictures = inject(SkyPictures);
  protected readonly skies = GENERAL_SKIES;
  protected readonly hexOf = hexOf;
  protected readonly colourOf = colourOf;
  protected readonly found = signal('');
  protected readonly busy = signal(false);
  protected readonly general = computed(() => {
    const { sky } = this.moment();
    return sky && 'type' in sky ? sky : undefined;
  });
  protected readonly picture = computed(() => {
    const { sky } = this.moment();
    return sky && 'picture' in sky ? sky.picture : undefined;
  });
  protected readonly kind = computed(() => (this.picture() ? PICTURE : (this.general()?.type.toString() ?? '')));
  protected readonly weather = computed((): Weather => this.moment().weather ?? {});
  protected readonly turbidity = computed(() => this.weather().turbidity ?? USUAL_TURBIDITY);
  protected readonly albedo = computed(() => this.weather().groundAlbedo ?? USUAL_ALBEDO);
  protected readonly lux = computed(() => {
    const sky = this.general();
    return sky && Math.round(sky.lux ?? usualSkyLux(sky.type, this.moment().position.trueAltitudeDeg));
  });
  /** Visibility is felt by its proportions: the slider runs over its logarithm. */
  protected readonly logOf = Math.log10;
  protected readonly metres = (m: number): string =>
    m >= 10_000 ? `${(m / 1000).toFixed(0)} km` : m >= 1000 ? `${(m / 1000).toFixed(1)} km` : `${m.toFixed(0)} m`;

  protected choose(kind: string, picker: HTMLInputElement): void {
    if (kind === BRING) picker.click();
    else if (kind !== PICTURE) this.live.run({ type: 'choose-sky', sky: kind === '' ? null : { type: Number(kind) } });
  }

  protected async bring(picker: HTMLInputElement): Promise<void> {
    const file = picker.files?.[0];
    picker.value = '';
    if (!file) return;
    this.busy.set(true);
    this.found.set((await this.pictures.bring(file)) ?? '');
    this.busy.set(false);
  }

  protected setLux(type: number, lux: number): void {
    if (lux >= 1 && lux <= 150_000) this.live.run({ type: 'choose-sky', sky: { type, lux } });
  }

  protected setPicture(picture: SkyPictureChoice, change: Partial<SkyPictureChoice>): void {
    this.scene.skyPreview$.next(undefined);
    if (!(change.level === undefined || change.level > 0)) return;
    this.live.run({ type: 'choose-sky', sky: { picture: { ...picture, ...change } } });
  }

  protected slidePicture(picture: SkyPictureChoice, change: Partial<SkyPictureChoice>): void {
    this.scene.skyPreview$.next({ sky: { picture: { ...picture, ...change } } });
  }

  protected slide(change: Partial<Weather>): void {
    this.scene.skyPreview$.next({ weather: { ...this.weather(), ...change } });
  }

  protected set(change: Partial<Weather>, name: string): void {
    this.scene.skyPreview$.next(undefined);
    const weather = Object.fromEntries(
      Object.entries({ ...this.weather(), ...change }).filter(([, part]) => part !== undefined),
    ) as Weather;
    this.live.run({ type: 'set-weather', weather, name });
  }

  protected fogWith(change: Partial<Fog>): Partial<Weather> {
    return { fog: { ...(this.weather().fog ?? FIRST_FOG), ...change } };
  }

  protected cloudsWith(change: Partial<Clouds>): Partial<Weather> {
    return { clouds: { ...(this.weather().clouds ?? FIRST_CLOUDS), ...change } };
  }
}
