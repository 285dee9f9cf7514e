import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FAMILIES, type Finish, ownFinish } from '../../../core/finish/finish';
import { FINISHES, type LibraryItem } from '../../../core/finish/library';
import { zipSync } from 'fflate';
import { PhotoCard } from '../photo/photo-card';
import { LibraryShelf } from '../sheet/library-shelf';
import { Swatch } from '../sheet/swatch';
import { Favourites } from '../state/favourites';
import { Live } from '../state/live';
import { PersonalLibrary } from '../state/personal-library';
import { PictureState } from '../state/picture-state';
import { PreviewQueue } from '../state/previews';
import { ScheduleState } from '../state/schedule-state';
import type * as v from 'valibot';
import { finishesRead, mapSetRead } from '../../../core/project/answers';
import { ask, bytes, faultOf } from '../state/ask';

const UNSENT = 'The picture could not be sent.';

const SHELVES = ['all', 'used here', 'recent', 'favourites', 'my library'] as const;
type Shelf = (typeof SHELVES)[number];

type TakenMapSet = v.InferOutput<typeof mapSetRead>;

const isPictureIn =
  (folder: string) =>
  ({ name, webkitRelativePath }: File): boolean =>
    webkitRelativePath === `${folder}/${name}` && /\.(jpe?g|png|webp|tiff?)$/i.test(name);

/** Files as one zip, unpacked pictures being packed already; a single zip as it is. */
async function zipOf(files: readonly File[]): Promise<Blob> {
  if (files.length === 1) return files[0]!;
  const entries = await Promise.all(files.map(async (file) => [file.name, new Uint8Array(await file.arrayBuffer())] as const));
  return new Blob([zipSync(Object.fromEntries(entries), { level: 0 })]);
}

/** The finishes that there are: found by words, families and tags, given by a press or by dragging. */
@Component({
  selector: 'dp-library-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [LibraryShelf, PhotoCard, Swatch],
  templateUrl: './library-list.html',
  styleUrls: ['./station.scss', '../sheet/library-shelf.scss'],
})
export class LibraryList {
  protected readonly state = inject(ScheduleState);
  protected readonly favourites = inject(Favourites);
  protected readonly library = inject(PersonalLibrary);
  private readonly previews = toSignal(inject(PreviewQueue).progress$, { initialValue: { made: 0, of: 0 } });
  protected readonly previewsToCome = computed(() => {
    const { made, of } = this.previews();
    return made < of ? `, previews made: ${String(made)} of ${String(of)}` : '';
  });
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  protected readonly hasOwn = computed(() => this.state.finishes().some((f) => !FINISHES.includes(f)));
  protected readonly search = signal('');
  protected readonly families = FAMILIES.filter((family) => family !== 'plain');
  protected readonly family = signal('');
  protected readonly shelves = SHELVES;
  protected readonly shelf = signal<Shelf>('all');

  /** Used ones by area, recent ones newest first. */
  protected readonly onShelf = computed((): readonly Finish[] => {
    const all = this.state.finishes();
    const shelf = this.shelf();
    if (shelf === 'all') return all;
    if (shelf === 'favourites') return all.filter((f) => this.favourites.ids().has(f.id));
    const order = shelf === 'recent' ? this.recent() : this.used();
    return order.map((id) => all.find((f) => f.id === id)).filter((f) => f !== undefined);
  });
  private readonly used = computed(() => {
    const areas = new Map<string, number>();
    for (const { choice, areaM2 } of this.state.rows())
      if (choice.finish) areas.set(choice.finish.id, (areas.get(choice.finish.id) ?? 0) + areaM2);
    for (const [key, value] of this.state.entries())
      if (key.startsWith('element/')) areas.set((value as { finish: string }).finish, areas.get((value as { finish: string }).finish) ?? 0);
    return [...areas].sort((a, b) => b[1] - a[1]).map(([id]) => id);
  });
  private readonly recent = computed(() => {
    const given = [...this.state.entries()]
      .filter(([key]) => key.startsWith('assign/') || key.startsWith('element/'))
      .map(([, value]) => value as { finish: string; at: string });
    return [...new Set(given.sort((a, b) => (a.at < b.at ? 1 : -1)).map((g) => g.finish))];
  });

  /** Of the person's library, by the words that are searched for and the family. */
  protected readonly inLibrary = computed(() => {
    const words = this.search().toLowerCase().split(/\s+/).filter((word) => word && !word.startsWith('-')); // prettier-ignore
    const text = ({ name, family, tags }: LibraryItem) => [name, family, ...tags].join(' ').toLowerCase();
    return this.library
      .items()
      .filter((item) => (!this.family() || item.family === this.family()) && words.every((word) => text(item).includes(word)));
  });

