import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, debounceTime, map, shareReplay } from 'rxjs';
import { Icon } from '../sheet/icon';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { conditionsOf } from '../../../core/project/conditions';
import { entry } from '../../../core/project/project';
import type { Shown } from '../../../core/model/shown';
import { shownNow } from '../../../core/project/shown';
import { NO_DRAWING, type Style } from '../../../core/project/style';
import { ViewThumbnails } from '../state/view-thumbnails';
import { ViewBeside } from '../state/view-beside';
import { cameraOf, ViewGoer, viewsOf, type ViewRow } from '../state/views';
import { KeyPlan } from './key-plan';
import { RemarksCard } from './remarks-card';
import { SectionsCard } from './sections-card';
import { StyleCard } from './style-card';
import { ViewCard } from './view-card';
import { WalksCard } from './walks-card';

/** Cameras that the model brings, and views kept here. */
@Component({
  selector: 'dp-views-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, KeyPlan, RemarksCard, SectionsCard, StyleCard, ViewCard, WalksCard],
  template: `
    <div class="head">
      <h1>View schedule</h1>
      <span class="quiet">{{ rows().length }} views</span>
    </div>
    <dp-key-plan [views]="ordered()" />
    <div class="scroll">
      @for (row of ordered(); track row.id) {
        @if (row.heads) {
          <h2 class="folder">{{ row.folder }}</h2>
        }
        <div
          class="row-line"
          draggable="true"
          [class.current]="current() === row.name"
          [class.over]="over() === row.id"
          (dragstart)="dragged = row.id"
          (dragover)="$event.preventDefault(); over.set(row.id)"
          (dragend)="over.set('')"
          (drop)="$event.preventDefault(); moveBefore(dragged, row.id)"
          (keydown.alt.arrowup)="$event.preventDefault(); step(row.id, -1)"
          (keydown.alt.arrowdown)="$event.preventDefault(); step(row.id, 1)"
        >
          <button type="button" class="plain name" (click)="go(row)">
            @if (thumbnails.of(row); as picture) {
              <img class="small" [src]="picture" alt="" />
            } @else {
              <span class="small wait" aria-hidden="true"></span>
            }
            <span class="mono quiet" aria-hidden="true">{{ $index + 1 }}</span>
            <span class="two-lines" [title]="row.name">{{ row.name }}</span>
          </button>
          <span class="mono quiet">{{ row.parallelM === undefined ? row.focalMm.toFixed(0) + ' mm' : 'parallel' }}</span>
          <span class="quiet from">{{ row.kept ? 'kept here' : 'from the model' }}</span>
          @if (row.kept) {
            <button type="button" class="plain" [attr.aria-label]="'Drop view ' + row.name" (click)="drop(row)">
              <dp-icon name="remove" />
            </button>
          }
        </div>
      } @empty {
        <div class="body"><p>No views yet. Cameras that the model has saved appear here by themselves.</p></div>
      }
      <div class="body">
        <h2>This view</h2>
        <dp-view-card />
        @if (here(); as row) {
          <p class="mb-2">
            <button
              type="button"
              class="link"
              data-testid="view-in-sight"
              [attr.aria-pressed]="besideId() === row.id"
              (click)="beside.turn(row.id)"
            >
              {{ besideId() === row.id ? 'its picture stays in sight' : 'keep its picture in sight' }}
            </button>
          </p>
        }
        @if (open(); as row) {
          <div class="field" data-testid="view-kept">
            <label for="view-called">Called</label>
            <input
              #called
              id="view-called"
              class="form-control form-control-sm"
              maxlength="200"
              [value]="row.name"
              (change)="called.value.trim() && rename(row, called.value.trim())"
            />
            <label for="view-folder">Folder</label>
            <input
              #folder
              id="view-folder"
              class="form-control form-control-sm"
              maxlength="200"
              placeholder="none"
              [value]="row.folder ?? ''"
              (change)="update(row, { folder: folder.value.trim() || undefined })"
            />
            <label for="view-condition">Under</label>
            <select
              id="view-condition"
              class="form-select form-select-sm"
              data-testid="view-condition"
              (change)="update(row, { condition: text($event) || undefined })"
            >
              <option value="">whatever is shown</option>
              @for (one of conditions(); track one.id) {
                <option [value]="one.id" [selected]="one.id === row.condition">{{ one.name }}</option>
              }
            </select>
            <span>Taken over</span>
            <span class="taken">
              <button type="button" class="link" data-testid="view-update-camera" (click)="update(row, {}, true)">the camera</button>
              <button type="button" class="link" data-testid="view-update-frame" (click)="update(row, { frame: state.frame$.value })">
                the picture’s size
              </button>
              <button
                type="button"
                class="link"
                data-testid="view-update-sections"
                (click)="update(row, { sections: [...state.sections$.value] })"
              >
                the sections
              </button>
              <button type="button" class="link" data-testid="view-update-style" (click)="update(row, { style: style() })">
                the style
              </button>
              <button
                type="button"
                class="link"
                data-testid="view-update-shown"
                title="Layers, classes, options and phases"
                (click)="update(row, { shown: shown() })"
              >
                what is shown
              </button>
            </span>
          </div>
        }
        <form class="field" (submit)="keep($event, name)">
          <label for="view-name">Keep it as</label>
          <span class="d-flex gap-2"
            ><input #name id="view-name" class="form-control form-control-sm" maxlength="200" placeholder="Name" /><button
              class="btn btn-sm btn-outline-dark"
            >
              Keep
            </button></span
          >
        </form>
        <dp-style-card />
        <dp-sections-card />
        <dp-walks-card />
        <dp-remarks-card />
      </div>
    </div>
  `,
  styleUrl: './station.scss',
  styles: `
    .row-line {
      display: flex;
      align-items: center;
      gap: 10px;
      padding: 4px 14px;
      border-bottom: 1px solid var(--rule);
    }
    .row-line.over {
      box-shadow: inset 0 2px 0 var(--now, #b8492a);
    }
    .row-line.current {
      background: var(--paper-raised);
      font-weight: 600;
    }
    .name {
      flex: 1;
      min-width: 0;
      display: flex;
      align-items: center;
      gap: 10px;
      line-height: 1.2;
      text-align: left;
    }
    .small {
      width: 48px;
      height: 30px;
      object-fit: cover;
      flex: none;
      border-radius: 2px;
    }
    .wait {
      background: var(--rule);
    }
    .taken {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 12px;
    }
    .folder {
      padding: 10px 14px 2px;
      margin: 0;
      font-size: 0.8125rem;
      color: var(--ink-quiet, #5c6870);
    }
    .from {
      font-size: 0.8125rem;
      font-weight: 400;
    }
  `,
})
export class ViewsStation {
  private readonly live = inject(Live);
  protected readonly state = inject(PictureState);
  protected readonly current = toSignal(this.state.viewName$);
  private readonly rows$ = combineLatest([inject(SceneState).sources$, this.live.entries$]).pipe(
    map(([sources, entries]) => viewsOf(sources, entries)),
    shareReplay({ bufferSize: 1, refCount: true }),
  );
  protected readonly rows = toSignal(this.rows$, { initialValue: [] as ViewRow[] });

