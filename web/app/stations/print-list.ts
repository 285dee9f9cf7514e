import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import type { PrintSummary } from '../../../core/project/live';
import { Icon } from '../sheet/icon';
import { LightTable } from '../state/light-table';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { filmOfPictures } from '../state/film-of-pictures';
import { PrintOrders } from '../state/print-orders';
import { durationWords } from '../state/print-settings';

const KIND_WORDS = { perspective: '', orthographic: 'parallel', equirectangular: 'all round', cube: 'cube faces' } as const;
const QUEUED = ['rendering', 'waiting', 'paused'];

/** Prints: those that wait in their order, and those that are made. */
@Component({
  selector: 'dp-print-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  templateUrl: './print-list.html',
  styleUrls: ['./station.scss', './print-list.scss'],
})
export class PrintList {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private readonly table = inject(LightTable);
  protected readonly orders = inject(PrintOrders);
  private readonly now = toSignal(this.live.prints$, { requireSync: true });
  protected readonly paused = computed(() => this.now().paused);
  protected readonly search = signal('');
  protected readonly starredOnly = signal(false);
  /** The first of two prints that are compared. */
  protected readonly first = signal<PrintSummary | undefined>(undefined);
  protected readonly over = signal<string | undefined>(undefined);
  /** The walk whose pictures are being joined to a film. */
  protected readonly making = signal<{ id: string; share: number } | undefined>(undefined);
  /** The print whose note is being written. */
  protected readonly writes = signal<string | undefined>(undefined);
  private readonly found = computed(() => {
    const words = this.search().toLowerCase().split(/\s+/).filter(Boolean);
    return this.now().prints.filter(
      (print) => (!this.starredOnly() || print.starred) && words.every((word) => textOf(print).includes(word)),
    );
  });
  protected readonly queued = computed(() =>
    this.found()
      .filter(({ state }) => QUEUED.includes(state))
      .sort((a, b) => QUEUED.indexOf(a.state) - QUEUED.indexOf(b.state) || a.position - b.position),
  );
  protected readonly made = computed(() => this.found().filter(({ state }) => !QUEUED.includes(state)));
  protected readonly none = toSignal(this.live.prints$.pipe(map(({ prints }) => prints.length === 0)));

  protected text(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }

  protected left({ secondsLeft }: Pick<PrintSummary, 'secondsLeft'>): string {
    return secondsLeft === null ? '' : `${durationWords(secondsLeft)} left`;
  }

  protected kind({ projection }: PrintSummary): string {
    return KIND_WORDS[projection];
  }

  protected stateOf({ condition, option }: PrintSummary): string {
    return [condition, option].filter(Boolean).join(', ');
  }

  protected isStill(print: PrintSummary): boolean {
    return print.files.includes('picture') && print.format !== 'exr' && print.format !== 'pdf' && print.frames === 1;
  }

  protected address(print: PrintSummary, file: string): string {
    return `/api/prints/${print.id}/${file}`;
  }

  protected fileOf(print: PrintSummary): string {
    return `picture.${print.format === 'png16' ? 'png' : print.format === 'jpeg' ? 'jpg' : print.format}`;
  }

  protected compare(print: PrintSummary): void {
    const first = this.first();
    if (!first || first.id === print.id) {
      this.first.set(first ? undefined : print);
      return;
    }
    const shown = (of: PrintSummary) => ({ name: [of.name, this.stateOf(of)].filter(Boolean).join(', '), picture: this.address(of, this.fileOf(of)) });
    this.table.comparison$.next({ left: shown(first), right: shown(print) });
    this.first.set(undefined);
  } // prettier-ignore

  /** The view, its light and what it shows, as they were printed. */
  protected showAgain(print: PrintSummary): void {
    this.picture.goTo$.next({ camera: print.camera, name: print.name });
    this.orders.showAgain(print.id);
  }

  protected drop(event: DragEvent, before: PrintSummary): void {
    event.preventDefault();
    this.over.set(undefined);
    const moved = event.dataTransfer?.getData('text/plain');
    if (moved && moved !== before.id) void this.orders.move(moved, before.id);
  }

  protected drag(event: DragEvent, print: PrintSummary): void {
    event.dataTransfer?.setData('text/plain', print.id);
  }

  /** Up or down among those that wait. */
  protected step(event: Event, print: PrintSummary, by: -1 | 1): void {
    event.preventDefault();
    const list = this.queued();
    const at = list.indexOf(print);
    const before = by < 0 ? list[at - 1] : list[at + 2];
    if (by < 0 && !before) return;
    void this.orders.move(print.id, before?.id ?? null);
  }

  /** Where the server has no ffmpeg: the browser joins the pictures of a walk to a film. */
  protected async makeFilm(print: PrintSummary): Promise<void> {
    this.making.set({ id: print.id, share: 0 });
    try {
      const said = await filmOfPictures(this.address(print, 'pictures.zip'), print.name, (share) => {
        this.making.set({ id: print.id, share });
      });
      if (said) this.orders.fault.set(said);
    } finally {
      this.making.set(undefined);
    }
  }

  protected note(event: Event, print: PrintSummary): void {
    this.writes.set(undefined);
    const note = this.text(event).trim();
    if (note !== print.note) void this.orders.annotate(print.id, { note });
  }
}

const textOf = ({ name, condition, option, note, fileName }: PrintSummary): string =>
  [name, condition, option, note, fileName].join(' ').toLowerCase();
