import { ChangeDetectionStrategy, Component, input, model } from '@angular/core';
import type { LibraryQuery } from '../../../core/finish/search';

/** Tags that are asked for, and tags that are left out. */
export type Tagged = ReadonlyMap<string, 'with' | 'without'>;

export function tagsAsked(tagged: Tagged): Pick<LibraryQuery, 'required' | 'excluded'> {
  const those = (how: 'with' | 'without') => new Set([...tagged].filter(([, h]) => h === how).map(([tag]) => tag));
  return { required: those('with'), excluded: those('without') };
}

/** The tags of a library: one press asks for a tag, the next leaves it out, the third forgets it. */
@Component({
  selector: 'dp-tag-filter',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (tag of tags(); track tag) {
      <button
        type="button"
        class="plain tag"
        [class.with]="tagged().get(tag) === 'with'"
        [class.without]="tagged().get(tag) === 'without'"
        [attr.aria-label]="words(tag)"
        [attr.data-tag]="tag"
        (click)="turn(tag)"
      >
        {{ tag }}
      </button>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    .tag {
      min-height: 26px;
      min-width: 26px;
      border-bottom: 1px solid var(--rule);
    }
    .with {
      border-bottom: 2px solid var(--ink);
      font-weight: 600;
    }
    .without {
      color: var(--ink-quiet);
      text-decoration: line-through;
    }
  `,
})
export class TagFilter {
  readonly tags = input.required<readonly string[]>();
  readonly tagged = model<Tagged>(new Map());

  protected turn(tag: string): void {
    const next = new Map(this.tagged());
    if (!next.has(tag)) next.set(tag, 'with');
    else if (next.get(tag) === 'with') next.set(tag, 'without');
    else next.delete(tag);
    this.tagged.set(next);
  }

  protected words(tag: string): string {
    const how = this.tagged().get(tag);
    return how === 'with' ? `${tag}: asked for` : how === 'without' ? `${tag}: left out` : tag;
  }
}
