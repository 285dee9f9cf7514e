import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, signal, viewChild } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { NgbDropdownModule } from '@ng-bootstrap/ng-bootstrap';
import { combineLatest, debounceTime, distinctUntilChanged, EMPTY, filter, firstValueFrom, map, switchMap, toArray } from 'rxjs';
import { clock } from '../../../core/project/clock';
import {
  CONDITION_PARTS,
  conditionsOf,
  isShown,
  withCondition,
  type ConditionPart,
  type KeptCondition,
} from '../../../core/project/conditions';
import { LightTable } from '../state/light-table';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { Proofs } from '../state/proofs';
import { Icon } from './icon';
import { shortDate } from './title-block';

const THUMBNAIL = { width: 144, samples: 6 };
const COMPARED = { width: 560, samples: 4 };
const PARTS: Record<ConditionPart, string> = { sun: 'sun and sky', lamps: 'lamps', exposure: 'exposure', development: 'development' };
const BLENDS = [0, 1.5, 4];

/** Kept states of light as small pictures on slips: a click recalls one, one pulled onto another is compared with it. */
@Component({
  selector: 'dp-condition-slips',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, NgbDropdownModule],
  templateUrl: './condition-slips.html',
  styleUrl: './condition-slips.scss',
})
export class ConditionSlips {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private readonly proofs = inject(Proofs);
  protected readonly table = inject(LightTable);
  private readonly called = viewChild<ElementRef<HTMLInputElement>>('called');
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  private readonly pictures = signal<ReadonlyMap<string, string>>(new Map());
  /** What each picture was made of, so that none is made twice. */
  private readonly made = new Map<string, string>();
  protected readonly allParts = CONDITION_PARTS;
  protected readonly partWords = PARTS;
  protected readonly blends = BLENDS;
  protected readonly blend = toSignal(this.table.blendSeconds$, { requireSync: true });
  protected readonly keeping = signal(false);
  protected readonly renaming = signal<string | undefined>(undefined);
  protected readonly over = signal<string | undefined>(undefined);
  protected readonly comparing = signal(false);
  private dragged: string | undefined;
  protected readonly slips = computed(() =>
    conditionsOf(this.entries()).map((condition) => ({
      id: condition.id,
      name: condition.name,
      words: wordsOf(condition),
      isShown: isShown(this.entries(), condition),
      picture: this.pictures().get(condition.id),
    })),
  );

  constructor() {
    // Small pictures are made once the large one is there, and for conditions as they are kept.
    combineLatest([
      this.live.entries$.pipe(
        map(conditionsOf),
        distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
      ),
      this.picture.status$.pipe(
        map(({ state }) => state === 'refining' || state === 'finished'),
        distinctUntilChanged(),
      ),
    ])
      .pipe(
        filter(([, isSeen]) => isSeen),
        debounceTime(300),
        switchMap(([conditions]) => {
          const wanted = conditions.filter((condition) => this.made.get(condition.id) !== JSON.stringify(condition));
          if (wanted.length === 0) return EMPTY;
          const jobs = wanted.map((condition) => ({ id: condition.id, entries: withCondition(this.entries(), condition) }));
          return this.proofs
            .make('conditions', jobs, THUMBNAIL.width, THUMBNAIL.samples)
            .pipe(map((proof) => ({ ...proof, of: wanted.find(({ id }) => id === proof.id)! })));
        }),
        takeUntilDestroyed(),
      )
      .subscribe(({ id, picture, of }) => {
        this.made.set(id, JSON.stringify(of));
        this.pictures.update((pictures) => new Map(pictures).set(id, picture));
      });
  }

  protected recall(id: string): void {
    this.picture.blend$.next(this.table.blendSeconds$.value);
    this.live.run({ type: 'recall-condition', id });
  }

  protected beginKeeping(): void {
    this.keeping.set(true);
    setTimeout(() => this.called()?.nativeElement.focus());
  }

  protected keep(event: Event, name: string, chosen: Record<ConditionPart, boolean>): void {
    event.preventDefault();
    const parts = CONDITION_PARTS.filter((part) => chosen[part]);
    if (!name.trim() || parts.length === 0) return;
    this.live.run({ type: 'keep-condition', id: crypto.randomUUID(), name: name.trim(), parts });
    this.keeping.set(false);
  }

  /** What is shown now, in the place of what the condition had. */
  protected renew(id: string): void {
    const condition = conditionsOf(this.entries()).find((c) => c.id === id)!;
    const parts = CONDITION_PARTS.filter((part) => condition[part] !== undefined);
    this.live.run({ type: 'keep-condition', id, name: condition.name, parts });
  }

  protected rename(id: string, name: string): void {
    this.renaming.set(undefined);
    if (name.trim()) this.live.run({ type: 'name-condition', id, name: name.trim() });
  }

  protected drop(id: string): void {
    this.live.run({ type: 'drop-condition', id });
  }

  protected dragStart(event: DragEvent, id: string): void {
    this.dragged = id;
    event.dataTransfer?.setData('text/plain', id);
    this.picture.condition$.next(id);
  }

  protected dragEnd(): void {
    this.dragged = undefined;
    this.over.set(undefined);
    this.picture.condition$.next(undefined);
  }

  protected dragOver(event: DragEvent, id: string): void {
    if (!this.dragged || this.dragged === id) return;
    event.preventDefault();
    this.over.set(id);
  }

  protected dropOn(event: DragEvent, id: string): void {
    event.preventDefault();
    const other = this.dragged;
    this.dragEnd();
    if (other && other !== id) void this.compare(other, id);
  }

  /** Undefined: what is shown now. */
  protected async compare(left: string | undefined, right: string): Promise<void> {
    const entries = this.entries();
    const conditions = conditionsOf(entries);
    const side = (id: string | undefined) => {
      const condition = conditions.find((c) => c.id === id);
      return { id: id ?? 'now', name: condition?.name ?? 'Now', entries: condition ? withCondition(entries, condition) : entries };
    };
    const sides = [side(left), side(right)] as const;
    // What is shown now is there already.
    const seen = left === undefined ? this.picture.refined() : undefined;
    const wanted = sides.filter(({ id }) => id !== 'now' || !seen);
    this.comparing.set(true);
    const proofs = await firstValueFrom(this.proofs.make('comparison', wanted, COMPARED.width, COMPARED.samples).pipe(toArray()));
    this.comparing.set(false);
    if (proofs.length < wanted.length) return;
    const [a, b] = sides.map(({ id, name }) => ({ name, picture: proofs.find((p) => p.id === id)?.picture ?? seen! }));
    this.table.comparison$.next({ left: a!, right: b! });
  }
}

/** Date, hour and what is lit. */
function wordsOf({ sun, lamps, exposure, development }: KeptCondition): string {
  const words: string[] = [];
  if (sun) words.push(`${shortDate(sun.sun.date)}, ${clock(sun.sun.minutes)}`);
  if (lamps) {
    const circuitsOff = Object.entries(lamps.rows).filter(([key, { off }]) => off && key.startsWith('circuit/')).length;
    if (lamps.solo.length > 0) words.push('some lamps alone');
    else if (circuitsOff > 0) words.push(`${String(circuitsOff)} off`);
    else if (!sun) words.push('lamps');
  }
  if (words.length === 0) words.push([exposure && 'exposure', development !== undefined && 'development'].filter(Boolean).join(', '));
  return words.join(' · ');
}
