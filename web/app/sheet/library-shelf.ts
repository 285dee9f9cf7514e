import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, contentChild, inject, input, model, output, TemplateRef } from '@angular/core';
import { searchLibrary, tagCounts } from '../../../core/finish/search';
import { Favourites } from '../state/favourites';
import { TagFilter, tagsAsked, type Tagged } from './tag-filter';

/** What lies on a shelf: a finish with its family, a thing with its group. */
export interface Shelved {
  id: string;
  name: string;
  family: string;
  tags: readonly string[];
}

const MOST_TAGS = 14;

/** A library: what there is of one kind, in large pictures, found by words, families, shelves and tags, given by a press or by dragging. */
@Component({
  selector: 'dp-library-shelf',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NgTemplateOutlet, TagFilter],
  templateUrl: './library-shelf.html',
  styleUrls: ['../stations/station.scss', './library-shelf.scss'],
})
export class LibraryShelf {
  /** "finish" or "thing": what its elements are marked with. */
  readonly kind = input.required<'finish' | 'thing'>();
  readonly items = input.required<readonly Shelved[]>();
  readonly families = input.required<readonly string[]>();
  /** What a family is called here. */
  readonly familyWord = input('family');
  readonly shelves = input.required<readonly string[]>();
  readonly shelf = model('all');
  /** In place of how many are shown. */
  readonly counted = input<string>();
  /** What is said after it. */
  readonly remark = input('');
  /** What is said where nothing is. */
  readonly nothing = input('Nothing has all of that.');
  readonly chosen = input<(id: string) => boolean>(() => false);
  readonly isDragged = input(false);
  /** A press does nothing yet. */
  readonly isIdle = input(false);
  readonly text = model('');
  readonly family = model('');
  readonly tagged = model<Tagged>(new Map());
  /** What the pointer or the focus is on. */
  readonly held = output<string | undefined>();
  readonly given = output<string>();
  readonly dragBegun = output<{ event: DragEvent; id: string }>();
  readonly dragEnded = output();
  /** The picture of one, what more can be done with it, and what is shown in place of all. */
  protected readonly picture = contentChild.required<TemplateRef<{ $implicit: Shelved }>>('picture');
  protected readonly more = contentChild<TemplateRef<{ $implicit: Shelved }>>('more');
  protected readonly instead = contentChild<TemplateRef<unknown>>('instead');
  protected readonly favourites = inject(Favourites);

  readonly shown = computed(() => searchLibrary(this.items(), { text: this.text(), family: this.family() || undefined, ...tagsAsked(this.tagged()) })); // prettier-ignore
  readonly tags = computed(() => {
    const inFamily = this.items().filter(({ family }) => !this.family() || family === this.family());
    return [...new Set([...this.tagged().keys(), ...tagCounts(inFamily).map(([tag]) => tag)])].slice(0, MOST_TAGS);
  });
  protected readonly count = computed(() => `${String(this.shown().length)} of ${String(this.items().length)}${this.remark()}`);

  protected starOf(id: string): string {
    return this.kind() === 'finish' ? id : `thing:${id}`;
  }

  protected isStarred(id: string): boolean {
    return this.favourites.ids().has(this.starOf(id));
  }

  protected dragStart(event: DragEvent, id: string): void {
    if (this.isDragged()) this.dragBegun.emit({ event, id });
  }
}
