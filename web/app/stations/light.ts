import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NgbTypeaheadModule, type NgbTypeaheadSelectItemEvent } from '@ng-bootstrap/ng-bootstrap';
import { map, type Observable } from 'rxjs';
import type { Site } from '../../../core/model/schema';
import { findCities } from '../../../core/sky/cities';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { SceneState } from '../state/scene-state';

const ORIGIN_WORDS = { chosen: 'chosen here', model: 'from the model', assumed: 'assumed' } as const;

/** Site, sun and exposure; the luminaires as the model brings them. */
@Component({
  selector: 'dp-light-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NgbTypeaheadModule],
  templateUrl: './light.html',
  styleUrl: './station.scss',
  styles: `
    .lamp {
      display: grid;
      grid-template-columns: minmax(0, 1fr) auto auto;
      gap: 10px;
      padding: 4px 0;
      border-bottom: 1px solid var(--rule);
    }
  `,
})
export class LightStation {
  protected readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  protected readonly moment = toSignal(this.scene.moment$);
  protected readonly exposure = toSignal(this.scene.exposure$);
  protected readonly ev100 = toSignal(inject(PictureState).ev100$, { requireSync: true });
  protected readonly origins = ORIGIN_WORDS;
  protected readonly fault = signal('');
  protected readonly luminaires = toSignal(
    this.live.models$.pipe(
      map((models) => [...models.values()].flatMap((m) => [...m.luminaires.values()]).sort((a, b) => a.circuit.localeCompare(b.circuit))),
    ),
    { initialValue: [] },
  );

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

  protected setMode(mode: 'auto' | 'fixed'): void {
    this.live.run({ type: 'set-exposure', mode, ev100: Math.round(this.ev100() * 10) / 10 });
  }

  protected setEv(event: Event): void {
    const ev100 = Number((event.target as HTMLInputElement).value);
    if (ev100 >= -10 && ev100 <= 24) this.live.run({ type: 'set-exposure', mode: 'fixed', ev100 });
  }
}
