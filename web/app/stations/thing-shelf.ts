import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { searchLibrary, tagCounts } from '../../../core/finish/search';
import { isPlanting } from '../../../core/setting/setting-model';
import { GROUPS, type ThingGroup, type ThingKind } from '../../../core/setting/thing-kind';
import { TagFilter, tagsAsked, type Tagged } from '../sheet/tag-filter';
import { Favourites } from '../state/favourites';
import { SettingState, type Setting } from '../state/setting-state';
import { ThingPreview } from './thing-preview';

/** How far apart things of a group stand in rows, and how many there are to a hundred square metres: where one begins. */
const BEGINNINGS: Record<ThingGroup, Pick<Setting, 'spacingM' | 'perHundredM2' | 'leastM' | 'spread'>> = {
  trees: { spacingM: 6, perHundredM2: 2, leastM: 3, spread: 0.2 },
  shrubs: { spacingM: 1.5, perHundredM2: 12, leastM: 1, spread: 0.25 },
  herbs: { spacingM: 0.5, perHundredM2: 150, leastM: 0.3, spread: 0.25 },
  rocks: { spacingM: 2, perHundredM2: 3, leastM: 1, spread: 0.4 },
  people: { spacingM: 1.5, perHundredM2: 4, leastM: 1, spread: 0.03 },
  vehicles: { spacingM: 2.6, perHundredM2: 3, leastM: 3, spread: 0 },
  street: { spacingM: 4, perHundredM2: 1, leastM: 2, spread: 0 },
  surround: { spacingM: 100, perHundredM2: 0.01, leastM: 100, spread: 0 },
  furniture: { spacingM: 1.2, perHundredM2: 10, leastM: 1, spread: 0 },
};

/** The library of things: found by words, group and tags, chosen to be set. */
@Component({
  selector: 'dp-thing-shelf',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [TagFilter, ThingPreview],
  template: `
    <input
      #words
      class="form-control form-control-sm search"
      type="search"
      placeholder="Search: words, -words to leave out"
      aria-label="Search the library of things"
      [value]="text()"
      (input)="text.set(words.value)"
    />
    <div class="choices">
      <select #kind class="form-select form-select-sm" aria-label="Group" data-testid="thing-group" (change)="group.set(kind.value)">
        <option value="">all groups</option>
        @for (g of groups; track g) {
          <option [value]="g" [selected]="g === group()">{{ g }}</option>
        }
      </select>
      <label class="form-check mb-0"
        ><input #only class="form-check-input" type="checkbox" [checked]="starred()" (change)="starred.set(only.checked)" />
        favourites</label
      >
      <span class="quiet">{{ shown().length }} of {{ all().length }}</span>
    </div>
    <div class="tags">
      <dp-tag-filter [tags]="tags()" [(tagged)]="tagged" />
    </div>
    <div class="scroll things" data-testid="things">
      @for (thing of shown(); track thing.id) {
        <div class="item" [attr.data-thing]="thing.id">
          <button type="button" class="plain giver" [class.chosen]="chosen() === thing.id" (click)="choose(thing)">
            <dp-thing-preview [kind]="thing" />
            <span>{{ thing.name }}</span>
          </button>
          <button
            type="button"
            class="plain star"
            [class.on]="favourites.ids().has('thing:' + thing.id)"
            [attr.aria-pressed]="favourites.ids().has('thing:' + thing.id)"
            [attr.aria-label]="'Favourite: ' + thing.name"
            (click)="favourites.turn('thing:' + thing.id)"
          >
            {{ favourites.ids().has('thing:' + thing.id) ? '★' : '☆' }}
          </button>
        </div>
      } @empty {
        <p class="quiet">{{ all().length === 0 ? 'The library is being fetched.' : 'Nothing has all of that.' }}</p>
      }
    </div>
  `,
  styleUrls: ['./station.scss', './finishes.scss'],
  styles: `
    :host {
      flex: 1;
    }
    .choices {
      display: flex;
      align-items: center;
      gap: 12px;
      padding: 0 14px 4px;
    }
    .choices select {
      width: 130px;
    }
    .tags {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 10px;
      padding: 0 14px 6px;
      font-size: 0.8125rem;
    }
    .things {
      display: grid;
      grid-template-columns: repeat(3, minmax(0, 1fr));
      gap: 10px;
      padding: 4px 14px 14px;
      align-content: start;
    }
    .giver {
      cursor: pointer;
    }
    .chosen {
      outline: 2px solid var(--in-step);
      outline-offset: 2px;
    }
  `,
})
export class ThingShelf {
  private readonly state = inject(SettingState);
  protected readonly favourites = inject(Favourites);
  protected readonly groups = GROUPS;
  protected readonly text = signal('');
  protected readonly group = signal('');
  protected readonly starred = signal(false);
  protected readonly tagged = signal<Tagged>(new Map());
  protected readonly all = computed(() => [...this.state.kinds().values()].map((kind) => ({ ...kind, family: kind.group })));
  private readonly inGroup = computed(() => this.all().filter(({ group, id }) => (!this.group() || group === this.group()) && (!this.starred() || this.favourites.ids().has(`thing:${id}`)))); // prettier-ignore
  protected readonly tags = computed(() => tagCounts(this.inGroup()).slice(0, 7).map(([tag]) => tag)); // prettier-ignore
  protected readonly shown = computed(() =>
    searchLibrary(this.inGroup(), { text: this.text(), family: undefined, ...tagsAsked(this.tagged()) }),
  );
  protected readonly chosen = computed(() => this.state.setting()?.kind.id);

  protected choose(kind: ThingKind): void {
    if (this.chosen() === kind.id) {
      this.state.end();
      return;
    }
    const before = this.state.setting();
    const pattern = before && isPlanting(before.kind) === isPlanting(kind) ? before.pattern : 'one';
    this.state.choose({ kind, pattern, size: 1, ...BEGINNINGS[kind.group] });
  }
}