  protected dragged = '';
  /** The row that a dragged one would come before. */
  protected readonly over = signal('');

  /** A view comes before another in the list, into whose folder it goes if it is kept here. */
  protected moveBefore(id: string, before: string): void {
    this.over.set('');
    const ids = this.ordered().map((row) => row.id);
    const [row, target] = [id, before].map((one) => this.rows().find((r) => r.id === one));
    if (!row || !target || row === target) return;
    const order = ids.filter((one) => one !== id);
    order.splice(order.indexOf(before), 0, id);
    this.live.run({ type: 'order-views', order });
    if (row.kept && row.folder !== target.folder) this.update(row, { folder: target.folder });
  }

  /** By keys: one place up or down. */
  protected step(id: string, by: 1 | -1): void {
    const ids = this.ordered().map((row) => row.id);
    const [from, to] = [ids.indexOf(id), ids.indexOf(id) + by];
    if (to < 0 || to >= ids.length) return;
    ids.splice(from, 1);
    ids.splice(to, 0, id);
    this.live.run({ type: 'order-views', order: ids });
  }

  protected readonly thumbnails = inject(ViewThumbnails);
  /** Those without a folder first, then folder by folder, the first of each with its heading. */
  protected readonly ordered = computed(() => {
    const rows = [...this.rows()].sort((a, b) => (a.folder ?? '').localeCompare(b.folder ?? ''));
    return rows.map((row, i) => ({ ...row, heads: row.folder !== undefined && row.folder !== rows[i - 1]?.folder }));
  });

