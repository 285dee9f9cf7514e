import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, map } from 'rxjs';
import { settingOf } from '../../../core/image/white-balance';
import { clock } from '../../../core/project/clock';
import { Live } from '../state/live';
import type { SourceSummary } from '../../../core/project/live';
import { PictureState, type PictureStatus } from '../state/picture-state';
import { Revisions, type EarlierModel } from '../state/revisions';
import { SceneState } from '../state/scene-state';

export const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** "16 Oct" of an ISO date. */
export function shortDate(date: string): string {
  return `${String(Number(date.slice(8, 10)))} ${MONTHS[Number(date.slice(5, 7)) - 1]!}`;
}

function words({ state, progress }: PictureStatus): string {
  if (state === 'refining') return `refining ${String(Math.max(1, Math.floor(progress * 100)))} %`;
  return { waiting: 'no model yet', draft: 'draft', finished: 'finished', fault: 'draft, not refined' }[state];
}

/** What the picture was taken with, in the mat under it. */
@Component({
  selector: 'dp-title-block',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (block(); as b) {
      <dl data-testid="title-block">
        <div class="view">
          <dt>View</dt>
          <dd class="text-truncate" [title]="b.view">{{ b.view }}</dd>
        </div>
        <div>
          <dt>Lens / eye</dt>
          <dd class="mono">{{ b.lens }} / {{ b.eye }}</dd>
        </div>
        <div>
          <dt>{{ b.when }}</dt>
          <dd class="mono">sun {{ b.altitude }} / {{ b.azimuth }}</dd>
        </div>
        <div>
          <dt>Exposure, {{ b.mode }}</dt>
          <dd class="mono">EV {{ b.ev }} / {{ b.kelvin }} K</dd>
        </div>
        <div>
          <dt>Model</dt>
          <dd class="mono">{{ b.revision }}</dd>
        </div>
        <div class="state">
          <dt>Picture</dt>
          <dd class="mono" data-testid="picture-state" [attr.data-state]="b.state" [title]="b.fault ?? ''">{{ b.picture }}</dd>
        </div>
      </dl>
    }
  `,
  styles: `
    dl {
      display: flex;
      margin: 0;
      background: var(--paper-raised);
      border: 1px solid var(--ink);
    }
    div {
      padding: 3px 5px 4px;
      border-left: 1px solid var(--ink);
      white-space: nowrap;
    }
    div:first-child {
      border-left: 0;
    }
    dt {
      font-weight: 400;
      font-size: 0.6875rem;
      color: var(--ink-quiet);
      line-height: 1.3;
    }
    dd {
      margin: 0;
      font-size: 0.75rem;
      line-height: 1.35;
    }
    .view dd {
      max-width: 120px;
    }
    .state {
      min-width: 98px;
    }
    @media (max-width: 1180px) {
      div {
        padding: 3px 5px 4px;
      }
      dd {
        font-size: 0.75rem;
      }
      .view dd {
        max-width: 96px;
      }
    }
  `,
})
export class TitleBlock {
  private readonly picture = inject(PictureState);
  private readonly scene = inject(SceneState);
  private readonly live = inject(Live);

  protected readonly block = toSignal(
    combineLatest([
      this.picture.camera$, this.picture.viewName$, this.picture.status$, this.picture.ev100$, this.picture.white$,
      this.scene.moment$, this.scene.exposure$, this.live.sources$, inject(Revisions).earlier$, this.scene.showsBefore$,
    ]).pipe(
      map(([camera, view, status, ev100, white, moment, exposure, sources, earlier, before]) => ({
        view: view ?? 'Free view',
        lens: camera.parallelM === undefined ? `${camera.focalMm.toFixed(0)} mm` : `${camera.parallelM.toFixed(1)} m wide`,
        eye: `${camera.position[2].toFixed(2)} m`,
        when: `${shortDate(moment.sun.date)}, ${clock(moment.sun.minutes)}`,
        altitude: `${moment.position.altitudeDeg.toFixed(1)}°`,
        azimuth: `${moment.position.azimuthDeg.toFixed(0)}°`,
        ev: ev100.toFixed(1),
        kelvin: (Math.round(settingOf(white.x, white.y).kelvin / 50) * 50).toFixed(0),
        mode: exposure.mode === 'auto' ? 'automatic' : 'fixed',
        revision: revisionWords(sources, earlier),
        state: status.state,
        picture: before ? 'before last step' : words(status),
        fault: status.fault,
      })),
    ),
  ); // prettier-ignore
}

/** Revisions of the sources in their order; one that is looked at instead of the present one in brackets. */
function revisionWords(sources: readonly SourceSummary[], earlier: EarlierModel | undefined): string {
  if (sources.length === 0) return '–';
  const numbers = sources.map((s) =>
    earlier?.as === 'shown' && s.id === earlier.source ? `(${String(earlier.revision)})` : String(s.revision),
  );
  return `rev ${numbers.join('+')}`;
}