  protected readonly counted = computed(() => this.shelf() === 'my library' ? `${String(this.inLibrary().length)} of ${String(this.library.items().length)} in my library` : undefined); // prettier-ignore
  protected readonly recipients = computed(() => {
    const rows = this.state.recipients();
    const [first] = rows;
    return rows.length > 1 ? `${String(rows.length)} rows` : first && (first.name.slice(0, 80) || first.material);
  });

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.state.endPreview();
    });
  }

  protected readonly photo = signal<{ name: string; png: Blob; remark: string } | undefined>(undefined);
  protected readonly photoSaid = signal('');

  /** Whether what is said is of a map set that was taken. */
  protected readonly mapsTaken = signal(false);

  /** One picture is a photograph; several, a folder of them, or a zip, are a map set. */
  protected async readPictures(input: HTMLInputElement): Promise<void> {
    const given = [...(input.files ?? [])];
    input.value = '';
    const folder = given[0]?.webkitRelativePath.split('/')[0];
    const files = folder ? given.filter(isPictureIn(folder)) : given;
    const [first] = files;
    this.photoSaid.set('');
    this.mapsTaken.set(false);
    if (!first) {
      if (folder) this.photoSaid.set(`${folder} holds no pictures: JPEG, PNG, WebP and TIFF are read.`);
      return;
    }
    const single = files.length === 1 && !/\.zip$/i.test(first.name);
    if (single) await this.takePhotograph(first);
    else {
      const asked = await ask(mapSetRead, `/api/map-sets/pictures?name=${encodeURIComponent(first.name)}`, bytes(await zipOf(files)));
      if ('answer' in asked) this.makeOf(folder || first.name, asked.answer);
      else this.photoSaid.set(asked.fault ?? UNSENT);
    }
  }

  private async takePhotograph(file: File): Promise<void> {
    const response = await fetch(`/api/photograph?name=${encodeURIComponent(file.name)}`, bytes(file)).catch(() => undefined);
    if (response?.ok) {
      const remark = decodeURIComponent(response.headers.get('Diaphane-Remark') ?? '');
      this.photo.set({ name: file.name, png: await response.blob(), remark });
    } else this.photoSaid.set((await faultOf(response)) ?? UNSENT);
  }

  /** Finishes that another project gave out as a zip. */
  protected async bringIn(input: HTMLInputElement): Promise<void> {
    const file = input.files?.[0];
    if (!file) return;
    input.value = '';
    const asked = await ask(finishesRead, `/api/own-finishes?name=${encodeURIComponent(file.name)}`, bytes(file));
    this.mapsTaken.set('answer' in asked);
    if ('answer' in asked) {
      const { finishes } = asked.answer;
      this.live.run({ type: 'make-finishes', finishes, on: [] });
      this.photoSaid.set(`Brought in: ${finishes.map((f) => f.name).join(', ').slice(0, 300)}.`); // prettier-ignore
    } else this.photoSaid.set(asked.fault ?? 'The file could not be sent.');
  }

  protected async keepOwn(): Promise<void> {
    this.say(await this.library.keepOwn());
  }

  protected async bringFromLibrary(item: LibraryItem): Promise<void> {
    const brought = await this.library.bring(item.id);
    if ('finishes' in brought) this.live.run({ type: 'make-finishes', finishes: brought.finishes, on: this.state.recipients().map(({ source, material }) => ({ source, material })) }); // prettier-ignore
    this.say('finishes' in brought ? { said: `${item.name.slice(0, 200)} is in the project now.` } : brought);
  }

  private say(what: { said: string } | { fault: string }): void {
    this.mapsTaken.set('said' in what);
    this.photoSaid.set('said' in what ? what.said : what.fault);
  }

  private makeOf(file: string, { maps, widthM, heightM, metalness, remark }: TakenMapSet): void {
    const name = file.replace(/\.\w+$/, '').slice(0, 200) || 'Map set';
    this.state.make({
      ...ownFinish(name, FAMILIES.find((family) => family === this.family()) ?? 'stone', maps, widthM, heightM),
      metalness,
      tags: ['map-set'],
    });
    this.mapsTaken.set(true);
    this.photoSaid.set(
      `${name}: ${remark} Its size is set to ${(widthM * 1000).toFixed(0)} × ${(heightM * 1000).toFixed(0)} mm until you say otherwise.`,
    );
  }

  protected chooseShelf(value: string): void {
    this.shelf.set(SHELVES.find((shelf) => shelf === value) ?? 'all');
    if (this.shelf() === 'my library') void this.library.read();
  }

  protected readonly isAssigned = (finish: string): boolean => {
    const rows = this.state.recipients();
    return rows.length > 0 && rows.every((row) => row.choice.finish?.id === finish);
  };

  protected hold(finish: string | undefined): void {
    if (finish === undefined) this.state.endPreview();
    else this.state.preview(finish);
  }

  protected give(finish: string): void {
    this.state.assign(this.state.recipients(), finish);
  }

  protected dragStart(event: DragEvent, finish: string): void {
    this.state.endPreview();
    event.dataTransfer?.setData('text/plain', finish);
    if (event.dataTransfer) event.dataTransfer.effectAllowed = 'copy';
    this.picture.dragged$.next(finish);
  }

  protected dragEnd(): void {
    // Escape and a drop elsewhere end here too: what was shown is taken back by the picture's own dragleave or by this.
    this.picture.dragged$.next(undefined);
    this.state.endPreview();
  }
}