  constructor() {
    this.rows$.pipe(debounceTime(300), takeUntilDestroyed()).subscribe((rows) => {
      void this.thumbnails.ask(rows);
    });
    inject(DestroyRef).onDestroy(() => {
      this.thumbnails.stop();
    });
  }

  /** The kept view that is looked at. */
  protected readonly open = computed(() => this.rows().find(({ kept, name }) => kept && name === this.current()));
  protected readonly conditions = toSignal(
    this.live.entries$.pipe(map((entries) => conditionsOf(entries).map(({ id, name }) => ({ id, name })))),
    { initialValue: [] },
  );

  protected readonly style = toSignal(
    this.live.entries$.pipe(map((entries): Style => ({ kind: entry(entries, 'style') ?? 'photograph', ...(entry(entries, 'drawing') ?? NO_DRAWING) }))),
    { requireSync: true },
  ); // prettier-ignore

  private readonly goer = inject(ViewGoer);

  /** The view that the camera stands in. */
  protected readonly here = computed(() => this.rows().find(({ name }) => name === this.current()));
  protected readonly beside = inject(ViewBeside);
  protected readonly besideId = toSignal(this.beside.id$, { requireSync: true });

  protected shown(): Shown {
    return shownNow(this.live.entries$.value);
  }

  protected go(row: ViewRow): void {
    this.goer.go(row);
  }

  /** Changes one thing of a kept view; with `camera`, what is seen now is what it shows. */
  protected update(
    row: ViewRow,
    change: Partial<Pick<ViewRow, 'name' | 'frame' | 'folder' | 'condition' | 'sections' | 'style' | 'shown'>>,
    camera = false,
  ): void {
    const { name, frame, folder, condition, sections, style, shown } = { ...row, ...change };
    const seen = camera ? this.state.camera$.value : cameraOf(row);
    this.live.run({
      type: 'keep-view',
      id: row.id,
      name,
      camera: cameraOf(seen),
      ...(frame && { frame }),
      ...(folder && { folder }),
      ...(condition && { condition }),
      ...(sections && { sections }),
      ...(style && { style }),
      ...(shown && { shown }),
    });
  }

  protected rename(row: ViewRow, name: string): void {
    this.update(row, { name });
    this.state.viewName$.next(name);
  }

  protected text(event: Event): string {
    return (event.target as HTMLSelectElement).value;
  }

  protected drop(row: ViewRow): void {
    this.live.run({ type: 'drop-view', id: row.id });
  }

  protected keep(event: Event, input: HTMLInputElement): void {
    event.preventDefault();
    const name = input.value.trim();
    if (!name) return;
    this.live.run({
      type: 'keep-view',
      id: crypto.randomUUID(),
      name,
      camera: cameraOf(this.state.camera$.value),
      frame: this.state.frame$.value,
      ...(this.state.sections$.value.length > 0 && { sections: [...this.state.sections$.value] }),
    });
    this.state.viewName$.next(name);
    input.value = '';
  }
}
