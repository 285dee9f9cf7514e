import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { nameFits, readRules, rulesFile, withRules, type Rule } from '../../../core/finish/rules';
import { entry, findFinish } from '../../../core/project/project';
import { saveFile } from '../sheet/save-file';
import { Live } from '../state/live';
import { ScheduleState } from '../state/schedule-state';

/** Finishes by patterns of names: kept with the project, and as a file for the next one. */
@Component({
  selector: 'dp-rules-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="body">
      @if (rules().length > 0) {
        <h2>Rules</h2>
        @for (rule of lines(); track rule.pattern) {
          <div class="rule" data-testid="rule">
            <span class="text-truncate" [title]="rule.pattern">“{{ rule.pattern }}”</span>
            <span class="text-truncate" [title]="rule.name">{{ rule.name }}</span>
            <span class="mono quiet">{{ rule.fits }}</span>
            <button type="button" class="link" [attr.aria-label]="'Drop the rule ' + rule.pattern" (click)="drop(rule.pattern)">
              drop
            </button>
          </div>
        }
      }
      <div class="file">
        <span class="quiet">Rules by name:</span>
        @if (rules().length > 0) {
          <button type="button" class="link" (click)="save()">as a file</button>
        }
        <label class="link"
          >bring some in<input #file type="file" accept=".json" class="visually-hidden" data-testid="rules-file" (change)="bring(file)"
        /></label>
        @if (said()) {
          <p class="m-0 mt-1" role="status">{{ said() }}</p>
        }
      </div>
    </div>
  `,
  styleUrls: ['./station.scss', './finishes.scss'],
})
export class RulesCard {
  private readonly live = inject(Live);
  private readonly state = inject(ScheduleState);
  protected readonly said = signal('');
  protected readonly rules = computed((): readonly Rule[] => entry(this.state.entries(), 'rules') ?? []);
  protected readonly lines = computed(() =>
    this.rules().map(({ pattern, finish }) => ({
      pattern,
      name: findFinish(this.state.entries(), finish)?.name ?? finish,
      fits: this.state.rows().filter((row) => nameFits(pattern, row.name)).length,
    })),
  );

  protected drop(pattern: string): void {
    this.live.run({ type: 'set-rules', rules: this.rules().filter((r) => r.pattern !== pattern) });
  }

  protected save(): void {
    saveFile('finish rules.json', 'application/json', rulesFile(this.rules()));
  }

  protected async bring(input: HTMLInputElement): Promise<void> {
    const file = input.files?.[0];
    if (!file) return;
    const read = readRules(file.name, await file.text());
    input.value = '';
    if ('fault' in read) {
      this.said.set(read.fault);
      return;
    }
    // A finish that only the other project had is left out, and said.
    const known = read.filter((rule) => findFinish(this.state.entries(), rule.finish));
    if (known.length > 0) this.live.run({ type: 'set-rules', rules: withRules(this.rules(), known) });
    const left = read.length - known.length;
    this.said.set(
      `${String(known.length)} ${known.length === 1 ? 'rule' : 'rules'} brought in.${left > 0 ? ` ${String(left)} name finishes that are not here.` : ''}`,
    );
  }
}
