import { ChangeDetectionStrategy, Component, computed, DestroyRef, ElementRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, map } from 'rxjs';
import { FAMILIES, type Finish } from '../../../core/finish/finish';
import { searchFinishes, tagCounts } from '../../../core/finish/search';
import { allFinishes, assignmentKey, entry, findFinish, overrideKey } from '../../../core/project/project';
import { matchSchedule, readSchedule, scheduleCsv, scheduleJson, scheduleLines } from '../../../core/project/schedule-file';
import { scheduleRows, type ScheduleRow } from '../../../core/project/schedule';
import { Areas } from '../state/areas';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { Swatch } from '../sheet/swatch';
import { FinishCard } from './finish-card';

const MOST_TAGS = 14;

/** The finish schedule: what the model calls a surface, and what it looks like here. */
@Component({
  selector: 'dp-finishes-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FinishCard, Swatch],
  templateUrl: './finishes.html',
  styleUrls: ['./station.scss', './finishes.scss'],
})
export class FinishesStation {
  protected readonly live = inject(Live);
  private readonly areas = inject(Areas);
  protected readonly picture = inject(PictureState);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly models = toSignal(this.live.models$, { requireSync: true });
  private readonly sources = toSignal(this.live.sources$, { requireSync: true });
  /** What came of a schedule that was brought back. */
  protected readonly brought = signal('');
  protected readonly search = signal('');
  protected readonly tab = signal<'schedule' | 'library'>('schedule');
  protected readonly opened = signal<string | undefined>(undefined);
  /** The element that was clicked in the picture, while its row is open. */
  protected readonly element = signal<{ source: string; id: string; name: string; material: string } | undefined>(undefined);

  private readonly all = toSignal(
    combineLatest([this.live.models$, this.live.entries$, this.areas.areas$]).pipe(
      map(([models, entries, areas]) => [...models].flatMap(([source, model]) => scheduleRows(source, model, areas, entries))),
    ),
    { initialValue: [] as ScheduleRow[] },
  );
  protected readonly entries = toSignal(this.live.entries$, { requireSync: true });
  protected readonly finishes = computed(() => allFinishes(this.entries()));
  protected readonly unassigned = computed(() => this.all().filter((r) => r.choice.origin === 'none').length);
  protected readonly rows = computed(() => {
    const words = this.search().toLowerCase().split(/\s+/).filter(Boolean);
    return this.all()
      .filter((row) => {
        const text = `${row.name.slice(0, 500)} ${row.choice.finish?.name ?? ''} ${row.choice.finish?.family ?? ''}`.toLowerCase();
        return words.every((word) => text.includes(word));
      })
      .sort((a, b) => b.areaM2 - a.areaM2);
  });
  /** The row whose card is open; the library gives to it. */
  protected readonly recipient = computed(() => this.all().find((row) => row.key === this.opened()));
  protected readonly total = computed(() => this.all().length);
  protected readonly families = FAMILIES.filter((family) => family !== 'plain');
  protected readonly family = signal<Finish['family'] | undefined>(undefined);
  /** Tags that finishes must have, or must not. */
  protected readonly tagged = signal<ReadonlyMap<string, 'with' | 'without'>>(new Map());
  protected readonly shownFinishes = computed(() => {
    const those = (how: 'with' | 'without') => new Set([...this.tagged()].filter(([, h]) => h === how).map(([tag]) => tag));
    return searchFinishes(this.finishes(), {
      text: this.search(),
      family: this.family(),
      required: those('with'),
      excluded: those('without'),
    });
  });
  protected readonly tags = computed(() => {
    const inFamily = this.finishes().filter((f) => !this.family() || f.family === this.family());
    const known = tagCounts(inFamily).map(([tag]) => tag);
    return [...new Set([...this.tagged().keys(), ...known])].slice(0, MOST_TAGS);
  });

  constructor() {
    this.picture.picked$.pipe(takeUntilDestroyed()).subscribe((picked) => {
      if (!picked) return;
      this.tab.set('schedule');
      this.search.set('');
      this.element.set({ source: picked.source, id: picked.element, name: picked.elementName, material: picked.material });
      this.openRow(`${picked.source}/${picked.material}`);
      this.picture.picked$.next(undefined);
    });
    inject(DestroyRef).onDestroy(() => {
      if (this.picture.highlighted$.value !== undefined) this.picture.highlighted$.next(undefined);
    });
  }

  private files() {
    const known = this.sources();
    return [...this.models()].map(([id, model]) => ({ id, name: known.find((s) => s.id === id)?.name ?? id, model }));
  }

