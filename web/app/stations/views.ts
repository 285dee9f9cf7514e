import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, map } from 'rxjs';
import { Icon } from '../sheet/icon';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { viewsOf, type ViewRow } from '../state/views';
import { WalksCard } from './walks-card';

/** Cameras that the model brings, and views kept here. */
@Component({
  selector: 'dp-views-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, WalksCard],
  template: `
    <div class="head">
      <h1>View schedule</h1>
      <span class="quiet">{{ rows().length }} views</span>
    </div>
    <div class="scroll">
      @for (row of rows(); track row.id) {
        <div class="row-line" [class.current]="current() === row.name">
          <button type="button" class="plain name text-truncate" (click)="go(row)">{{ row.name }}</button>
          <span class="mono quiet">{{ row.focalMm.toFixed(0) }} mm</span>
          <span class="quiet from">{{ row.kept ? 'kept here' : 'from the model' }}</span>
          @if (row.kept) {
            <button type="button" class="plain" [attr.aria-label]="'Drop view ' + row.name" (click)="drop(row)">
              <dp-icon name="remove" />
            </button>
          }
        </div>
      } @empty {
        <div class="body"><p>No views yet. Cameras that the model has saved appear here by themselves.</p></div>
      }
      <div class="body">
        <h2>This view</h2>
        <div class="field">
          <label for="focal">Focal length</label>
          <span
            ><input
              id="focal"
              class="form-control form-control-sm mono d-inline-block"
              style="width: 80px"
              type="number"
              min="10"
              max="200"
              step="1"
              [value]="lensMm()"
              (change)="setFocal($event)"
            />
            mm</span
          >
        </div>
        <form class="field" (submit)="keep($event, name)">
          <label for="view-name">Keep it as</label>
          <span class="d-flex gap-2"
            ><input #name id="view-name" class="form-control form-control-sm" maxlength="200" placeholder="Name" /><button
              class="btn btn-sm btn-outline-dark"
            >
              Keep
            </button></span
          >
        </form>
        <dp-walks-card />
        <p class="quiet mt-3 mb-0">Depth of field and sections will join here.</p>
      </div>
    </div>
  `,
  styleUrl: './station.scss',
  styles: `
    .row-line {
      display: flex;
      align-items: center;
      gap: 10px;
      padding: 7px 14px;
      border-bottom: 1px solid var(--rule);
    }
    .row-line.current {
      background: var(--paper-raised);
      font-weight: 600;
    }
    .name {
      flex: 1;
      min-width: 0;
    }
    .from {
      font-size: 0.8125rem;
      font-weight: 400;
    }
  `,
})
export class ViewsStation {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  protected readonly camera = toSignal(this.picture.camera$, { requireSync: true });
  /** To a tenth: on a walk it is anything. */
  protected readonly lensMm = computed(() => Math.round(this.camera().focalMm * 10) / 10);
  protected readonly current = toSignal(this.picture.viewName$);
  protected readonly rows = toSignal(
    combineLatest([inject(SceneState).sources$, this.live.entries$]).pipe(map(([sources, entries]) => viewsOf(sources, entries))),
    { initialValue: [] as ViewRow[] },
  );

  protected go({ name, position, target, focalMm }: ViewRow): void {
    this.picture.goTo$.next({ camera: { position, target, focalMm }, name });
  }

  protected drop(row: ViewRow): void {
    this.live.run({ type: 'drop-view', id: row.id });
  }

  protected setFocal(event: Event): void {
    const focalMm = Number((event.target as HTMLInputElement).value);
    if (focalMm >= 10 && focalMm <= 200) this.picture.goTo$.next({ camera: { ...this.camera(), focalMm } });
  }

  protected keep(event: Event, input: HTMLInputElement): void {
    event.preventDefault();
    const name = input.value.trim();
    if (!name) return;
    this.live.run({ type: 'keep-view', id: crypto.randomUUID(), name, camera: this.camera() });
    this.picture.viewName$.next(name);
    input.value = '';
  }
}
