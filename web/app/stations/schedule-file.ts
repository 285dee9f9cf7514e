import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { matchSchedule, readSchedule, scheduleCsv, scheduleJson, scheduleLines } from '../../../core/project/schedule-file';
import { saveFile } from '../sheet/save-file';
import { Live } from '../state/live';
import { ScheduleState } from '../state/schedule-state';

/** The finish schedule as a file, out and in. */
@Component({
  selector: 'dp-schedule-file',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="body file">
      <span class="quiet">The schedule as a file:</span>
      <a class="link" href="/api/schedule.pdf" download data-testid="schedule-pdf">PDF</a>
      <button type="button" class="link" (click)="save('csv')">CSV</button>
      <button type="button" class="link" (click)="save('json')">JSON</button>
      <label class="link"
        >bring one back<input
          #file
          type="file"
          accept=".csv,.json"
          class="visually-hidden"
          data-testid="schedule-file"
          (change)="bringBack(file)"
      /></label>
      @if (brought(); as said) {
        <p class="m-0 mt-1" role="status" data-testid="brought-back">{{ said }}</p>
      }
    </div>
  `,
  styleUrls: ['./station.scss', './finishes.scss'],
})
export class ScheduleFile {
  private readonly live = inject(Live);
  private readonly state = inject(ScheduleState);
  /** What came of a schedule that was brought back. */
  protected readonly brought = signal('');

  protected save(kind: 'csv' | 'json'): void {
    const lines = scheduleLines(this.state.rows(), this.state.files(), this.state.entries());
    if (kind === 'csv') saveFile('finish schedule.csv', 'text/csv', scheduleCsv(lines));
    else saveFile('finish schedule.json', 'application/json', scheduleJson(lines));
  }

  protected async bringBack(input: HTMLInputElement): Promise<void> {
    const file = input.files?.[0];
    if (!file) return;
    const lines = readSchedule(file.name, await file.text());
    input.value = '';
    if ('fault' in lines) {
      this.brought.set(lines.fault);
      return;
    }
    const { command, changed, unmatched } = matchSchedule(lines, this.state.files(), this.state.rows(), this.state.entries());
    if (command) this.live.run(command);
    const rest =
      unmatched.length > 0
        ? ` ${String(unmatched.length)} of ${String(lines.length)} lines fit nothing here: ${unmatched
            .slice(0, 3)
            .map((l) => l.name || l.id)
            .join(', ')}${unmatched.length > 3 ? ' …' : ''}.`
        : '';
    this.brought.set(`${String(changed)} ${changed === 1 ? 'row' : 'rows'} changed.${rest}`);
  }
}
