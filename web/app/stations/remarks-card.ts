import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import * as v from 'valibot';
import { entry } from '../../../core/project/project';
import { REMARK_STATES, remarkSchema, type Remark } from '../../../core/project/remark';
import type { BcfVersion } from '../../../core/formats/bcf';
import { Icon } from '../sheet/icon';
import { saveFile } from '../sheet/save-file';
import { Live } from '../state/live';
import { PictureState, type Pointed } from '../state/picture-state';
import { ViewThumbnails } from '../state/view-thumbnails';
import { cameraOf, type ViewRow } from '../state/views';

const MOST_BYTES = 200e6;
const remarksFile = v.object({ remarks: v.pipe(v.array(remarkSchema), v.maxLength(5000)) });

/** What people have to say of places and views: from here, from viewers, and from other programs. */
@Component({
  selector: 'dp-remarks-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    <h2>Remarks</h2>
    @for (remark of remarks(); track remark.id; let i = $index) {
      <div class="remark" data-testid="remark" [attr.data-status]="remark.status">
        <span class="mono quiet">{{ i + 1 }}</span>
        <button type="button" class="plain text-start" (click)="go(remark)">{{ remark.text }}<small class="quiet">{{ about(remark) }}</small></button>
        <select class="form-select form-select-sm" [attr.aria-label]="'State of remark ' + (i + 1)" (change)="set(remark, $any($event.target).value)">
          @for (state of states; track state) {
            <option [value]="state" [selected]="state === remark.status">{{ state }}</option>
          }
        </select>
        <button type="button" class="plain" [attr.aria-label]="'Drop remark ' + (i + 1)" (click)="drop(remark)"><dp-icon name="remove" /></button>
      </div>
    } @empty {
      <p class="quiet mb-1">Nobody has said anything yet. Remarks from a viewer’s link come here by themselves.</p>
    }
    <form class="write" (submit)="$event.preventDefault(); add(text.value, author.value) && (text.value = '')">
      <textarea #text class="form-control form-control-sm" rows="2" maxlength="4000" aria-label="Remark" placeholder="What is to be said here" data-testid="remark-text"></textarea>
      <input #author class="form-control form-control-sm" maxlength="200" placeholder="Your name" aria-label="Your name" />
      <span class="actions">
        <button type="button" class="link" data-testid="remark-place" [attr.aria-pressed]="picks()" (click)="pick()">{{ place() ? 'at the place clicked' : 'at a place …' }}</button>
        <button type="submit" class="btn btn-sm btn-outline-dark" data-testid="remark-keep">Keep the remark</button>
      </span>
    </form>
    <div class="actions">
      <button type="button" class="link" data-testid="bcf-3" (click)="save('3.0')" [disabled]="remarks().length === 0">Save as BCF 3.0</button>
      <button type="button" class="link" data-testid="bcf-2" (click)="save('2.1')" [disabled]="remarks().length === 0">BCF 2.1</button>
      <label class="link file">Bring in a file<input type="file" class="visually-hidden" accept=".bcf,.bcfzip,.json" data-testid="remarks-file" (change)="bring($event)" /></label>
    </div>
    @if (said()) {
      <p class="quiet mb-0" role="status">{{ said() }}</p>
    }
  `,
  styleUrl: './station.scss',
  styles: `
    .remark {
      display: grid;
      grid-template-columns: auto minmax(0, 1fr) 92px auto;
      gap: 8px;
      align-items: center;
      padding: 4px 0;
      border-bottom: 1px solid var(--rule);
      font-size: 0.875rem;
    }
    .remark[data-status='done'] .plain {
      text-decoration: line-through;
    }
    small {
      display: block;
    }
    .write {
      display: grid;
      gap: 6px;
      margin-top: 8px;
    }
    .file {
      cursor: pointer;
    }
    .file:focus-within {
      outline: 2px solid var(--in-step);
    }
    .actions {
      font-size: 0.8125rem;
      align-items: center;
    }
  `,
}) // prettier-ignore
export class RemarksCard {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private readonly thumbnails = inject(ViewThumbnails);
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  protected readonly states = REMARK_STATES;
  protected readonly picks = signal(false);
  protected readonly place = signal<Pointed | undefined>(undefined);
  protected readonly said = signal('');
  protected readonly remarks = computed(() =>
    [...this.entries()]
      .filter(([key]) => key.startsWith('remark/'))
      .map(([, remark]) => remark as Remark)
      .sort((a, b) => a.at.localeCompare(b.at)),
  );
  private readonly taker = (pointed: Pointed) => {
    this.stopPicking();
    this.place.set(pointed);
  };

  constructor() {
    const shown = this.live.entries$.subscribe(() => {
      const marks = this.remarks().flatMap(({ id, place }, i) => (place ? [{ id, place, label: String(i + 1), current: false }] : []));
      this.picture.marks$.next(marks);
    });
    inject(DestroyRef).onDestroy(() => {
      shown.unsubscribe();
      this.stopPicking();
      this.picture.marks$.next([]);
    });
  }

  protected about({ author, at, look }: Remark): string {
    return [author, at.slice(0, 10), look].filter(Boolean).join(', ');
  }

  protected go({ camera, text }: Remark): void {
    this.picture.goTo$.next({ camera, name: text.slice(0, 40) });
  }

  protected pick(): void {
    if (this.picks()) {
      this.stopPicking();
      return;
    }
    this.picks.set(true);
    this.picture.pointTaker$.next(this.taker);
  }

  private stopPicking(): void {
    this.picks.set(false);
    if (this.picture.pointTaker$.value === this.taker) this.picture.pointTaker$.next(undefined);
  }

  protected add(said: string, author: string): boolean {
    const text = said.trim();
    if (!text) return false;
    const at = this.place();
    this.keep({
      id: crypto.randomUUID(),
      text,
      author: author.trim(),
      at: new Date().toISOString(),
      status: 'open',
      camera: cameraOf(this.picture.camera$.value),
      ...(at && { place: [...at.point], element: { source: at.source, id: at.element } }),
    });
    this.place.set(undefined);
    return true;
  }

  private keep(remark: Remark): void {
    this.live.run({ type: 'keep-remark', remark });
  }

  protected set(remark: Remark, status: Remark['status']): void {
    this.keep({ ...remark, status });
  }

  protected drop({ id }: Remark): void {
    this.live.run({ type: 'drop-remark', id });
  }

  /** With small pictures of what each is of. */
  protected async save(version: BcfVersion): Promise<void> {
    this.said.set('The pictures of the remarks are being made …');
    const rows = this.remarks().map(({ id, text, camera }): ViewRow => ({ id, name: text, kept: true, ...camera }));
    const pictures = await this.thumbnails.allOf(rows);
    const snapshots = new Map(await Promise.all([...pictures].map(async ([id, address]) => [id, await pngOf(address)] as const)));
    const sections = this.picture.sections$.value.flatMap((id) => entry(this.entries(), `section/${id}`) ?? []);
    const { writeBcf } = await import('../../../core/formats/bcf');
    const bytes = writeBcf({ version, project: this.live.project$.value?.name ?? 'Project', remarks: this.remarks(), snapshots, sections });
    saveFile(`Remarks ${version}.bcf`, 'application/zip', bytes);
    this.said.set(`${String(this.remarks().length)} remarks saved as BCF ${version}.`);
  }

  protected async bring(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    const read = file.size > MOST_BYTES ? 'This file is too large to be one of remarks.' : await remarksIn(file);
    if (typeof read === 'string') {
      this.said.set(read);
      return;
    }
    for (const remark of read) this.keep(remark);
    this.said.set(`${String(read.length)} remarks from ${file.name}.`);
  }
}

/** Of a BCF file, or of one that a viewer has saved. */
async function remarksIn(file: File): Promise<readonly Remark[] | string> {
  if (file.name.endsWith('.json')) {
    try {
      const read = v.safeParse(remarksFile, JSON.parse(await file.text()));
      return read.success ? read.output.remarks : 'This file holds no remarks of a viewer.';
    } catch {
      return 'This file holds no remarks of a viewer.';
    }
  }
  const { readBcf } = await import('../../../core/formats/bcf');
  return readBcf(new Uint8Array(await file.arrayBuffer()));
}

/** A picture at some address as the bytes of a PNG. */
async function pngOf(address: string): Promise<Uint8Array> {
  const image = new Image();
  image.src = address;
  await image.decode();
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [image.naturalWidth, image.naturalHeight];
  canvas.getContext('2d')!.drawImage(image, 0, 0);
  const blob = await new Promise<Blob | null>((resolve) => {
    canvas.toBlob(resolve, 'image/png');
  });
  return new Uint8Array(blob ? await blob.arrayBuffer() : new ArrayBuffer());
}
