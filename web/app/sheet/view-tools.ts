import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NgbDropdownModule, NgbTooltipModule } from '@ng-bootstrap/ng-bootstrap';
import type { NavigationMode } from '../picture/navigation';
import { Controls } from '../state/controls';
import { PictureState } from '../state/picture-state';
import { PictureWindow } from '../state/picture-window';
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
  imports: [NgbDropdownModule, NgbTooltipModule, Icon],
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
      @if (window.isOpen()) {
        <button type="button" aria-label="Close the picture’s window" aria-pressed="true" (click)="window.close()">
          <dp-icon name="window" />
        </button>
      } @else if (window.canBeOnTop) {
        <span ngbDropdown container="body" placement="top-start">
          <button type="button" ngbDropdownToggle aria-label="Picture in a window" data-testid="picture-window">
            <dp-icon name="window" />
          </button>
          <span ngbDropdownMenu>
            <button ngbDropdownItem type="button" (click)="window.open(false)">In a window of its own, for a second screen</button>
            <button ngbDropdownItem type="button" (click)="window.open(true)">Over all other windows</button>
          </span>
        </span>
      } @else {
        <button
          type="button"
          aria-label="Picture in a window"
          data-testid="picture-window"
          ngbTooltip="The picture once more in a window of its own, for a second screen"
          container="body"
          [openDelay]="500"
          (click)="window.open(false)"
        >
          <dp-icon name="window" />
        </button>
      }
    </div>
    @if (window.fault()) {
      <p class="fault" role="alert">{{ window.fault() }}</p>
    }
  `,
  styles: `
    div {
      display: flex;
      gap: 4px;
    }
    button:not(.dropdown-item) {
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
    button:not(.dropdown-item):hover {
      background: var(--paper);
    }
  `,
})
export class ViewTools {
  protected readonly state = inject(PictureState);
  protected readonly controls = inject(Controls);
  protected readonly window = inject(PictureWindow);
  protected readonly modes = MODES;
  protected readonly mode = toSignal(this.state.mode$, { requireSync: true });
  protected readonly alive = toSignal(this.state.isAlive$, { requireSync: true });
  protected readonly inMotion = toSignal(this.state.inMotion$, { requireSync: true });
}
