import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { isPlanting } from '../../../core/setting/setting-model';
import { GROUPS, type ThingGroup } from '../../../core/setting/thing-kind';
import { LibraryShelf } from '../sheet/library-shelf';
import { Favourites } from '../state/favourites';
import { ThingLibrary } from '../state/thing-library';
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
  imports: [LibraryShelf, ThingPreview],
  template: `
    <dp-library-shelf kind="thing" [items]="onShelf()" [families]="groups" familyWord="group" [shelves]="shelves" [(shelf)]="shelf" [(family)]="group" [nothing]="all().length === 0 ? 'The library is being fetched.' : 'Nothing has all of that.'" [chosen]="isChosen" (given)="choose($event)">
      <label bringing class="link own" title="A model file, in metres, as one thing of your own"
        >bring a model file<input #file type="file" class="visually-hidden" accept=".glb,.gltf,.obj,.dae,.stl,.ply,.3mf,.zip" data-testid="own-file" (change)="file.files?.[0] && bring(file.files![0]!); file.value = ''"
      /></label>
      <ng-container said>
        @if (said()) {
          <p class="quiet hint" role="status" data-testid="own-said">{{ said() }}</p>
        }
        @if (kept().length > 0) {
          <p class="hint" data-testid="own-kept">
            <span class="quiet">Kept from other projects:</span>
            @for (one of kept(); track one.id) {
              <button type="button" class="link ms-2" (click)="take(one.id)">{{ one.name }}</button>
            }
          </p>
        }
      </ng-container>
      <ng-template #picture let-item><dp-thing-preview [kind]="$any(item)" /></ng-template>
      <ng-template #more let-item>
        @if (isKept(item.id)) {
          <button type="button" class="plain drop" [attr.aria-label]="'Keep ' + item.name + ' for other projects no longer'" title="Keep it for other projects no longer" (click)="library.remove(item.id)">×</button>
        }
      </ng-template>
    </dp-library-shelf>
  `,
  styleUrls: ['./station.scss', '../sheet/library-shelf.scss'],
  styles: `
    :host {
      flex: 1;
    }
  `,
}) // prettier-ignore
export class ThingShelf {
  private readonly state = inject(SettingState);
  private readonly favourites = inject(Favourites);
  protected readonly library = inject(ThingLibrary);
  protected readonly groups = GROUPS;
  protected readonly said = signal('');
  private readonly own = toSignal(this.library.own$, { initialValue: [] });
  /** Kept on this computer, and not in this project. */
  protected readonly kept = computed(() => this.own().filter(({ id }) => !this.state.kinds().has(id)));
  protected readonly shelves = ['all', 'favourites', 'my own'];
  protected readonly shelf = signal('all');
  protected readonly group = signal('');
  protected readonly all = computed(() => [...this.state.kinds().values()].map((kind) => ({ ...kind, family: kind.group })));
  protected readonly onShelf = computed(() => {
    const shelf = this.shelf();
    if (shelf === 'all') return this.all();
    return this.all().filter(({ id }) => (shelf === 'favourites' ? this.favourites.ids().has(`thing:${id}`) : this.isKept(id)));
  });
  private readonly chosen = computed(() => this.state.setting()?.kind.id);
  protected readonly isChosen = (id: string): boolean => this.chosen() === id;

  protected readonly isKept = (id: string): boolean => this.own().some((kind) => kind.id === id);

  /** A file becomes a thing of the group that is looked at, else furniture. */
  protected async bring(file: File): Promise<void> {
    this.said.set(`${file.name} is being read …`);
    this.said.set(await this.library.read(file, (this.group() || 'furniture') as ThingGroup));
  }

  protected async take(id: string): Promise<void> {
    this.said.set((await this.library.bring(id)) ?? '');
  }

  protected choose(id: string): void {
    const kind = this.state.kinds().get(id)!;
    if (this.chosen() === id) {
      this.state.end();
      return;
    }
    const before = this.state.setting();
    const pattern = before && isPlanting(before.kind) === isPlanting(kind) ? before.pattern : 'one';
    this.state.choose({ kind, pattern, size: 1, ...BEGINNINGS[kind.group] });
  }
}
