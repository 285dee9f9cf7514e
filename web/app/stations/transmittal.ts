import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { Icon } from '../sheet/icon';
import { Live } from '../state/live';
import { PrintOrders } from '../state/print-orders';

/** What went out, or is on its way: deliveries with their folders and zips. */
@Component({
  selector: 'dp-transmittal',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    @for (delivery of rows(); track delivery.id) {
      <article class="row-line delivery" data-testid="delivery" [attr.data-whole]="delivery.folder !== null">
        <div class="title">
          <strong class="text-truncate">{{ delivery.name }}</strong>
          <span class="mono quiet">{{ delivery.createdAt.slice(0, 10) }}</span>
        </div>
        @if (delivery.folder; as folder) {
          <div>{{ delivery.count }} pictures, with an index page and a transmittal sheet</div>
          <div class="quiet folder" [title]="folder">{{ folder }}</div>
        } @else {
          <div>
            {{ delivery.finished }} of {{ delivery.count }} pictures
            @if (delivery.failed > 0) {
              <span class="fault">, {{ delivery.failed }} stopped: see Prints</span>
            }
          </div>
        }
        @if (delivery.tour; as tour) {
          <details>
            <summary>A tour of {{ tour.points.length }} points, {{ tour.links.length }} links</summary>
            @for (pair of pairs(tour.points.length); track pair[0] + '-' + pair[1]) {
              <label class="form-check mb-0"
                ><input
                  class="form-check-input"
                  type="checkbox"
                  [checked]="isLinked(tour.links, pair)"
                  (change)="relink(delivery.id, tour.links, pair)"
                />
                {{ tour.points[pair[0]] }} – {{ tour.points[pair[1]] }}</label
              >
            }
          </details>
        }
        <div class="actions">
          @if (delivery.folder) {
            <a class="link text-reset" data-testid="delivery-download" [href]="'/api/deliveries/' + delivery.id + '/delivery.zip'" download
              ><dp-icon name="download" /> All as a zip</a
            >
          }
          <button type="button" class="link" (click)="orders.removeDelivery(delivery.id)">
            {{ delivery.folder ? 'Drop its prints' : 'Call off' }}
          </button>
        </div>
      </article>
    } @empty {
      <div class="body">
        <p>Nothing has gone out yet. What is ordered in the register is listed here, and put together once all of it is printed.</p>
      </div>
    }
  `,
  styleUrl: './station.scss',
  styles: `
    .delivery {
      display: block;
      padding: 9px 14px;
      border-top: 1px solid var(--rule);
    }
    .title {
      display: flex;
      justify-content: space-between;
      gap: 8px;
    }
    .folder {
      overflow-wrap: anywhere;
      font-size: 0.8125rem;
    }
  `,
})
export class Transmittal {
  protected readonly orders = inject(PrintOrders);

  /** All pairs of so many points. */
  protected pairs(points: number): [number, number][] {
    return Array.from({ length: points }, (_, a) => a).flatMap((a) => Array.from({ length: points - a - 1 }, (_, i): [number, number] => [a, a + 1 + i])); // prettier-ignore
  }

  protected isLinked(links: readonly [number, number][], [a, b]: readonly [number, number]): boolean {
    return links.some(([p, q]) => p === a && q === b);
  }

  protected relink(delivery: string, links: readonly [number, number][], pair: [number, number]): void {
    const rest = links.filter(([a, b]) => a !== pair[0] || b !== pair[1]);
    void this.orders.link(delivery, rest.length < links.length ? rest : [...links, pair]);
  }

  private readonly now = toSignal(inject(Live).prints$, { requireSync: true });
  protected readonly rows = computed(() => {
    const { deliveries, prints } = this.now();
    return deliveries.map((delivery) => {
      const own = prints.filter((print) => print.delivery === delivery.id);
      const of = (...states: string[]) => own.filter(({ state }) => states.includes(state)).length;
      return { ...delivery, count: own.length, finished: of('finished'), failed: of('failed', 'cancelled') };
    });
  });
}
