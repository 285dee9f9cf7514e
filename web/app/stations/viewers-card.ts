import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { conditionsOf } from '../../../core/project/conditions';
import { Icon } from '../sheet/icon';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { durationWords, sizeWords } from '../state/print-settings';
import { SceneState } from '../state/scene-state';
import { ViewerOrders, type ListedViewer } from '../state/viewer-orders';
import { cameraOf, viewsOf, type ViewRow } from '../state/views';

const QUALITIES = { 'a try': 8, good: 32, fine: 96 } as const;
type Quality = keyof typeof QUALITIES;
const HOURS = [8, 10, 12, 14, 16, 18];

/** The client's viewer: what is in it, those that were made, and links at which they are shown. */
@Component({
  selector: 'dp-viewers-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    <div class="scroll body">
      <p class="quiet">One file that the client opens by a double click, with nothing installed and no network: the building with its light baked, to be walked through.</p>
      <form class="field" (submit)="$event.preventDefault(); order(name.value)" (pointerenter)="turnTo()" (focusin)="turnTo()">
        <label for="viewer-name">Called</label>
        <input #name id="viewer-name" class="form-control form-control-sm" maxlength="200" value="For the client" data-testid="viewer-name" />
        <span>Conditions</span>
        <span class="ticks">
          @for (one of conditions(); track one.id) {
            <label class="form-check mb-0"><input class="form-check-input" type="checkbox" [attr.data-condition]="one.name" [checked]="chosen().has(one.id)" (change)="toggle(one.id)" /> {{ one.name }}</label>
          }
        </span>
        @if (options().length > 0) {
          <span>Options</span>
          <span class="ticks">
            @for (one of options(); track one.id) {
              <label class="form-check mb-0"><input class="form-check-input" type="checkbox" [checked]="chosen().has(one.id)" (change)="toggle(one.id)" /> {{ one.name }}</label>
            }
          </span>
        }
        <span>Hours</span>
        <label class="form-check mb-0"><input class="form-check-input" type="checkbox" data-testid="viewer-hours" [checked]="hours()" (change)="hours.set(!hours()); weigh()" /> the day as a slider, {{ hourWords }}</label>
        <label for="viewer-quality">Light</label>
        <select #quality id="viewer-quality" class="form-select form-select-sm w-auto" data-testid="viewer-quality" (change)="setQuality(quality.value)">
          @for (one of qualities; track one) {
            <option [value]="one" [selected]="one === chosenQuality()">{{ one }}, {{ samplesOf(one) }} samples</option>
          }
        </select>
        <span></span>
        <span>
          <button type="submit" class="btn btn-sm btn-outline-dark" data-testid="viewer-order" [disabled]="views().length === 0">Make the viewer</button>
          <span class="quiet ms-2">{{ looks().length }} {{ looks().length === 1 ? 'look' : 'looks' }}, {{ views().length }} views, <span data-testid="viewer-weight">{{ weightWords() }}</span></span>
        </span>
      </form>
      @if (orders.fault()) {
        <p class="fault" role="alert">{{ orders.fault() }}</p>
      }
      @for (one of orders.list(); track one.id) {
        <article class="viewer" data-testid="viewer" [attr.data-state]="one.state">
          <div class="title"><strong class="text-truncate">{{ one.name }}</strong> <span class="mono quiet">{{ one.createdAt.slice(0, 10) }}</span></div>
          @if (one.report; as report) {
            <div class="quiet">{{ size(report.bytes) }}, of which {{ size(report.modelBytes) }} model; made in {{ duration(report.seconds) }}</div>
            @for (left of report.leftOut; track left) {
              <div class="quiet">Left out: {{ left }}</div>
            }
          } @else if (one.fault) {
            <div class="fault">{{ one.fault }}</div>
          } @else {
            <div><progress [value]="one.done" max="1" [attr.aria-label]="'Light of ' + one.name"></progress> {{ one.state === 'waiting' ? 'waits' : 'light is baked' }}</div>
          }
          <div class="actions">
            @if (one.state === 'finished') {
              <a class="link text-reset" data-testid="viewer-download" [href]="'/api/viewers/' + one.id + '/file'" download><dp-icon name="download" /> The file</a>
              <button type="button" class="link" data-testid="viewer-link" (click)="linking.set(linking() === one.id ? '' : one.id)">A link to it …</button>
            }
            <button type="button" class="link" (click)="orders.remove(one.id)">{{ one.state === 'finished' || one.state === 'failed' ? 'Drop' : 'Call off' }}</button>
          </div>
          @if (linking() === one.id) {
            <form class="field mt-2" (submit)="$event.preventDefault(); makeLink(one, days.valueAsNumber, password.value, comments.checked, others.checked)">
              <label [for]="'days-' + one.id">Good for</label>
              <span><input #days [id]="'days-' + one.id" class="mono days" type="number" min="1" max="365" value="14" /> days</span>
              <label [for]="'password-' + one.id">Password</label>
              <input #password [id]="'password-' + one.id" class="form-control form-control-sm" maxlength="200" placeholder="none" data-testid="link-password" />
              <span></span>
              <label class="form-check mb-0"><input #comments class="form-check-input" type="checkbox" checked /> may make remarks</label>
              <label class="form-check mb-0"><input #others class="form-check-input" type="checkbox" /> sees the remarks of others</label>
              <span></span>
              <button type="submit" class="btn btn-sm btn-outline-dark" data-testid="link-make">Make the link</button>
            </form>
          }
          @if (made()?.viewer === one.id) {
            <p class="address mono" data-testid="link-address">{{ made()!.address }}</p>
            <p class="quiet">Keep it now: it is not shown again.</p>
          }
          @for (link of one.links; track link.id) {
            <details class="link-row">
              <summary>{{ link.revoked ? 'Link withdrawn' : 'Link until ' + link.expiresAt.slice(0, 10) }}{{ link.hasPassword ? ', password' : '' }}{{ link.mayComment ? (link.showsOthers ? ', all remarks' : ', remarks') : '' }}: opened {{ link.opened }} ×</summary>
              @for (entry of link.log; track $index) {
                <div class="mono quiet">{{ entry.at.slice(0, 16).replace('T', ' ') }} {{ entry.address }} {{ entry.what }}</div>
              }
              @if (!link.revoked) {
                <button type="button" class="link" data-testid="link-revoke" (click)="orders.revoke(link.id)">Withdraw it</button>
              }
            </details>
          }
        </article>
      }
    </div>
  `,
  styleUrl: './station.scss',
  styles: `
    .ticks {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 14px;
      font-size: 0.875rem;
    }
    .ticks label {
      min-height: 26px;
    }
    .viewer {
      padding: 10px 0;
      border-top: 1px solid var(--rule);
      font-size: 0.875rem;
    }
    .title {
      display: flex;
      justify-content: space-between;
      gap: 8px;
    }
    .days {
      width: 64px;
    }
    .address {
      margin: 6px 0 0;
      overflow-wrap: anywhere;
      user-select: all;
    }
    .link-row {
      margin-top: 4px;
    }
  `,
}) // prettier-ignore
export class ViewersCard {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  protected readonly orders = inject(ViewerOrders);
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  private readonly sources = toSignal(inject(SceneState).sources$, { initialValue: [] });
  protected readonly qualities = Object.keys(QUALITIES) as Quality[];
  protected readonly samplesOf = (quality: Quality): number => QUALITIES[quality];
  protected readonly chosenQuality = signal<Quality>('good');
  protected readonly hours = signal(false);
  protected readonly hourWords = `${String(HOURS[0])} to ${String(HOURS.at(-1))} h`;
  protected readonly linking = signal('');
  protected readonly made = signal<{ viewer: string; address: string } | undefined>(undefined);
  protected readonly conditions = computed(() => [
    { id: '', name: 'as shown now' },
    ...conditionsOf(this.entries()).map(({ id, name }) => ({ id, name })),
  ]);
  protected readonly options = computed(() =>
    this.sources().flatMap(({ id: source, model }) =>
      model.presentation.options.length > 1 ? model.presentation.options.map(({ id, name }) => ({ id: `${source}/${id}`, name, source, option: id })) : [],
    ),
  ); // prettier-ignore
  protected readonly chosen = signal<ReadonlySet<string>>(new Set(['']));
  protected readonly views = computed(() => viewsOf(this.sources(), this.entries()).filter(({ parallelM }) => parallelM === undefined));
  /** Conditions by options; then the hours of the day. */
  protected readonly looks = computed(() => {
    const options = this.options().filter(({ id }) => this.chosen().has(id));
    const states = this.conditions().filter(({ id }) => this.chosen().has(id));
    const each = states.flatMap(({ id, name }) =>
      (options.length > 0 ? options : [undefined]).map((option) => ({
        name: option ? `${name}, ${option.name}` : name,
        ...(id && { condition: id }),
        ...(option && { option: { source: option.source, option: option.option } }),
      })),
    );
    const day = this.hours() ? HOURS.map((hour) => ({ name: `${String(hour).padStart(2, '0')}:00`, minutes: hour * 60 })) : [];
    return [...each, ...day];
  });
  protected readonly size = sizeWords;
  private readonly turnedTo = signal(false);
  protected readonly weightWords = computed(() => {
    const weight = this.orders.weight();
    return weight ? `about ${sizeWords(weight.bytes)}` : this.turnedTo() ? 'its size is worked out …' : 'its size is told as you choose';
  });
  protected readonly duration = durationWords;

  constructor() {
    void this.orders.refresh();
  }

  /** Somebody's pointer or focus has come to the form: what it would become is weighed, which takes the server seconds. */
  protected turnTo(): void {
    if (this.turnedTo()) return;
    this.turnedTo.set(true);
    this.weigh();
  }

  protected toggle(id: string): void {
    const now = new Set(this.chosen());
    if (!now.delete(id)) now.add(id);
    this.chosen.set(now);
    this.weigh();
  }

  protected setQuality(name: string): void {
    this.chosenQuality.set(name as Quality);
  }

  protected async order(name: string): Promise<void> {
    // The view that is looked at comes first, and is on the poster.
    const now = this.picture.viewName$.value;
    const views = [...this.views()].sort((a, b) => Number(b.name === now) - Number(a.name === now));
    await this.orders.order(this.orderOf(name, views));
  }

  private orderOf(name: string, views: readonly ViewRow[]) {
    return {
      name: name.trim() || 'Viewer',
      looks: this.looks(),
      views: views.map((view) => ({ name: view.name, camera: cameraOf(view), ...(view.shown && { shown: view.shown }) })),
      samples: QUALITIES[this.chosenQuality()],
    };
  }

  /** Tells how large the file becomes, before it is made. */
  protected weigh(): void {
    if (this.looks().length > 0 && this.views().length > 0) this.orders.weigh(() => this.orderOf('', this.views()));
  }

  protected async makeLink({ id }: ListedViewer, days: number, password: string, mayComment: boolean, showsOthers: boolean): Promise<void> {
    const address = await this.orders.link(id, { days: days || 14, mayComment, showsOthers, ...(password && { password }) });
    if (!address) return;
    this.linking.set('');
    this.made.set({ viewer: id, address });
  }
}
