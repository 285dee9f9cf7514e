import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { RevisionRow } from '../../../core/project/live';
import type { ElementCounts } from '../../../core/model/model';
import { Live } from '../state/live';
import { Revisions, type EarlierModel } from '../state/revisions';

/** What a change did, in words. */
export function countWords(counts: ElementCounts): string {
  const parts = (['added', 'changed', 'removed'] as const)
    .filter((kind) => counts[kind] > 0)
    .map((kind) => `${String(counts[kind])} ${kind}`);
  return parts.join(', ') || 'no element';
}

/** Earlier states of one source, to be looked at and compared. */
@Component({
  selector: 'dp-revision-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { class: 'card-in-row' },
  template: `
    @if (fault()) {
      <p class="fault mb-0" role="alert">{{ fault() }}</p>
    }
    <div class="rows" data-testid="revisions">
      @for (row of rows(); track row.revision) {
        <div class="row-line" [class.current]="row.revision === looked()?.revision">
          <span class="mono">{{ row.revision }}</span>
          <span class="mono quiet">{{ time(row.at) }}</span>
          <span>{{ row.held ? 'waiting' : row.counts ? words(row.counts) : '' }}</span>
          @if (row.revision === present()) {
            <span class="quiet now">now</span>
          } @else if (!row.held) {
            <span class="now">
              <button
                type="button"
                class="link"
                (click)="look(row, 'compared')"
                [attr.aria-label]="'Compare with revision ' + row.revision"
              >
                compare
              </button>
              <button type="button" class="link" (click)="look(row, 'shown')" [attr.aria-label]="'Show revision ' + row.revision">
                show
              </button>
            </span>
          }
        </div>
      }
    </div>
    @if (looked(); as earlier) {
      <p class="mb-0 mt-2" role="status">
        @if (earlier.as === 'shown') {
          Revision {{ earlier.revision }} is shown, on this page only.
        } @else {
          Compared with revision {{ earlier.revision }}: <span class="key added">added</span> <span class="key changed">changed</span>
          <span class="key removed">removed</span>
        }
        <button type="button" class="link" (click)="revisions.present()">Back to now</button>
      </p>
    }
  `,
  styleUrl: './station.scss',
  styles: `
    .rows {
      max-height: 216px;
      overflow-y: auto;
      border-top: 1px solid var(--rule);
    }
    .row-line {
      display: grid;
      grid-template-columns: 32px 46px minmax(0, 1fr) auto;
      gap: 8px;
      padding: 3px 0;
      border-bottom: 1px solid var(--rule);
    }
    .row-line.current {
      background: var(--paper-raised);
      font-weight: 600;
    }
    .now {
      display: flex;
      gap: 10px;
    }
    .key {
      padding: 0 6px;
      margin-right: 4px;
      color: #fff;
    }
    .added {
      background: repeating-linear-gradient(-45deg, #2f746c 0 4px, #2f746ccc 4px 8px);
    }
    .changed {
      background: radial-gradient(#7a5200 30%, #8d5f00 32%) 0 0 / 6px 6px;
    }
    .removed {
      background: repeating-linear-gradient(45deg, #a3223a 0 4px, #a3223acc 4px 8px);
    }
  `,
})
export class RevisionList {
  readonly source = input.required<string>();
  protected readonly revisions = inject(Revisions);
  private readonly sources = toSignal(inject(Live).sources$, { requireSync: true });
  protected readonly present = computed(() => this.sources().find((s) => s.id === this.source())?.revision);
  private readonly earlier = toSignal(this.revisions.earlier$, { requireSync: true });
  protected readonly looked = computed((): EarlierModel | undefined =>
    this.earlier()?.source === this.source() ? this.earlier() : undefined,
  );
  protected readonly rows = signal<readonly RevisionRow[]>([]);
  protected readonly fault = signal('');
  protected readonly words = countWords;

  constructor() {
    effect(() => {
      const source = this.source();
      this.present();
      void this.load(source);
    });
  }

  protected time(at: string): string {
    return new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
  }

  protected async look(row: RevisionRow, as: EarlierModel['as']): Promise<void> {
    this.fault.set('');
    try {
      await this.revisions.look(this.source(), row.revision, as);
    } catch {
      this.fault.set(`Revision ${String(row.revision)} could not be fetched; try again.`);
    }
  }

  private async load(source: string): Promise<void> {
    try {
      this.rows.set(await this.revisions.list(source));
    } catch {
      this.fault.set('The revisions could not be fetched; try again.');
    }
  }
}
