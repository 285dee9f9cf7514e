import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { NgbNavModule } from '@ng-bootstrap/ng-bootstrap';
import { PictureState } from '../state/picture-state';
import { ScheduleState } from '../state/schedule-state';
import { LibraryList } from './library-list';
import { ScheduleList } from './schedule-list';

/** What surfaces look like: the finish schedule and the library. */
@Component({
  selector: 'dp-finishes-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NgbNavModule, LibraryList, ScheduleList],
  templateUrl: './finishes.html',
  styleUrls: ['./station.scss', './finishes.scss'],
})
export class FinishesStation {
  protected readonly state = inject(ScheduleState);
  protected readonly tab = signal<'schedule' | 'library'>('schedule');
  protected readonly unassigned = computed(() => this.state.rows().filter((r) => r.choice.origin === 'none').length);
  protected readonly guessed = computed(() => this.state.rows().filter((r) => r.choice.origin === 'by name').length);
  protected readonly counts = computed(() =>
    [
      this.unassigned() > 0 ? `${String(this.unassigned())} unassigned` : '',
      this.guessed() > 0 ? `${String(this.guessed())} guessed` : '',
      `${String(this.state.rows().length)} ${this.state.rows().length === 1 ? 'row' : 'rows'}`,
    ]
      .filter(Boolean)
      .join(', '),
  );

  constructor() {
    // A surface that is clicked opens its row, which takes it from here.
    inject(PictureState)
      .picked$.pipe(takeUntilDestroyed())
      .subscribe((picked) => {
        if (picked) this.tab.set('schedule');
      });
  }
}
