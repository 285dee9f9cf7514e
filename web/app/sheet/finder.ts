import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, output, signal, viewChild } from '@angular/core';
import { Findables, matching, type Findable } from '../state/findable';

const MOST_SHOWN = 40;

/** One field over everything that has a name: what is chosen is done or shown. */
@Component({
  selector: 'dp-finder',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <dialog #dialog data-testid="finder" aria-label="Find and do">
      <input
        #field
        class="form-control"
        type="search"
        role="combobox"
        aria-expanded="true"
        aria-controls="found"
        [attr.aria-activedescendant]="'found-' + at()"
        placeholder="A view, a finish, an element, something to do …"
        aria-label="Find by name"
        [value]="typed()"
        (input)="type(field.value)"
        (keydown)="key($event)"
      />
      <ul id="found" role="listbox" aria-label="Found">
        @for (one of found(); track $index) {
          <li [id]="'found-' + $index" role="option" [attr.aria-selected]="$index === at()" (click)="choose(one)">
            <span class="text-truncate">{{ one.name }}</span> <span class="quiet">{{ one.kind }}{{ one.about ? ', ' + one.about : '' }}</span>
          </li>
        } @empty {
          <li class="quiet">Nothing has such a name.</li>
        }
      </ul>
    </dialog>
  `,
  styles: `
    dialog {
      width: min(560px, 92vw);
      margin: 12vh auto auto;
      padding: 10px;
      border: 1px solid var(--ink);
      background: var(--paper-raised);
      color: var(--ink);
    }
    dialog::backdrop {
      background: #22303a55;
    }
    ul {
      list-style: none;
      margin: 8px 0 0;
      padding: 0;
      max-height: 46vh;
      overflow-y: auto;
    }
    li {
      display: flex;
      justify-content: space-between;
      gap: 14px;
      padding: 5px 8px;
      cursor: pointer;
    }
    li[aria-selected='true'] {
      background: var(--rule);
    }
    li[aria-selected='true'] .quiet {
      color: var(--ink);
    }
    .quiet {
      font-size: 0.8125rem;
      white-space: nowrap;
    }
  `,
}) // prettier-ignore
export class Finder {
  private readonly findables = inject(Findables);
  private readonly dialog = viewChild.required<ElementRef<HTMLDialogElement>>('dialog');
  readonly opened = output<string>();
  private readonly all = signal<readonly Findable[]>([]);
  /** Until all is known that there is. */
  private knowing: Promise<void> = Promise.resolve();
  protected readonly typed = signal('');
  protected readonly at = signal(0);
  protected readonly found = computed(() => matching(this.all(), this.typed(), MOST_SHOWN));

  async show(): Promise<void> {
    this.dialog().nativeElement.showModal();
    this.type('');
    this.knowing = this.findables.all((station) => { this.opened.emit(station); }).then((all) => { this.all.set(all); }); // prettier-ignore
    await this.knowing;
  }

  protected type(text: string): void {
    this.typed.set(text);
    this.at.set(0);
  }

  protected key(event: KeyboardEvent): void {
    // A field of this kind would only be emptied at first.
    if (event.key === 'Escape') this.dialog().nativeElement.close();
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key] ?? 0;
    const count = this.found().length;
    if (step && count > 0) {
      event.preventDefault();
      this.at.set((this.at() + step + count) % count);
      document.getElementById(`found-${String(this.at())}`)?.scrollIntoView({ block: 'nearest' });
    }
    if (event.key !== 'Enter') return;
    // What has the focus once the dialog is closed must not be pressed by the same key.
    event.preventDefault();
    void this.knowing.then(() => {
      const one = this.found()[this.at()];
      if (one) this.choose(one);
    });
  }

  protected choose(one: Findable): void {
    this.dialog().nativeElement.close();
    one.act();
  }
}
