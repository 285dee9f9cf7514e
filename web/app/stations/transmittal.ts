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
