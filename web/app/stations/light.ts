import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NgbNavModule, NgbTypeaheadModule, type NgbTypeaheadSelectItemEvent } from '@ng-bootstrap/ng-bootstrap';
import { map, take, type Observable, type Subscription } from 'rxjs';
import { LEAST_KELVIN, MOST_KELVIN, MOST_TINT, settingOf, type WhiteSetting } from '../../../core/image/white-balance';
import { DEFAULT_EXPOSURE, type EntryTypes } from '../../../core/project/project';
import type { Site } from '../../../core/model/schema';
import { GENERAL_SKIES, usualSkyLux } from '../../../core/sky/general-sky';
import type { Moment } from '../../../core/scene/moment';
import { findCities } from '../../../core/sky/cities';
import { Live } from '../state/live';
import { PictureState, type Pointed } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { LuminaireSchedule } from './luminaire-schedule';

const ORIGIN_WORDS = { chosen: 'chosen here', model: 'from the model', assumed: 'assumed' } as const;

/** Luminaires, sun and site, exposure. */
@Component({
  selector: 'dp-light-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [LuminaireSchedule, NgbNavModule, NgbTypeaheadModule, NgTemplateOutlet],
  templateUrl: './light.html',
  styleUrl: './station.scss',
})
export class LightStation {
  protected readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  protected readonly moment = toSignal(this.scene.moment$);
  private readonly picture = inject(PictureState);
  protected readonly exposure = toSignal(this.scene.exposure$, { initialValue: DEFAULT_EXPOSURE });
  private readonly ev100 = toSignal(this.picture.ev100$, { requireSync: true });
  /** Where it is fixed, what was fixed: the picture's follows later, and would take away what is being typed. */
  protected readonly ev = computed(() => (this.exposure().mode === 'fixed' ? this.exposure().ev100 : this.ev100()));
  private readonly seenWhite = toSignal(this.picture.white$, { requireSync: true });
  protected readonly picksGrey = signal(false);
  private picked: Subscription | undefined;
  protected readonly origins = ORIGIN_WORDS;
  protected readonly fault = signal('');
  protected readonly tab = signal('luminaires');
  protected readonly skies = GENERAL_SKIES;
  protected readonly skyLux = ({ sky, position }: Moment): number =>
    Math.round(sky!.lux ?? usualSkyLux(sky!.type, position.trueAltitudeDeg));

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.leaveGrey();
    });
  }

  protected readonly search = (text$: Observable<string>): Observable<Site[]> => text$.pipe(map((text) => findCities(text)));
  protected readonly cityName = (site: Site): string => site.name;

  /** By its number; empty: the computed one. */
  protected chooseSky(number: string): void {
    this.live.run({ type: 'choose-sky', sky: number === '' ? null : { type: Number(number) } });
  }

  protected setSkyLux({ type }: { type: number }, lux: number): void {
    if (lux >= 1 && lux <= 150_000) this.live.run({ type: 'choose-sky', sky: { type, lux } });
  }

  protected choose(event: NgbTypeaheadSelectItemEvent<Site>): void {
    this.live.run({ type: 'choose-site', site: { ...event.item, trueNorthDeg: this.moment()?.site.trueNorthDeg ?? 0 } });
  }

  protected setCoordinates(event: Event, latitude: string, longitude: string, north: string): void {
    event.preventDefault();
    const [latitudeDeg, longitudeDeg, trueNorthDeg] = [latitude, longitude, north].map(Number) as [number, number, number];
    if (!(Math.abs(latitudeDeg) <= 90) || !(Math.abs(longitudeDeg) <= 180) || !(Math.abs(trueNorthDeg) <= 360)) {
      this.fault.set('Latitude runs from −90 to 90, longitude from −180 to 180 degrees.');
      return;
    }
    this.fault.set('');
    const kept = this.moment()?.site;
    const same = kept !== undefined && kept.latitudeDeg === latitudeDeg && kept.longitudeDeg === longitudeDeg;
    this.live.run({
      type: 'choose-site',
      site: { name: same ? kept.name : 'By coordinates', latitudeDeg, longitudeDeg, elevationM: kept?.elevationM ?? 0, trueNorthDeg },
    });
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
      this.leaveGrey();
      return;
    }
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

  private leaveGrey(): void {
    this.picked?.unsubscribe();
    this.picksGrey.set(false);
    if (this.picture.pointTaker$.value === this.takeGrey) this.picture.pointTaker$.next(undefined);
  }

  private run(change: Partial<EntryTypes['exposure']>): void {
    const { mode, ev100, white } = { ...this.exposure(), ...change };
    this.live.run({ type: 'set-exposure', mode, ev100, ...(white && { white }) });
  }
}
