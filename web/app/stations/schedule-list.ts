import { ChangeDetectionStrategy, Component, computed, DestroyRef, ElementRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { areaWords, FILTERS, FIRST_VIEW, GROUPINGS, SORTINGS, viewSchedule, type ScheduleView } from '../../../core/project/schedule-view';
import type { ScheduleRow } from '../../../core/project/schedule';
import { PictureState } from '../state/picture-state';
import { ScheduleState } from '../state/schedule-state';
import { Swatch } from '../sheet/swatch';
import { RowCard, type PickedElement } from './row-card';
import { RulesCard } from './rules-card';
import { ScheduleFile } from './schedule-file';

const SORT_WORDS = { area: 'by area', 'source material': 'by name', finish: 'by finish', code: 'by code', elements: 'by elements' };
const GROUP_WORDS = { none: 'in one list', finish: 'by finish', family: 'by family', source: 'by source', reason: 'by reason' };
const SHOW_WORDS = { all: 'all rows', unassigned: 'unassigned', guessed: 'guessed', 'by hand': 'set by hand' };

/** The finish schedule: what the model calls a surface, and what it looks like here. */
@Component({
  selector: 'dp-schedule-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RowCard, RulesCard, ScheduleFile, Swatch],
  templateUrl: './schedule-list.html',
  styleUrls: ['./station.scss', './finishes.scss'],
})
export class ScheduleList {
  protected readonly state = inject(ScheduleState);
  private readonly picture = inject(PictureState);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly view = signal<ScheduleView>(FIRST_VIEW);
  /** Whether rows show a second line with the rest of their columns. */
  protected readonly wide = signal(false);
  /** The element that was clicked in the picture, while its row is open. */
  protected readonly element = signal<PickedElement | undefined>(undefined);
  protected readonly groups = computed(() => viewSchedule(this.state.rows(), this.view(), (id) => this.state.nameOfSource(id)));
  protected readonly shown = computed(() => this.groups().flatMap((g) => g.rows));
  protected readonly chosen = computed(() => this.state.rows().filter((row) => this.state.chosen().has(row.key)));
  private lastChosen: string | undefined;

  protected readonly sortings = SORTINGS.map((value) => ({ value, words: SORT_WORDS[value] }));
  protected readonly groupings = GROUPINGS.map((value) => ({ value, words: GROUP_WORDS[value] }));
  protected readonly filters = FILTERS.map((value) => ({ value, words: SHOW_WORDS[value] }));

  constructor() {
    this.picture.picked$.pipe(takeUntilDestroyed()).subscribe((picked) => {
      if (!picked) return;
      this.view.update((view) => ({ ...view, words: '', show: 'all' }));
      this.element.set({
        source: picked.source,
        id: picked.element,
        name: picked.elementName,
        material: picked.material,
        plane: picked.plane,
      });
      this.openRow(`${picked.source}/${picked.material}`);
      this.picture.picked$.next(undefined);
    });
    inject(DestroyRef).onDestroy(() => {
      this.endHighlight();
    });
  }

  protected look(change: Partial<Record<keyof ScheduleView, string>>): void {
    this.view.update((view) => ({ ...view, ...change }) as ScheduleView);
  }

  protected toggle(row: ScheduleRow): void {
    this.element.set(undefined);
    if (this.state.opened() === row.key) this.state.opened.set(undefined);
    else this.openRow(row.key);
    this.endHighlight();
  }

  /** Adds a row to those that are worked on together, or takes it out; with shift all from the last one on. */
  protected choose(row: ScheduleRow, event: MouseEvent | undefined): void {
    const next = new Set(this.state.chosen());
    const adds = !next.has(row.key);
    const keys = this.shown().map((r) => r.key);
    const from = event?.shiftKey && this.lastChosen !== undefined ? keys.indexOf(this.lastChosen) : -1;
    const at = keys.indexOf(row.key);
    const range = from < 0 ? [row.key] : keys.slice(Math.min(from, at), Math.max(from, at) + 1);
    for (const key of range)
      if (adds) next.add(key);
      else next.delete(key);
    this.lastChosen = row.key;
    this.state.chosen.set(next);
  }

  protected chooseShown(): void {
    this.state.chosen.set(new Set(this.shown().map((row) => row.key)));
  }

  protected chooseNone(): void {
    this.state.chosen.set(new Set());
  }

  private openRow(key: string): void {
    this.state.opened.set(key);
    setTimeout(() => this.host.nativeElement.querySelector('.row-line.open')?.scrollIntoView({ block: 'nearest' }));
  }

  private endHighlight(): void {
    if (this.picture.highlighted$.value !== undefined) this.picture.highlighted$.next(undefined);
  }

  /** The columns that do not fit beside name, finish and area. */
  protected rest(row: ScheduleRow): string {
    const elements = `${String(row.elements)} ${row.elements === 1 ? 'element' : 'elements'}`;
    return [row.code, elements, this.state.nameOfSource(row.source), row.choice.reason, row.note].filter(Boolean).join(' · ');
  }

  protected readonly area = areaWords;
}
