import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NgbTooltipModule } from '@ng-bootstrap/ng-bootstrap';
import type { NavigationMode } from '../picture/navigation';
import { Controls } from '../state/controls';
import { PictureState } from '../state/picture-state';
import { Icon } from './icon';

const MODES: readonly { mode: NavigationMode; word: string; hint: string }[] = [
  { mode: 'orbit', word: 'Orbit', hint: 'Drag turns about the building; Shift+drag slides; the wheel approaches' },
  { mode: 'walk', word: 'Walk', hint: 'At eye height: W A S D or arrows walk, drag looks, double click goes there' },
  { mode: 'fly', word: 'Fly', hint: 'W A S D fly, E and Q rise and sink, drag looks' },
];

/** How one moves, and the way back. */
@Component({
  selector: 'dp-view-tools',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NgbTooltipModule, Icon],
  template: `
    <div role="group" aria-label="Moving about">
      @for (m of modes; track m.mode) {
        <button
          type="button"
          [attr.aria-pressed]="mode() === m.mode"
          [ngbTooltip]="m.hint"
          container="body"
          [openDelay]="500"
          (click)="state.mode$.next(m.mode)"
        >
          {{ m.word }}
        </button>
      }
      <button
        type="button"
        aria-label="Back"
        [ngbTooltip]="'Back to the previous place (' + controls.words('lastPlace') + ')'"
        container="body"
        [openDelay]="500"
        (click)="state.back$.next()"
      >
        <dp-icon name="back" />
      </button>
      <button
        type="button"
        aria-label="Next place"
        [ngbTooltip]="'On to where you went back from (' + controls.words('nextPlace') + ')'"
        container="body"
        [openDelay]="500"
        (click)="state.next$.next()"
      >
        <dp-icon name="forward" />
      </button>
      <button
        type="button"
        aria-label="See all"
        [ngbTooltip]="'Looks at all of the building, the way you look now (' + controls.words('all') + ')'"
        container="body"
        [openDelay]="500"
        (click)="state.seeAll$.next()"
      >
        <dp-icon name="whole" />
      </button>
      @if (alive()) {
        <button
          type="button"
          data-testid="motion"
          aria-label="Motion"
          [attr.aria-pressed]="inMotion()"
          [ngbTooltip]="inMotion() ? 'Stop the water; the picture is then refined as it stands' : 'Let the water run'"
          container="body"
          [openDelay]="500"
          (click)="state.inMotion$.next(!inMotion())"
        >
          <dp-icon [name]="inMotion() ? 'pause' : 'play'" />
        </button>
      }
    </div>
  `,
  styles: `
    div {
      display: flex;
      gap: 4px;
    }
    button {
      border: 1px solid #5d5d5b;
      background: #a2a2a0;
      color: #101820;
      padding: 4px 7px;
      border-radius: 2px;
      white-space: nowrap;
    }
    button[aria-pressed='true'] {
      background: var(--paper-raised);
      border-color: var(--ink);
      font-weight: 500;
    }
    button:hover {
      background: var(--paper);
    }
  `,
})
export class ViewTools {
  protected readonly state = inject(PictureState);
  protected readonly controls = inject(Controls);
  protected readonly modes = MODES;
  protected readonly mode = toSignal(this.state.mode$, { requireSync: true });
  protected readonly alive = toSignal(this.state.isAlive$, { requireSync: true });
  protected readonly inMotion = toSignal(this.state.inMotion$, { requireSync: true });
}
