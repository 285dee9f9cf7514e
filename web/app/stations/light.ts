import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { NgbNavModule, NgbTypeaheadModule, type NgbTypeaheadSelectItemEvent } from '@ng-bootstrap/ng-bootstrap';
import { map, type Observable } from 'rxjs';
import type { Site } from '../../../core/model/schema';
import { findCities } from '../../../core/sky/cities';
import { Live } from '../state/live';
import { LightTable } from '../state/light-table';
import { PictureState, type Pointed } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { DevelopmentPanel } from './development-panel';
import { ExposurePanel } from './exposure-panel';
import { LuminaireSchedule } from './luminaire-schedule';
import { SkyPanel } from './sky-panel';
import { SunPathChart } from './sun-path-chart';

const ORIGIN_WORDS = { chosen: 'chosen here', model: 'from the model', assumed: 'assumed' } as const;

/** Luminaires, sun and site, exposure. */
@Component({
  selector: 'dp-light-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DevelopmentPanel, ExposurePanel, LuminaireSchedule, NgbNavModule, NgbTypeaheadModule, NgTemplateOutlet, SkyPanel, SunPathChart],
  templateUrl: './light.html',
  styleUrl: './station.scss',
  styles: `
    .angle {
      width: 90px;
    }
    .by-hand {
      font-weight: 600;
    }
  `,
})
export class LightStation {
  protected readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  protected readonly moment = toSignal(this.scene.moment$);
  protected readonly origins = ORIGIN_WORDS;
  protected readonly fault = signal('');
  protected readonly tab = signal('luminaires');
  protected readonly table = inject(LightTable);
  protected readonly trials = [
    { kind: 'hours', words: 'hours' },
    { kind: 'dates', words: 'months' },
    { kind: 'skies', words: 'skies' },
  ] as const;
  private readonly picture = inject(PictureState);
  protected readonly picksHorizon = signal(false);
  /** By bearing from the model's y. */
  protected readonly horizonByY = signal<readonly number[] | undefined>(undefined);
  /** By azimuth from true north. */
  protected readonly horizon = computed(() => {
    const seen = this.horizonByY();
    const north = this.moment()?.site.trueNorthDeg ?? 0;
    if (!seen) return undefined;
    const step = 360 / seen.length;
    const shift = Math.round(north / step);
    return seen.map((_, i) => seen[(((i + shift) % seen.length) + seen.length) % seen.length]!);
  });
  constructor() {
    this.picture.horizon$.pipe(takeUntilDestroyed()).subscribe((horizon) => {
      this.horizonByY.set(horizon);
    });
    inject(DestroyRef).onDestroy(() => {
      this.leaveHorizon();
    });
  }

  protected placeSun(altitudeDeg: number, azimuthDeg: number): void {
    if (!(Math.abs(altitudeDeg) <= 90) || !Number.isFinite(azimuthDeg)) return;
    this.live.run({ type: 'set-sun-by-hand', place: { altitudeDeg, azimuthDeg: ((azimuthDeg % 360) + 360) % 360 } });
  }

  protected pickHorizon(): void {
    if (this.picksHorizon()) {
      this.leaveHorizon();
      return;
    }
    this.picksHorizon.set(true);
    this.picture.pointTaker$.next(this.takeHorizon);
  }

  private readonly takeHorizon = ({ point }: Pointed) => {
    this.leaveHorizon();
    this.picture.horizonAt$.next(point);
  };

  private leaveHorizon(): void {
    this.picksHorizon.set(false);
    if (this.picture.pointTaker$.value === this.takeHorizon) this.picture.pointTaker$.next(undefined);
  }

  protected readonly search = (text$: Observable<string>): Observable<Site[]> => text$.pipe(map((text) => findCities(text)));
  protected readonly cityName = (site: Site): string => site.name;

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
}