  /** Hands the schedule over as a file. */
  protected save(kind: 'csv' | 'json'): void {
    const lines = scheduleLines(this.all(), this.files(), this.entries());
    const blob = new Blob([kind === 'csv' ? scheduleCsv(lines) : scheduleJson(lines)], {
      type: kind === 'csv' ? 'text/csv' : 'application/json',
    });
    const link = document.createElement('a');
    link.href = URL.createObjectURL(blob);
    link.download = `finish schedule.${kind}`;
    link.click();
    URL.revokeObjectURL(link.href);
  }

  protected async bringBack(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    const lines = readSchedule(file.name, await file.text());
    if ('fault' in lines) {
      this.brought.set(lines.fault);
      return;
    }
    const { command, changed, unmatched } = matchSchedule(lines, this.files(), this.all(), this.entries());
    if (command) this.live.run(command);
    const rest =
      unmatched.length > 0
        ? ` ${String(unmatched.length)} of ${String(lines.length)} lines fit nothing here: ${unmatched
            .slice(0, 3)
            .map((l) => l.name || l.id)
            .join(', ')}${unmatched.length > 3 ? ' …' : ''}.`
        : '';
    this.brought.set(`${String(changed)} ${changed === 1 ? 'row' : 'rows'} changed.${rest}`);
  }

  protected toggle(row: ScheduleRow): void {
    this.element.set(undefined);
    if (this.opened() === row.key) this.opened.set(undefined);
    else this.openRow(row.key);
    this.endHighlight();
  }

  private openRow(key: string): void {
    this.opened.set(key);
    setTimeout(() => this.host.nativeElement.querySelector('.row-line.open')?.scrollIntoView({ block: 'nearest' }));
  }

  protected showSurfaces(row: ScheduleRow): void {
    const key = `${row.source}/${row.material}`;
    this.picture.highlighted$.next(this.picture.highlighted$.value === key ? undefined : key);
  }

  private endHighlight(): void {
    if (this.picture.highlighted$.value !== undefined) this.picture.highlighted$.next(undefined);
  }

  protected assign(row: ScheduleRow, finish: string): void {
    this.live.run({ type: 'assign-finish', source: row.source, material: row.material, finish: finish || null });
  }

  protected chooseFamily(value: string): void {
    this.family.set(FAMILIES.find((family) => family === value));
  }

  /** One press asks for a tag, the next excludes it, the third forgets it. */
  protected turnTag(tag: string): void {
    const next = new Map(this.tagged());
    if (!next.has(tag)) next.set(tag, 'with');
    else if (next.get(tag) === 'with') next.set(tag, 'without');
    else next.delete(tag);
    this.tagged.set(next);
  }

  protected tagWords(tag: string): string {
    const how = this.tagged().get(tag);
    return how === 'with' ? `${tag}: asked for` : how === 'without' ? `${tag}: left out` : tag;
  }

  protected give(finish: string): void {
    const row = this.recipient();
    if (row) this.assign(row, finish);
  }

  protected assignElement(finish: string): void {
    const element = this.element();
    if (element) this.live.run({ type: 'assign-element-finish', source: element.source, element: element.id, finish: finish || null });
  }

  protected elementFinish(): string {
    const element = this.element();
    return element ? (entry(this.entries(), overrideKey(element.source, element.id))?.finish ?? '') : '';
  }

  protected isAssigned(row: ScheduleRow): boolean {
    return entry(this.entries(), assignmentKey(row.source, row.material)) !== undefined;
  }

  protected current(row: ScheduleRow): Finish | undefined {
    return row.choice.finish && findFinish(this.entries(), row.choice.finish.id);
  }

  protected area(m2: number): string {
    return m2 >= 100 ? Math.round(m2).toLocaleString('en').replace(/,/g, ' ') : m2.toFixed(1);
  }

  protected valueOf(event: Event): string {
    return (event.target as HTMLInputElement | HTMLSelectElement).value;
  }

  protected dragStart(event: DragEvent, finish: string): void {
    event.dataTransfer?.setData('text/plain', finish);
    if (event.dataTransfer) event.dataTransfer.effectAllowed = 'copy';
    this.picture.dragged$.next(finish);
  }

  protected dragEnd(): void {
    // Escape and a drop elsewhere end here too: what was shown is taken back by the picture's own dragleave or by this.
    this.picture.dragged$.next(undefined);
    this.areas.endPreview();
  }
}
