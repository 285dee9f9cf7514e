import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { chooseFinish } from '../../../core/project/project';
import { weighDecisions, type Matches } from '../../../core/project/replacing';
import type * as v from 'valibot';
import { fileTaken, replacementOffer } from '../../../core/project/answers';
import { ask, bytes } from '../state/ask';
import { Live } from '../state/live';

type Offer = v.InferOutput<typeof replacementOffer>;

const MOST_NAMED = 30;

/** Lets a file take a source's place: what stays, what goes on under another id, what is lost, then the deed. */
@Component({
  selector: 'dp-replacement-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { class: 'card-in-row' },
  template: `
    @if (offer(); as o) {
      <p class="mb-2">
        <strong>{{ o.fileName }}</strong> in the place of {{ name() }}
      </p>
      <table data-testid="replacement">
        <thead>
          <tr>
            <th scope="col"></th>
            <th scope="col">same id</th>
            <th scope="col">by name</th>
            <th scope="col">new</th>
            <th scope="col">gone</th>
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track row.words) {
            <tr>
              <th scope="row">{{ row.words }}</th>
              <td>{{ row.matches.kept }}</td>
              <td>{{ row.matches.byName.length }}</td>
              <td>{{ row.matches.added }}</td>
              <td>{{ row.matches.gone.length }}</td>
            </tr>
          }
        </tbody>
      </table>
      <p class="mt-2 mb-1" data-testid="replacement-decisions">{{ decisions() }}</p>
      @for (pair of materialPairs(); track pair.id) {
        <p class="quiet mb-0">{{ pair.name }} goes on with {{ pair.finish }}</p>
      }
      <div class="actions">
        <button type="button" class="btn btn-sm btn-dark" [disabled]="busy() !== ''" (click)="take(o)">Replace</button>
        <button type="button" class="link" (click)="done.emit()">Leave as it is</button>
      </div>
    } @else {
      <p class="quiet mb-2">
        Decisions stay with what has the same id, or else the same name. You see what that means before anything changes.
      </p>
      <label class="btn btn-sm btn-outline-dark"
        >Choose a file<input
          type="file"
          [accept]="accepted()"
          class="visually-hidden"
          data-testid="replacement-file"
          (change)="choose($event)"
      /></label>
    }
    @if (busy()) {
      <p class="mt-2 mb-0" role="status">{{ busy() }}</p>
    }
    @if (fault()) {
      <p class="fault mt-2 mb-0" role="alert">{{ fault() }}</p>
    }
  `,
  styleUrl: './station.scss',
  styles: `
    table {
      width: 100%;
      font-variant-numeric: tabular-nums;
    }
    th {
      font-weight: 400;
    }
    thead th,
    td {
      text-align: right;
      padding-left: 6px;
      white-space: nowrap;
    }
    thead {
      color: var(--ink-quiet);
      font-size: 0.75rem;
    }
  `,
})
export class ReplacementCard {
  readonly source = input.required<string>();
  readonly name = input.required<string>();
  readonly accepted = input.required<string>();
  readonly done = output();
  private readonly live = inject(Live);
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  private readonly models = toSignal(this.live.models$, { requireSync: true });
  protected readonly offer = signal<Offer | undefined>(undefined);
  protected readonly busy = signal('');
  protected readonly fault = signal('');

  protected readonly rows = computed((): { words: string; matches: Matches }[] => {
    const matches = this.offer()?.matches;
    return matches
      ? [
          { words: 'Elements', matches: matches.elements },
          { words: 'Source materials', matches: matches.materials },
        ]
      : [];
  });

  protected readonly decisions = computed(() => {
    const offer = this.offer();
    if (!offer) return '';
    const { stay, carried, sleep } = weighDecisions(this.entries(), this.source(), offer.matches);
    if (stay + carried + sleep.length === 0) return 'Nothing has been decided yet about single elements or source materials.';
    const names = sleep.slice(0, MOST_NAMED).join(', ') + (sleep.length > MOST_NAMED ? ' …' : '');
    return `Decisions: ${String(stay)} stay, ${String(carried)} go on by name, ${String(sleep.length)} sleep${names && `: ${names}`}.`;
  });

  /** Source materials whose finish goes on by name. */
  protected readonly materialPairs = computed(() => {
    const materials = this.models().get(this.source())?.materials;
    return (this.offer()?.matches.materials.byName ?? []).slice(0, MOST_NAMED).flatMap(([from]) => {
      const material = materials?.get(from);
      if (!material) return [];
      return [
        {
          id: from,
          name: material.name || from,
          finish: chooseFinish(this.entries(), this.source(), material).finish?.name ?? 'no finish',
        },
      ];
    });
  });

  protected async choose(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    const offer = await this.post(replacementOffer, `Reading ${file.name} …`, `${this.path()}?name=${encodeURIComponent(file.name)}`, file);
    this.offer.set(offer);
  }

  protected async take({ number, fileName, matches }: Offer): Promise<void> {
    const done = await this.post(fileTaken, 'Replacing …', `${this.path()}/${String(number)}/take`);
    if (!done) {
      this.offer.set(undefined);
      return;
    }
    const { elements, materials } = matches;
    if (weighDecisions(this.entries(), this.source(), matches).carried > 0 || elements.byName.length > 0)
      this.live.run({
        type: 'carry-decisions',
        source: this.source(),
        elements: elements.byName,
        materials: materials.byName,
        name: fileName,
      });
    this.done.emit();
  }

  private path(): string {
    return `/api/sources/${encodeURIComponent(this.source())}/offer`;
  }

  private async post<S extends v.GenericSchema>(schema: S, words: string, url: string, body?: File): Promise<v.InferOutput<S> | undefined> {
    this.busy.set(words);
    this.fault.set('');
    const asked = await ask(schema, url, bytes(body));
    this.busy.set('');
    if ('answer' in asked) return asked.answer;
    this.fault.set(asked.fault ?? 'The file did not reach the server; try again.');
    return undefined;
  }
}
