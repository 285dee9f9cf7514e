import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { DetailChoice, DetailReport } from '../picture/working-detail';
import { PictureState } from '../state/picture-state';

const CHOICES: readonly { choice: DetailChoice; words: string }[] = [
  { choice: 'automatic', words: 'as this computer allows' },
  { choice: 'nowhere', words: 'full, always' },
  { choice: 'moving', words: 'less while moving' },
  { choice: 'always', words: 'less, always' },
];

/** Metres. */
const TELLING_M = 0.2;
const whole = (triangles: number) => Math.round(triangles).toLocaleString('en');

/** What the working picture shows of the model, and what that costs in truth. */
export function detailWords({ way, fullTriangles, restingTriangles, movingTriangles, lossM }: DetailReport): string {
  if (way === 'nowhere' || movingTriangles === fullTriangles) return `All ${whole(fullTriangles)} triangles are drawn.`;
  // What is far is coarser by far more than anybody sees: a length says nothing then.
  const off = lossM < TELLING_M ? `off by up to ${(lossM * 1000).toFixed(0)} mm` : 'coarser than they are';
  const loss = `round and small things are ${off}, and the smallest are left out while the camera moves`;
  return way === 'moving'
    ? `All ${whole(fullTriangles)} triangles are drawn at rest. While the camera moves, at most ${whole(movingTriangles)}: ${loss}.`
    : `At most ${whole(restingTriangles)} of ${whole(fullTriangles)} triangles are drawn: ${loss}.`;
}

/** What the maps of finishes take. */
export function mapWords(memory: { used: number; most: number } | undefined): string {
  if (!memory || memory.used === 0) return '';
  const megabytes = (bytes: number) => Math.round(bytes / 1e6).toLocaleString('en');
  return `The finishes’ maps take ${megabytes(memory.used)} of at most ${megabytes(memory.most)} MB; beyond that, far ones get coarser.`;
}

/** How much detail the working picture has, and what is lost by it. */
@Component({
  selector: 'dp-working-detail-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>Working detail</h2>
    <div class="field">
      <label for="working-detail">In the draft</label>
      <select #detail id="working-detail" class="form-select form-select-sm" (change)="choose(detail.value)">
        @for (c of choices; track c.choice) {
          <option [value]="c.choice" [selected]="c.choice === chosen()">{{ c.words }}</option>
        }
      </select>
    </div>
    @if (words(); as sentence) {
      <p class="quiet mb-0" data-testid="working-detail">{{ sentence }} The refined picture and prints have full detail.</p>
    }
    @if (maps(); as sentence) {
      <p class="quiet mb-0" data-testid="map-memory">{{ sentence }}</p>
    }
  `,
  styleUrl: './station.scss',
})
export class WorkingDetailCard {
  private readonly picture = inject(PictureState);
  protected readonly choices = CHOICES;
  protected readonly chosen = toSignal(this.picture.detailChoice$, { requireSync: true });
  private readonly report = toSignal(this.picture.detail$);
  protected readonly words = computed(() => {
    const report = this.report();
    return report && report.fullTriangles > 0 ? detailWords(report) : undefined;
  });

  private readonly memory = toSignal(this.picture.mapMemory$);
  protected readonly maps = computed(() => mapWords(this.memory()));

  protected choose(value: string): void {
    this.picture.detailChoice$.next(value as DetailChoice);
  }
}
